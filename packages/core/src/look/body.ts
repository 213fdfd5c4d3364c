/** Geometry as it is looked at: triangles by face, in the frame of their file. */
import type { Placement } from '../model/link.js';
import { BufferAttribute, BufferGeometry, Matrix4 } from 'three';
import { MeshBVH } from 'three-mesh-bvh';

/** Triangles of one face of the boundary, the first and the last counted in. */
export interface FaceRange {
  readonly first: number;
  readonly last: number;
}

/** The geometry of one file; millimetres, z up, as the design has it. */
export interface Body {
  readonly positions: Float32Array;
  /** Three a triangle. */
  readonly indices: Uint32Array;
  readonly faces: readonly FaceRange[];
  /** How far the triangles may lie from the true shape, millimetres. */
  readonly deflectionMm: number;
}

/** A body with a bounding volume hierarchy over its triangles, for asking about it again and again. */
export interface SolidBody extends Body {
  readonly geometry: BufferGeometry;
  readonly tree: MeshBVH;
}

/** Builds the hierarchy. `O(triangles × log triangles)`; the order of `indices` stays, so that faces stay what they are. */
export function solidBody(body: Body): SolidBody {
  const geometry = new BufferGeometry();
  geometry.setAttribute('position', new BufferAttribute(body.positions, 3));
  geometry.setIndex(new BufferAttribute(body.indices, 1));
  geometry.computeBoundingBox();
  const tree = new MeshBVH(geometry, { indirect: true });
  geometry.boundsTree = tree;
  return { ...body, geometry, tree };
}

/** A 3×4 placement as a matrix. */
export function matrixOf(at: Placement): Matrix4 {
  const m = (index: number): number => at[index] ?? 0;
  return new Matrix4().set(
    ...([m(0), m(1), m(2), m(3), m(4), m(5), m(6), m(7)] as const),
    ...([m(8), m(9), m(10), m(11), 0, 0, 0, 1] as const),
  );
}
