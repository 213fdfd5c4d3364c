/** Solids of known shape as triangles by face, for tests. */
import { solidBody, type FaceRange, type SolidBody } from '../look/body.js';

type Corner = readonly [number, number, number];

class Builder {
  private readonly positions: number[] = [];
  private readonly indices: number[] = [];
  private readonly faces: FaceRange[] = [];

  face(triangles: readonly (readonly [Corner, Corner, Corner])[]): void {
    const first = this.indices.length / 3;
    for (const corners of triangles)
      for (const corner of corners) {
        this.indices.push(this.positions.length / 3);
        this.positions.push(...corner);
      }
    this.faces.push({ first, last: this.indices.length / 3 - 1 });
  }

  body(deflectionMm: number): SolidBody {
    return solidBody({
      ...{ positions: new Float32Array(this.positions), indices: new Uint32Array(this.indices) },
      ...{ faces: this.faces, deflectionMm },
    });
  }
}

/** Bottom, top, then a side for each edge. @param outline counter-clockwise, seen whole from its first corner */
export function prism(outline: readonly (readonly [number, number])[], height: number): SolidBody {
  const build = new Builder();
  const corner = (at: number, z: number): Corner => {
    const [x, y] = outline[at % outline.length] ?? [0, 0];
    return [x, y, z];
  };
  const fan = outline.slice(2).map((_, at) => [0, at + 1, at + 2] as const);
  build.face(fan.map(([a, b, c]) => [corner(a, 0), corner(c, 0), corner(b, 0)]));
  build.face(fan.map(([a, b, c]) => [corner(a, height), corner(b, height), corner(c, height)]));
  outline.forEach((_, at) =>
    build.face([
      [corner(at, 0), corner(at + 1, 0), corner(at + 1, height)],
      [corner(at, 0), corner(at + 1, height), corner(at, height)],
    ]),
  );
  return build.body(1e-6);
}

/** The mantle first; its triangles look inwards where it is a hole, which has no ends. @param degrees of the mantle */
export function cylinder(
  radius: number,
  height: number,
  steps: number,
  deflectionMm = 1e-6,
  isHole = false,
  degrees = 360,
): SolidBody {
  const build = new Builder();
  const corner = (at: number, z: number): Corner => {
    const angle = ((at === steps && degrees === 360 ? 0 : at) * degrees * Math.PI) / 180 / steps;
    return [radius * Math.cos(angle), radius * Math.sin(angle), z];
  };
  const turns = Array.from({ length: steps }, (_, at) => at);
  build.face(
    turns.flatMap((at): [Corner, Corner, Corner][] => {
      const [a, b, c, d] = [corner(at, 0), corner(at + 1, 0), corner(at + 1, height), corner(at, height)];
      return isHole ? [[a, c, b], [a, d, c]] : [[a, b, c], [a, c, d]]; // prettier-ignore
    }),
  );
  if (!isHole && degrees === 360) {
    build.face(turns.map((at) => [[0, 0, 0], corner(at + 1, 0), corner(at, 0)]));
    build.face(turns.map((at) => [[0, 0, height], corner(at, height), corner(at + 1, height)]));
  }
  return build.body(deflectionMm);
}

export function sphere(radius: number): SolidBody {
  const build = new Builder();
  const STEPS = 16;
  const corner = (around: number, up: number): Corner => {
    const [a, b] = [(around * 2 * Math.PI) / STEPS, (up * Math.PI) / STEPS];
    return [radius * Math.sin(b) * Math.cos(a), radius * Math.sin(b) * Math.sin(a), radius * Math.cos(b)];
  };
  const triangles: [Corner, Corner, Corner][] = [];
  for (let around = 0; around < STEPS; around++)
    for (let up = 0; up < STEPS; up++) {
      const [a, b] = [corner(around, up), corner(around, up + 1)];
      const [c, d] = [corner(around + 1, up + 1), corner(around + 1, up)];
      triangles.push([a, b, c], [a, c, d]);
    }
  build.face(triangles);
  return build.body(1e-6);
}
