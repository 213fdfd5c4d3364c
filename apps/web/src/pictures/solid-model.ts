/** Meshes of parts, and assemblies put together from them. */
import type { SceneAnswer } from '@stem-trace/contract';
import type { Placement } from '@stem-trace/core';
import { Group, Matrix4, type Object3D } from 'three';
import { GLTFLoader } from 'three/addons/loaders/GLTFLoader.js';
import { withEdges } from './solid-stage.js';

/** @returns null where there is no geometry */
export async function loadMesh(address: string, signal: AbortSignal): Promise<Object3D | null> {
  const response = await fetch(address, { signal });
  if (!response.ok) return null;
  const { scene, userData } = await new GLTFLoader().parseAsync(await response.arrayBuffer(), '');
  const model = withEdges(scene);
  model.userData.mass = userData.mass;
  return model;
}

/** From millimetres with z up, as placements are, to metres with y up, as meshes are. */
const TO_GLTF = new Matrix4().set(0.001, 0, 0, 0, 0, 0, 0.001, 0, 0, -0.001, 0, 0, 0, 0, 0, 1);
const FROM_GLTF = TO_GLTF.clone().invert();

/** Everything in its place; what has no mesh is left out. */
export function assemble(placed: SceneAnswer['meshes'], meshes: readonly (Object3D | undefined)[]): Group {
  const group = new Group();
  placed.forEach(({ at }, index) => {
    const mesh = meshes[index];
    for (const placement of mesh ? at : []) {
      const copy = mesh?.clone();
      if (!copy) continue;
      copy.applyMatrix4(TO_GLTF.clone().multiply(matrixOf(placement)).multiply(FROM_GLTF));
      group.add(copy);
    }
  });
  return group;
}

function matrixOf(placement: Placement): Matrix4 {
  const m = (index: number): number => placement[index] ?? 0;
  return new Matrix4().set(
    m(0),
    m(1),
    m(2),
    m(3),
    m(4),
    m(5),
    m(6),
    m(7),
    m(8),
    m(9),
    m(10),
    m(11),
    0,
    0,
    0,
    1,
  );
}
