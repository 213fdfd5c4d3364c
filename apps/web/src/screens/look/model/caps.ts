/** What closes the bodies that a section cuts, filled and hatched. */
import { frameOf, type FilledSection, type SectionPlane } from '@stem-trace/core/look';
import {
  BufferAttribute,
  BufferGeometry,
  CanvasTexture,
  type Color,
  DoubleSide,
  Group,
  LineBasicMaterial,
  LineSegments,
  Mesh,
  MeshBasicMaterial,
  type Plane,
  RepeatWrapping,
  Vector3,
} from 'three';

export interface Caps {
  readonly group: Group;
  end(): void;
}

/** Distance of the lines of the hatch, as a share of what is cut. */
const LINES_ACROSS = 40;
/** A little darker than the body outside. */
const SHADE = 0.9;

interface CapsOptions {
  readonly colourOf: (of: number) => Color;
  /** Other planes that cut, which cut these too. */
  readonly clips: Plane[];
}

/** Each body in its colour; one object however many there are. */
export function capsOf(
  { corners, of, triangles, lines }: FilledSection,
  plane: SectionPlane,
  { colourOf, clips }: CapsOptions,
): Caps {
  const place = placing(plane);
  const pitch = extent(corners) / LINES_ACROSS || 1;
  const texture = hatch();
  const ink = new LineBasicMaterial({ color: 0x1d2a31, clippingPlanes: clips });
  const fill = new MeshBasicMaterial({
    ...{ vertexColors: true, map: texture, side: DoubleSide, clippingPlanes: clips },
  });
  const filled = new BufferGeometry();
  filled.setAttribute('position', new BufferAttribute(placed(corners, place), 3));
  filled.setAttribute(
    'uv',
    new BufferAttribute(
      corners.map((each) => each / pitch / 4),
      2,
    ),
  );
  filled.setAttribute('color', new BufferAttribute(colours(of, colourOf), 3));
  filled.setIndex(new BufferAttribute(triangles, 1));
  const outline = new BufferGeometry();
  outline.setAttribute('position', new BufferAttribute(placed(lines, place), 3));
  const group = new Group();
  group.add(new Mesh(filled, fill), new LineSegments(outline, ink));
  return {
    group,
    end: () => {
      group.removeFromParent();
      for (const each of [texture, ink, fill, filled, outline]) each.dispose();
    },
  };
}

function placed(flat: Float32Array, place: (x: number, y: number) => Vector3): Float32Array<ArrayBuffer> {
  const positions = new Float32Array((flat.length / 2) * 3);
  for (let at = 0; at * 2 < flat.length; at++)
    place(flat[at * 2] ?? 0, flat[at * 2 + 1] ?? 0).toArray(positions, at * 3);
  return positions;
}

function colours(of: Uint32Array, colourOf: (of: number) => Color): Float32Array<ArrayBuffer> {
  const rgb = new Float32Array(of.length * 3);
  const known = new Map<number, Color>();
  of.forEach((body, at) => {
    const colour = known.get(body) ?? colourOf(body).clone().multiplyScalar(SHADE);
    known.set(body, colour);
    colour.toArray(rgb, at * 3);
  });
  return rgb;
}

/** From the frame of the section to what is drawn: metres, y up. */
function placing(plane: SectionPlane): (x: number, y: number) => Vector3 {
  const { right, up } = frameOf(plane);
  return (x, y) => {
    const at = new Vector3(...plane.point)
      .addScaledVector(new Vector3(...right), x)
      .addScaledVector(new Vector3(...up), y);
    return new Vector3(at.x, at.z, -at.y).divideScalar(1000);
  };
}

/** Diagonal of what is cut, millimetres. */
function extent(corners: Float32Array): number {
  let [left, right, low, high] = [Infinity, -Infinity, Infinity, -Infinity];
  for (let at = 0; at + 1 < corners.length; at += 2) {
    const [x, y] = [corners[at] ?? 0, corners[at + 1] ?? 0];
    [left, right] = [Math.min(left, x), Math.max(right, x)];
    [low, high] = [Math.min(low, y), Math.max(high, y)];
  }
  return left > right ? 0 : Math.hypot(right - left, high - low);
}

/** Lines from the lower left to the upper right (ISO 128-50). */
function hatch(): CanvasTexture {
  const canvas = document.createElement('canvas');
  canvas.width = canvas.height = 64;
  const context = canvas.getContext('2d');
  if (context) {
    context.fillStyle = '#ffffff';
    context.fillRect(0, 0, 64, 64);
    context.strokeStyle = '#5c6a72';
    context.lineWidth = 3;
    for (let at = -64; at <= 64; at += 16) {
      context.moveTo(at, 64);
      context.lineTo(at + 64, 0);
    }
    context.stroke();
  }
  const texture = new CanvasTexture(canvas);
  texture.wrapS = texture.wrapT = RepeatWrapping;
  return texture;
}
