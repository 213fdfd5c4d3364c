/** Meshes of files, as they are drawn and as they are measured. */
import type { Body, BodyFigures, Edge, FaceRange } from '@stem-trace/core/look';
import { Box3, Color, Mesh, MeshStandardMaterial, type BufferGeometry } from 'three';
import { GLTFLoader } from 'three/addons/loaders/GLTFLoader.js';
import { acceleratedRaycast, MeshBVH } from 'three-mesh-bvh';

export interface LookPart {
  /** Metres, y up. */
  readonly geometry: BufferGeometry;
  readonly colour: Color;
  /** Of its triangles in the body. */
  readonly firstTriangle: number;
  /** Its sharp edges, once they were drawn. */
  edges?: BufferGeometry;
}

export interface LookMesh {
  readonly parts: readonly LookPart[];
  readonly bounds: Box3;
  /** All parts in one, millimetres, z up. */
  readonly shape: Body;
  /** Its edges, once somebody measured at them. */
  edges?: readonly Edge[];
  /** Its volume, surface and centre, once somebody asked. */
  figures?: BodyFigures;
}

Mesh.prototype.raycast = acceleratedRaycast;

/** @returns null where there is no geometry */
export async function loadLookMesh(address: string, signal: AbortSignal): Promise<LookMesh | null> {
  const response = await fetch(address, { signal });
  if (!response.ok) return null;
  const { scene, userData } = await new GLTFLoader().parseAsync(await response.arrayBuffer(), '');
  const meshes: Mesh[] = [];
  scene.traverse((object) => (object instanceof Mesh ? meshes.push(object) : undefined));
  return lookMesh(meshes, Number(userData.deflectionMm) || 0);
}

export function lookMesh(meshes: readonly Mesh[], deflectionMm: number): LookMesh {
  const positions: number[] = [];
  const indices: number[] = [];
  const faces: FaceRange[] = [];
  const parts: LookPart[] = [];
  const bounds = new Box3();
  for (const { geometry, material, userData } of meshes) {
    const at = geometry.getAttribute('position');
    const order = geometry.getIndex();
    if (!order) continue;
    const [corners, firstTriangle] = [positions.length / 3, indices.length / 3];
    for (let i = 0; i < at.count; i++)
      positions.push(at.getX(i) * 1000, -at.getZ(i) * 1000, at.getY(i) * 1000);
    for (let i = 0; i < order.count; i++) indices.push(corners + order.getX(i));
    const own = (geometry.userData.faces ?? userData.faces ?? []) as number[][];
    for (const [first = 0, last = 0] of own)
      faces.push({ first: firstTriangle + first, last: firstTriangle + last });
    geometry.computeBoundingBox();
    geometry.boundsTree = new MeshBVH(geometry, { indirect: true });
    if (geometry.boundingBox) bounds.union(geometry.boundingBox);
    const colour = material instanceof MeshStandardMaterial ? material.color.clone() : new Color(0x9fadb5);
    parts.push({ geometry, colour, firstTriangle });
  }
  const shape = {
    positions: new Float32Array(positions),
    indices: new Uint32Array(indices),
    faces,
    deflectionMm,
  };
  return { parts, bounds, shape };
}
