/** What closes the bodies that a section cuts: their outlines, filled and hatched. */
import { frameOf, type Outline, type SectionPlane, type SectionPoint } from '@stem-trace/core/look';
import {
  BufferGeometry,
  CanvasTexture,
  type Color,
  DoubleSide,
  Float32BufferAttribute,
  Group,
  LineBasicMaterial,
  LineLoop,
  Mesh,
  MeshBasicMaterial,
  type Plane,
  RepeatWrapping,
  ShapeUtils,
  Vector2,
  Vector3,
} from 'three';

export interface Caps {
  readonly group: Group;
  end(): void;
}

/** Distance of the lines of the hatch, as a share of what is cut. */
const LINES_ACROSS = 40;

interface CapsOptions {
  readonly colourOf: (of: number) => Color;
  /** Other planes that cut, which cut these too. */
  readonly clips: Plane[];
}

/** Each outline in the colour of its body. */
export function capsOf(
  outlines: readonly Outline[],
  plane: SectionPlane,
  { colourOf, clips }: CapsOptions,
): Caps {
  const group = new Group();
  const place = placing(plane);
  const pitch = extent(outlines) / LINES_ACROSS || 1;
  const texture = hatch();
  const ink = new LineBasicMaterial({ color: 0x1d2a31, clippingPlanes: clips });
  const ended: { dispose(): void }[] = [texture, ink];
  for (const { of, rings } of outlines) {
    const material = new MeshBasicMaterial({
      ...{ color: colourOf(of).clone().multiplyScalar(0.9), map: texture, side: DoubleSide },
      clippingPlanes: clips,
    });
    ended.push(material);
    for (const { contour, holes } of nested(rings)) {
      const geometry = filled(contour, holes, { place, pitch });
      group.add(new Mesh(geometry, material));
      ended.push(geometry);
    }
    for (const ring of rings) {
      const geometry = new BufferGeometry().setFromPoints(ring.map(place));
      group.add(new LineLoop(geometry, ink));
      ended.push(geometry);
    }
  }
  return {
    group,
    end: () => {
      group.removeFromParent();
      for (const each of ended) each.dispose();
    },
  };
}

/** From the frame of the section to what is drawn: metres, y up. */
function placing(plane: SectionPlane): (point: SectionPoint) => Vector3 {
  const { right, up } = frameOf(plane);
  return ([x, y]) => {
    const at = new Vector3(...plane.point)
      .addScaledVector(new Vector3(...right), x)
      .addScaledVector(new Vector3(...up), y);
    return new Vector3(at.x, at.z, -at.y).divideScalar(1000);
  };
}

function extent(outlines: readonly Outline[]): number {
  const [low, high] = [new Vector2(Infinity, Infinity), new Vector2(-Infinity, -Infinity)];
  for (const { rings } of outlines)
    for (const ring of rings)
      for (const [x, y] of ring) {
        low.min(new Vector2(x, y));
        high.max(new Vector2(x, y));
      }
  return low.x > high.x ? 0 : high.sub(low).length();
}

interface Nested {
  readonly contour: readonly SectionPoint[];
  readonly holes: (readonly SectionPoint[])[];
}

/** Holes with the ring that they lie in, the smallest of those. */
export function nested(rings: readonly (readonly SectionPoint[])[]): Nested[] {
  const area = (ring: readonly SectionPoint[]): number =>
    ShapeUtils.area(ring.map(([x, y]) => new Vector2(x, y)));
  const outer = rings
    .filter((ring) => area(ring) > 0)
    .map((contour): Nested => ({ contour, holes: [] }))
    .sort((a, b) => area(a.contour) - area(b.contour));
  for (const ring of rings) {
    const [point] = ring;
    if (area(ring) >= 0 || !point) continue;
    outer.find(({ contour }) => isIn(point, contour))?.holes.push(ring);
  }
  return outer;
}

/** By the crossings of a ray to the right. */
function isIn([x, y]: SectionPoint, ring: readonly SectionPoint[]): boolean {
  return ring.reduce((isInside, [ax, ay], at) => {
    const [bx, by] = ring[(at + 1) % ring.length] ?? [ax, ay];
    const isCrossed = ay > y !== by > y && x < ((bx - ax) * (y - ay)) / (by - ay) + ax;
    return isCrossed ? !isInside : isInside;
  }, false);
}

function filled(
  contour: readonly SectionPoint[],
  holes: readonly (readonly SectionPoint[])[],
  { place, pitch }: { readonly place: (point: SectionPoint) => Vector3; readonly pitch: number },
): BufferGeometry {
  const flat = (ring: readonly SectionPoint[]): Vector2[] => ring.map(([x, y]) => new Vector2(x, y));
  const triangles = ShapeUtils.triangulateShape(flat(contour), holes.map(flat));
  const points = [contour, ...holes].flat();
  const geometry = new BufferGeometry().setFromPoints(points.map(place));
  geometry.setAttribute(
    'uv',
    new Float32BufferAttribute(
      points.flatMap(([x, y]) => [x / pitch / 4, y / pitch / 4]),
      2,
    ),
  );
  return geometry.setIndex(triangles.flat());
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
