/** Meshes of files, as they are drawn and as they are measured. */
import type { Body, BodyFigures, Edge, FaceRange } from '@stem-trace/core/look';
import { Box3, Color, Mesh, MeshStandardMaterial, type BufferGeometry, type Object3D } from 'three';
import { MeshoptDecoder } from 'three/addons/libs/meshopt_decoder.module.js';
import { GLTFLoader } from 'three/addons/loaders/GLTFLoader.js';
import { acceleratedRaycast, MeshBVH } from 'three-mesh-bvh';

/** The same with fewer triangles. */
export interface Coarser {
  readonly geometry: BufferGeometry;
  /** How far it lies off, metres. */
  readonly error: number;
}

export interface LookPart {
  /** Metres, y up. */
  readonly geometry: BufferGeometry;
  readonly colour: Color;
  /** Of its triangles in the body. */
  readonly firstTriangle: number;
  /** Whether it encloses a body, so that nobody sees a triangle from behind. */
  readonly isClosed: boolean;
  /** The finest first; they share the corners. */
  readonly coarser: readonly Coarser[];
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

/** Made where a ray first comes near: most parts of a product are never pointed at, and all hierarchies take seconds. */
Mesh.prototype.raycast = function raycast(this: Mesh, raycaster, hits): void {
  const { geometry, matrixWorld } = this;
  if (!geometry.boundsTree) {
    const box = geometry.boundingBox ?? new Box3();
    const own = raycaster.ray.clone().applyMatrix4(matrixWorld.clone().invert());
    if (!own.intersectsBox(box)) return;
    geometry.boundsTree = new MeshBVH(geometry, { indirect: true });
  }
  acceleratedRaycast.call(this, raycaster, hits);
};

/** @returns null where there is no geometry */
export async function loadLookMesh(address: string, signal: AbortSignal): Promise<LookMesh | null> {
  const response = await fetch(address, { signal });
  return response.ok ? readLookMesh(await response.arrayBuffer()) : null;
}

/** @param glb as the server packs it */
export async function readLookMesh(glb: ArrayBuffer): Promise<LookMesh> {
  const loader = new GLTFLoader().setMeshoptDecoder(MeshoptDecoder);
  const { scenes, userData } = await loader.parseAsync(glb, '');
  const [fine, ...coarser] = scenes;
  const levels = coarser.map((scene) => ({
    meshes: meshesIn(scene),
    error: (Number(scene.userData.errorMm) || 0) / 1000,
  }));
  return lookMesh(fine ? meshesIn(fine) : [], Number(userData.deflectionMm) || 0, levels);
}

function meshesIn(scene: Object3D): Mesh[] {
  const meshes: Mesh[] = [];
  scene.traverse((object) => (object instanceof Mesh ? meshes.push(object) : undefined));
  return meshes;
}

export interface CoarserMeshes {
  /** One for each of the fine ones. */
  readonly meshes: readonly Mesh[];
  readonly error: number;
}

export function lookMesh(
  meshes: readonly Mesh[],
  deflectionMm: number,
  levels: readonly CoarserMeshes[] = [],
): LookMesh {
  const drawn = meshes.flatMap((mesh, at) => (mesh.geometry.getIndex() ? { mesh, at } : []));
  const sizes = drawn.map(({ mesh: { geometry } }) => ({
    corners: geometry.getAttribute('position').count,
    indices: geometry.getIndex()?.count ?? 0,
  }));
  const positions = new Float32Array(3 * sizes.reduce((sum, { corners }) => sum + corners, 0));
  const indices = new Uint32Array(sizes.reduce((sum, { indices: count }) => sum + count, 0));
  const faces: FaceRange[] = [];
  const bounds = new Box3();
  let [corner, index] = [0, 0];
  const parts = drawn.map(({ mesh: { geometry, material, userData }, at }): LookPart => {
    const [corners, order] = [geometry.getAttribute('position'), geometry.getIndex()];
    const [firstCorner, firstTriangle] = [corner, index / 3];
    for (let i = 0; i < corners.count; i++, corner++) {
      positions[corner * 3] = corners.getX(i) * 1000;
      positions[corner * 3 + 1] = -corners.getZ(i) * 1000;
      positions[corner * 3 + 2] = corners.getY(i) * 1000;
    }
    for (let i = 0; i < (order?.count ?? 0); i++) indices[index++] = firstCorner + (order?.getX(i) ?? 0);
    const own = (geometry.userData.faces ?? userData.faces ?? []) as number[][];
    for (const [first = 0, last = 0] of own)
      faces.push({ first: firstTriangle + first, last: firstTriangle + last });
    geometry.computeBoundingBox();
    if (geometry.boundingBox) bounds.union(geometry.boundingBox);
    const colour = material instanceof MeshStandardMaterial ? material.color.clone() : new Color(0x9fadb5);
    const isClosed = (geometry.userData.isClosed ?? userData.isClosed) === true;
    return { geometry, colour, firstTriangle, isClosed, coarser: coarserOf(geometry, at, levels) };
  });
  return { parts, bounds, shape: { positions, indices, faces, deflectionMm } };
}

/** Those that have fewer triangles than the one before. */
function coarserOf(fine: BufferGeometry, at: number, levels: readonly CoarserMeshes[]): Coarser[] {
  let fewest = fine.getIndex()?.count ?? 0;
  return levels.flatMap(({ meshes, error }) => {
    const geometry = meshes[at]?.geometry;
    const count = geometry?.getIndex()?.count ?? 0;
    if (!geometry || count === 0 || count >= fewest) return [];
    fewest = count;
    return { geometry, error };
  });
}
