/** A part or an assembly in three dimensions, to be turned. three.js comes with this file, when first needed. */
import { useQueries, useQuery } from '@tanstack/react-query';
import type { LensText } from '@stem-trace/contract';
import type { MeshMass } from '@stem-trace/core';
import pLimit from 'p-limit';
import { useEffect, useMemo, useRef } from 'react';
import { Box3, Group, Vector3, type Object3D } from 'three';
import { get } from '../api/client.js';
import { meshAddress } from './mesh-address.js';
import { Soft } from '../ui/controls.js';
import { saySize, saySolid, useShowing, type Showing } from '../ui/showing.js';
import { combineLoaded } from './combine-loaded.js';
import { Figure, PictureFrame } from './picture-frame.js';
import { assemble, loadMesh } from './solid-model.js';
import { Stage } from './solid-stage.js';

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

export default function SolidPicture({
  item,
  lens,
  isLarge,
  saysMass,
}: SolidPictureProps): React.JSX.Element | null {
  const { length } = useShowing();
  const scene = useQuery({
    queryKey: ['scene', item, lens],
    queryFn: ({ signal }) => get('/api/scene', { item, lens }, signal),
  });
  const placed = useMemo(() => scene.data?.meshes ?? [], [scene.data]);
  const { loaded, done } = useQueries({
    queries: placed.map((mesh) => ({
      queryKey: ['mesh', mesh.item],
      queryFn: ({ signal }: { signal: AbortSignal }) =>
        takeTurn(() => loadMesh(meshAddress(mesh.item), signal)),
      staleTime: Infinity,
      gcTime: 120_000,
    })),
    combine: combineLoaded,
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
            : [sayBox(model, length), saysMass ? sayMass(loaded, length) : ''].filter(Boolean).join(' · ')}
        </Soft>
      </figcaption>
    </Figure>
  );
}

/** Volume and surface of a single part, as its mesh has them. */
function sayMass(meshes: readonly (Object3D | undefined)[], unit: Showing['length']): string {
  const mass = (meshes.length === 1 ? meshes[0]?.userData.mass : undefined) as MeshMass | undefined;
  if (!mass) return '';
  return `${saySolid(mass.volumeMm3, mass.areaMm2, unit)} from the mesh, as the file states none`;
}

/** Width, depth and height as the design has them. */
function sayBox(model: Object3D, unit: Showing['length']): string {
  const { x, y, z } = new Box3().setFromObject(model).getSize(new Vector3());
  return saySize(
    [x, z, y].map((metres) => metres * 1000),
    unit,
  );
}
