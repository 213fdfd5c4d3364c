/** A part or an assembly in three dimensions, to be turned. three.js comes with this file, when first needed. */
import { useQueries, useQuery, type UseQueryResult } from '@tanstack/react-query';
import type { LensText, SceneAnswer } from '@stem-trace/contract';
import type { MeshMass, Placement } from '@stem-trace/core';
import pLimit from 'p-limit';
import { useEffect, useMemo, useRef } from 'react';
import { Box3, Group, Matrix4, Vector3, type Object3D } from 'three';
import { GLTFLoader } from 'three/addons/loaders/GLTFLoader.js';
import { addressOf, get } from '../api/client.js';
import { Soft } from '../ui/controls.js';
import { Figure, PictureFrame } from './picture-frame.js';
import { Stage, withEdges } from './solid-stage.js';

export interface SolidPictureProps {
  /** `NUMBER@B/3` */
  readonly item: string;
  readonly lens: LensText;
  readonly isLarge: boolean;
  /** Whether volume and surface are said from the mesh, since the file states none. */
  readonly saysMass: boolean;
}

/** A browser has few connections to one server; pictures leave some to what people wait for. */
const takeTurn = pLimit(2);

async function loadMesh(item: string, signal: AbortSignal): Promise<Object3D | null> {
  const response = await fetch(addressOf('/api/mesh', { item }), { signal });
  if (!response.ok) return null;
  const { scene, userData } = await new GLTFLoader().parseAsync(await response.arrayBuffer(), '');
  const model = withEdges(scene);
  model.userData.mass = userData.mass;
  return model;
}

export default function SolidPicture({
  item,
  lens,
  isLarge,
  saysMass,
}: SolidPictureProps): React.JSX.Element | null {
  const scene = useQuery({
    queryKey: ['scene', item, lens],
    queryFn: ({ signal }) => get('/api/scene', { item, lens }, signal),
  });
  const placed = useMemo(() => scene.data?.meshes ?? [], [scene.data]);
  const { loaded, done } = useQueries({
    queries: placed.map((mesh) => ({
      queryKey: ['mesh', mesh.item],
      queryFn: ({ signal }: { signal: AbortSignal }) => takeTurn(() => loadMesh(mesh.item, signal)),
      staleTime: Infinity,
      gcTime: 120_000,
    })),
    combine,
  });
  const box = useRef<HTMLDivElement>(null);
  // Drawn once, when everything is there: a stage for every mesh that arrives would hold up the page.
  const isComplete = done === placed.length;
  const model = useMemo(
    () => (isComplete ? assemble(placed, loaded) : new Group()),
    [placed, loaded, isComplete],
  );
  useEffect(() => {
    if (!box.current || model.children.length === 0) return undefined;
    const stage = new Stage(box.current, model);
    return () => stage.end();
  }, [model]);
  if (scene.data && (placed.length === 0 || (done === placed.length && model.children.length === 0)))
    return null;
  return (
    <Figure>
      <PictureFrame
        ref={box}
        data-large={isLarge || undefined}
        role="img"
        aria-label={`${item} in three dimensions`}
      />
      <figcaption>
        <Soft>
          {done < placed.length || !scene.data
            ? `Making the picture: ${done} of ${placed.length} parts`
            : [sayBox(model), saysMass ? sayMass(loaded) : ''].filter(Boolean).join(' · ')}
        </Soft>
      </figcaption>
    </Figure>
  );
}

/** What is there so far; the same array while nothing more has come. */
function combine(results: readonly UseQueryResult<Object3D | null>[]): {
  loaded: (Object3D | undefined)[];
  done: number;
} {
  return {
    loaded: results.map(({ data }) => data ?? undefined),
    done: results.filter(({ isPending }) => !isPending).length,
  };
}

/** From millimetres with z up, as placements are, to metres with y up, as meshes are. */
const TO_GLTF = new Matrix4().set(0.001, 0, 0, 0, 0, 0, 0.001, 0, 0, -0.001, 0, 0, 0, 0, 0, 1);
const FROM_GLTF = TO_GLTF.clone().invert();

function assemble(placed: SceneAnswer['meshes'], meshes: readonly (Object3D | undefined)[]): Group {
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

/** Volume and surface of a single part, as its mesh has them. */
function sayMass(meshes: readonly (Object3D | undefined)[]): string {
  const mass = (meshes.length === 1 ? meshes[0]?.userData.mass : undefined) as MeshMass | undefined;
  if (!mass) return '';
  const cubic = Number((mass.volumeMm3 / 1000).toPrecision(4));
  const square = Number((mass.areaMm2 / 100).toPrecision(4));
  return `${cubic} cm³, ${square} cm² from the mesh, as the file states none`;
}

/** Width, depth and height as the design has them. */
function sayBox(model: Object3D): string {
  const { x, y, z } = new Box3().setFromObject(model).getSize(new Vector3());
  return `${[x, z, y].map((metres) => Number((metres * 1000).toPrecision(4))).join(' × ')} mm`;
}
