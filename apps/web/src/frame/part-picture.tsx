/** A part in three dimensions, to be turned. three.js comes with this file only when a part is first looked at. */
import { useQuery } from '@tanstack/react-query';
import type { MeshMass } from '@stem-trace/core';
import { useEffect, useRef } from 'react';
import styled from 'styled-components';
import {
  AmbientLight,
  Box3,
  DirectionalLight,
  EdgesGeometry,
  LineBasicMaterial,
  LineSegments,
  Mesh,
  PerspectiveCamera,
  Scene,
  Sphere,
  Vector3,
  WebGLRenderer,
  type Object3D,
} from 'three';
import { OrbitControls } from 'three/addons/controls/OrbitControls.js';
import { GLTFLoader } from 'three/addons/loaders/GLTFLoader.js';
import { ApiProblem } from '../api/client.js';
import { addressOf } from '../api/client.js';
import { Soft } from '../ui/controls.js';
import { colour } from '../ui/theme.js';

interface Model {
  readonly scene: Object3D;
  readonly mass: MeshMass | undefined;
}

async function loadModel(item: string, signal: AbortSignal): Promise<Model | null> {
  const response = await fetch(addressOf('/api/mesh', { item }), { signal });
  if (response.status === 404) return null;
  if (!response.ok)
    throw new ApiProblem((await response.json()) as ConstructorParameters<typeof ApiProblem>[0]);
  const bytes = await response.arrayBuffer();
  const gltf = await new GLTFLoader().parseAsync(bytes, '');
  const json = gltf.parser.json as { extras?: { mass?: MeshMass } };
  return { scene: gltf.scene, mass: json.extras?.mass };
}

export default function PartPicture({ item }: { readonly item: string }): React.JSX.Element | null {
  const model = useQuery({
    queryKey: ['mesh', item],
    queryFn: ({ signal }) => loadModel(item, signal),
    staleTime: Infinity,
    gcTime: 60_000,
  });
  const box = useRef<HTMLDivElement>(null);
  const scene = model.data?.scene;
  useEffect(() => (scene && box.current ? show(scene, box.current) : undefined), [scene]);
  if (model.data === null || model.error) return null;
  const mass = model.data?.mass;
  return (
    <figure>
      <Stage ref={box} role="img" aria-label={`${item} in three dimensions`} aria-busy={!model.data} />
      <figcaption>
        <Soft>{mass ? `${sayBox(mass)} (box of the mesh)` : 'Making the picture …'}</Soft>
      </figcaption>
    </figure>
  );
}

function sayBox({ box: { min, max } }: MeshMass): string {
  return (
    [0, 1, 2]
      .map((axis) => Number(((max[axis as 0] ?? 0) - (min[axis as 0] ?? 0)).toPrecision(4)))
      .join(' × ') + ' mm'
  );
}

/** Draws a model until told to stop; only when something moves, so that a still picture costs nothing. */
function show(model: Object3D, box: HTMLElement): () => void {
  const renderer = new WebGLRenderer({ antialias: true, alpha: true });
  const { clientWidth: width, clientHeight: height } = box;
  renderer.setPixelRatio(Math.min(2, window.devicePixelRatio));
  renderer.setSize(width, height);
  box.append(renderer.domElement);
  const scene = new Scene();
  scene.add(model, new AmbientLight(0xffffff, 1.3));
  const edges = edgesOf(model);
  scene.add(...edges);
  const sphere = new Box3().setFromObject(model).getBoundingSphere(new Sphere());
  const camera = new PerspectiveCamera(28, width / height, sphere.radius / 50, sphere.radius * 50);
  camera.position
    .copy(sphere.center)
    .add(
      new Vector3(1, 0.7, 1.1)
        .normalize()
        .multiplyScalar((sphere.radius / Math.sin((14 * Math.PI) / 180)) * 1.05),
    );
  const light = new DirectionalLight(0xffffff, 2.2);
  scene.add(light);
  const controls = new OrbitControls(camera, renderer.domElement);
  controls.target.copy(sphere.center);
  const draw = (): void => {
    light.position.copy(camera.position).add(new Vector3(sphere.radius, sphere.radius * 2, 0));
    renderer.render(scene, camera);
  };
  controls.addEventListener('change', draw);
  controls.update();
  draw();
  return () => {
    controls.dispose();
    scene.remove(model);
    for (const line of edges) line.geometry.dispose();
    renderer.dispose();
    renderer.domElement.remove();
  };
}

/** Edges where faces meet at more than 25 degrees, which is what an engineer looks for. */
function edgesOf(model: Object3D): LineSegments[] {
  const lines: LineSegments[] = [];
  const material = new LineBasicMaterial({ color: 0x22313a });
  model.traverse((object) => {
    if (object instanceof Mesh)
      lines.push(new LineSegments(new EdgesGeometry(object.geometry, 25), material));
  });
  return lines;
}

const Stage = styled.div`
  height: 176px;
  border: 1px solid ${colour.line};
  border-radius: 4px;
  background: ${colour.raised};
  overflow: hidden;
  canvas {
    display: block;
  }
`;
