/** Draws still pictures of items, one after another, with one renderer for all of them. */
import pLimit from 'p-limit';
import { WebGLRenderer, type Object3D } from 'three';
import { get } from '../api/client.js';
import { meshAddress } from './mesh-address.js';
import { assemble, loadMesh } from './solid-model.js';
import { viewOf } from './solid-stage.js';

const WIDTH = 208;
const HEIGHT = 156;
/** Assemblies of more different parts are not drawn small: it would take longer than anybody looks. */
const MOST_MESHES = 60;

const oneAtATime = pLimit(1);
let renderer: WebGLRenderer | undefined;

/** @returns address of the picture; null where there is nothing to draw */
export function makeThumb(item: string, signal: AbortSignal): Promise<string | null> {
  return oneAtATime(async () => {
    // Scrolled past, while others were drawn.
    signal.throwIfAborted();
    const { meshes } = await get('/api/scene', { item, lens: 'newest' }, signal);
    if (meshes.length === 0 || meshes.length > MOST_MESHES) return null;
    const loaded: (Object3D | undefined)[] = [];
    for (const mesh of meshes) loaded.push((await loadMesh(meshAddress(mesh.item), signal)) ?? undefined);
    const model = assemble(meshes, loaded);
    return model.children.length === 0 ? null : draw(model);
  });
}

function draw(model: Object3D): string {
  if (!renderer) {
    renderer = new WebGLRenderer({ antialias: true, alpha: true, preserveDrawingBuffer: true });
    renderer.setSize(WIDTH, HEIGHT, false);
  }
  const { scene, camera } = viewOf(model, WIDTH / HEIGHT);
  renderer.render(scene, camera);
  return renderer.domElement.toDataURL('image/png');
}
