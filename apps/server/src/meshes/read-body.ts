import { solidBody, type FaceRange, type SolidBody } from '@stem-trace/core/look';
import { finePrimitives, readPacked } from '../jobs/packed-glb.js';

/** glTF has y up and metres; a body z up and millimetres, as the design has it (glTF 2.0, 3.4). */
const MM = 1000;

/** The body of a mesh that the kernel made, its faces with it; undefined where it holds no triangles. `O(bytes)` */
export async function readBody(glb: Uint8Array): Promise<SolidBody | undefined> {
  const root = (await readPacked(glb)).getRoot();
  const positions: number[] = [];
  const indices: number[] = [];
  const faces: FaceRange[] = [];
  for (const primitive of finePrimitives(root)) {
    const at = primitive.getAttribute('POSITION')?.getArray();
    const order = primitive.getIndices()?.getArray();
    if (!at || !order) continue;
    const corners = positions.length / 3;
    const triangles = indices.length / 3;
    for (let i = 0; i + 2 < at.length; i += 3)
      positions.push((at[i] ?? 0) * MM, -(at[i + 2] ?? 0) * MM, (at[i + 1] ?? 0) * MM);
    for (const index of order) indices.push(corners + index);
    for (const [first = 0, last = 0] of (primitive.getExtras().faces ?? []) as number[][])
      faces.push({ first: triangles + first, last: triangles + last });
  }
  if (indices.length === 0) return undefined;
  return solidBody({
    ...{ positions: new Float32Array(positions), indices: new Uint32Array(indices), faces },
    deflectionMm: Number(root.getExtras().deflectionMm) || 0,
  });
}
