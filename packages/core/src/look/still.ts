/** A picture that stands still, drawn without a graphics card: for browsers that draw nothing in three dimensions. */
import type { Placement } from '../model/link.js';
import { Vector3 } from 'three';
import { matrixOf } from './body.js';
import type { Point } from './near.js';

/** Red, green and blue, 0 to 255. */
export type Tint = readonly [number, number, number];

/** What has one colour, where it stands. */
export interface StillPart {
  /** Millimetres, z up. */
  readonly positions: Float32Array;
  /** Three a triangle. */
  readonly indices: Uint32Array;
  readonly at: Placement;
  readonly tint: Tint;
  /** What is found again where it is seen; not negative. */
  readonly id: number;
}

export interface StillView {
  /** From which direction one looks, of any length. */
  readonly from: Point;
  /** What is up in the picture; not along `from`. */
  readonly up: Point;
  /** Pixels. */
  readonly width: number;
  readonly height: number;
}

export interface Still {
  /** Red, green, blue and how much it covers, row by row from the top; nothing where nothing is. */
  readonly pixels: Uint8ClampedArray<ArrayBuffer>;
  /** What is seen at each pixel; -1 where nothing is. */
  readonly ids: Int32Array;
  /** Pixels a millimetre. */
  readonly scale: number;
}

/** Of the picture, left free at each side. */
const MARGIN = 0.04;
/** Where the light comes from: right, up, towards whoever looks. */
const LIGHT = new Vector3(0.35, 0.5, 0.8).normalize();
/** What is dark still shows. */
const AMBIENT = 0.38;
/** Of the whole depth: a step that is drawn as an edge. */
const STEP = 0.02;
const EDGE: Tint = [40, 48, 54];

/**
 * Draws all parts in parallel, as large as they fit, the nearest over what lies behind it. `O(triangles + pixels drawn over)`.
 *
 * @returns a picture without anything where there is nothing to draw
 */
export function stillOf(parts: readonly StillPart[], { from, up, width, height }: StillView): Still {
  const towards = new Vector3(...from).normalize();
  const right = new Vector3(...up).cross(towards).normalize();
  const above = towards.clone().cross(right);
  const seen = parts.map((part) => ({ part, corners: seenFrom(part, [right, above, towards]) }));
  const [low, high] = boundsOf(seen.map(({ corners }) => corners));
  const size = high.map((most, axis) => most - (low[axis] ?? 0));
  const [wide = 0, tall = 0, deep = 0] = size;
  const room = 1 - 2 * MARGIN;
  const scale = Math.min((width * room) / Math.max(wide, 1e-9), (height * room) / Math.max(tall, 1e-9));
  const canvas = new Canvas(width, height);
  if (!Number.isFinite(wide)) return { pixels: canvas.pixels, ids: canvas.ids, scale: 1 };
  const [middleX, middleY] = [((low[0] ?? 0) + (high[0] ?? 0)) / 2, ((low[1] ?? 0) + (high[1] ?? 0)) / 2];
  for (const { part, corners } of seen) {
    for (let at = 0; at < corners.length; at += 3) {
      corners[at] = width / 2 + ((corners[at] ?? 0) - middleX) * scale;
      corners[at + 1] = height / 2 - ((corners[at + 1] ?? 0) - middleY) * scale;
      corners[at + 2] = (corners[at + 2] ?? 0) * scale;
    }
    canvas.draw(part, corners);
  }
  canvas.edges(Math.max(deep * scale * STEP, 1));
  return { pixels: canvas.pixels, ids: canvas.ids, scale };
}

/** Corners as one sees them: right, up, towards whoever looks. */
function seenFrom({ positions, at }: StillPart, axes: readonly [Vector3, Vector3, Vector3]): Float64Array {
  const place = matrixOf(at);
  const corners = new Float64Array(positions.length);
  const corner = new Vector3();
  for (let each = 0; each + 2 < positions.length; each += 3) {
    corner.fromArray(positions, each).applyMatrix4(place);
    axes.forEach((axis, index) => (corners[each + index] = corner.dot(axis)));
  }
  return corners;
}

function boundsOf(all: readonly Float64Array[]): [low: number[], high: number[]] {
  const [low, high] = [
    [Infinity, Infinity, Infinity],
    [-Infinity, -Infinity, -Infinity],
  ];
  for (const corners of all)
    corners.forEach((value, at) => {
      low[at % 3] = Math.min(low[at % 3] ?? value, value);
      high[at % 3] = Math.max(high[at % 3] ?? value, value);
    });
  return [low, high];
}

class Canvas {
  readonly pixels: Uint8ClampedArray<ArrayBuffer>;
  readonly ids: Int32Array;
  private readonly depths: Float64Array;

  constructor(
    private readonly width: number,
    private readonly height: number,
  ) {
    this.pixels = new Uint8ClampedArray(width * height * 4);
    this.ids = new Int32Array(width * height).fill(-1);
    this.depths = new Float64Array(width * height).fill(-Infinity);
  }

  /** @param corners in pixels, those nearer to whoever looks with a larger third */
  draw({ indices, tint, id }: StillPart, corners: Float64Array): void {
    const [a, b, c] = [new Vector3(), new Vector3(), new Vector3()];
    const [across, side] = [new Vector3(), new Vector3()];
    for (let at = 0; at + 2 < indices.length; at += 3) {
      a.fromArray(corners, (indices[at] ?? 0) * 3);
      b.fromArray(corners, (indices[at + 1] ?? 0) * 3);
      c.fromArray(corners, (indices[at + 2] ?? 0) * 3);
      across.subVectors(b, a).cross(side.subVectors(c, a));
      const length = across.length();
      if (!(length > 0)) continue;
      // The picture has y downwards.
      const normal = across.set(across.x, -across.y, -across.z).divideScalar(length);
      if (normal.z < 0) normal.negate();
      const light = AMBIENT + (1 - AMBIENT) * Math.max(0, normal.dot(LIGHT));
      this.fill([a, b, c], { id, colour: tint.map((value) => value * light) as [number, number, number] });
    }
  }

  private fill(
    [a, b, c]: readonly [Vector3, Vector3, Vector3],
    { id, colour }: { readonly id: number; readonly colour: Tint },
  ): void {
    const area = (b.x - a.x) * (c.y - a.y) - (b.y - a.y) * (c.x - a.x);
    if (area === 0) return;
    const [left, right] = within(a.x, b.x, c.x, this.width);
    const [top, bottom] = within(a.y, b.y, c.y, this.height);
    for (let y = top; y <= bottom; y++)
      for (let x = left; x <= right; x++) {
        const [px, py] = [x + 0.5, y + 0.5];
        const ofB = ((px - a.x) * (c.y - a.y) - (py - a.y) * (c.x - a.x)) / area;
        const ofC = ((b.x - a.x) * (py - a.y) - (b.y - a.y) * (px - a.x)) / area;
        const ofA = 1 - ofB - ofC;
        if (ofA < 0 || ofB < 0 || ofC < 0) continue;
        const depth = ofA * a.z + ofB * b.z + ofC * c.z;
        const at = y * this.width + x;
        if (depth <= (this.depths[at] ?? Infinity)) continue;
        this.depths[at] = depth;
        this.ids[at] = id;
        this.paint(at, colour);
      }
  }

  /** Darkens where one thing ends before another, or falls by a step. @param step pixels */
  edges(step: number): void {
    const { width, height, ids, depths } = this;
    const isEdge = (at: number, other: number): boolean =>
      ids[at] !== ids[other] || Math.abs((depths[at] ?? 0) - (depths[other] ?? 0)) > step;
    for (let y = 0; y + 1 < height; y++)
      for (let x = 0; x + 1 < width; x++) {
        const at = y * width + x;
        for (const other of [at + 1, at + width]) {
          if (ids[at] === -1 && ids[other] === -1) continue;
          if (isEdge(at, other)) this.paint(ids[at] === -1 ? other : at, EDGE);
        }
      }
  }

  private paint(at: number, [red, green, blue]: Tint): void {
    this.pixels[at * 4] = red;
    this.pixels[at * 4 + 1] = green;
    this.pixels[at * 4 + 2] = blue;
    this.pixels[at * 4 + 3] = 255;
  }
}

/** The pixels that three spots may cover. */
function within(a: number, b: number, c: number, size: number): readonly [first: number, last: number] {
  return [
    Math.max(0, Math.floor(Math.min(a, b, c))),
    Math.min(size - 1, Math.ceil(Math.max(a, b, c))),
  ] as const;
}
