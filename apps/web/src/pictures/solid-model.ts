/** Meshes of parts, and assemblies put together from them. */
import type { SceneAnswer } from '@stem-trace/contract';
import { Group, type Object3D } from 'three';
import { MeshoptDecoder } from 'three/addons/libs/meshopt_decoder.module.js';
import { GLTFLoader } from 'three/addons/loaders/GLTFLoader.js';
import { placeMatrix } from './place-matrix.js';
import { withEdges } from './solid-stage.js';

/** @returns null where there is no geometry */
export async function loadMesh(address: string, signal: AbortSignal): Promise<Object3D | null> {
  const response = await fetch(address, { signal });
  if (!response.ok) return null;
  const loader = new GLTFLoader().setMeshoptDecoder(MeshoptDecoder);
  const { scene, userData } = await loader.parseAsync(await response.arrayBuffer(), '');
  const model = withEdges(scene);
  model.userData.mass = userData.mass;
  return model;
}

/** Everything in its place; what has no mesh is left out. */
export function assemble(placed: SceneAnswer['meshes'], meshes: readonly (Object3D | undefined)[]): Group {
  const group = new Group();
  placed.forEach(({ at }, index) => {
    const mesh = meshes[index];
    for (const placement of mesh ? at : []) {
      const copy = mesh?.clone();
      if (!copy) continue;
      copy.applyMatrix4(placeMatrix(placement));
      group.add(copy);
    }
  });
  return group;
}
