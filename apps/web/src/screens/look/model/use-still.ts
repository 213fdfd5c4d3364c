/** A picture that stands still of what is shown, drawn away from the thread that answers to keys. */
import { useEffect, useMemo, useRef, useState } from 'react';
import type { Color } from 'three';
import type { StillView, Tint } from '@stem-trace/core/look';
import type { StillAnswer, StillAsked, StillPiece, StillPlace } from '../../../workers/still.worker.js';
import { coloursOf } from './colouring.js';
import type { LookMesh } from './look-mesh.js';
import { SELECTED, type Looking } from './use-looking.js';

export interface DrawnStill extends StillAnswer {
  readonly width: number;
  readonly height: number;
  /** Whether nothing has been shown, hidden, turned or fetched since. */
  readonly isNewest: boolean;
}

/** @returns the last that was drawn; undefined before the first */
export function useStill(
  { scene, loaded, state, groups, inside }: Looking,
  view: StillView,
): DrawnStill | undefined {
  const worker = useWorker(loaded);
  const [drawn, setDrawn] = useState<Omit<DrawnStill, 'isNewest'> & { readonly of: readonly unknown[] }>();
  const asked = useRef(0);
  const places = useMemo(() => {
    const tints = coloursOf(groups);
    return scene.meshes.flatMap(({ at, nodes }, mesh) =>
      at.flatMap((place, copy): StillPlace | [] => {
        const id = nodes[copy] ?? -1;
        if (state.hidden.has(id)) return [];
        const tint = inside.has(id) ? SELECTED : tints.get(id);
        return { mesh, at: place, id, ...(tint ? { tint: tintOf(tint) } : {}) };
      }),
    );
  }, [scene, state.hidden, groups, inside]);
  useEffect(() => {
    if (!worker || view.width === 0) return undefined;
    const id = ++asked.current;
    const { width, height } = view;
    const hear = ({ data }: MessageEvent<StillAnswer>): void => {
      if (data.id === asked.current) setDrawn({ ...data, width, height, of: [places, view, loaded] });
    };
    worker.addEventListener('message', hear);
    worker.postMessage({ kind: 'draw', id, places, view } satisfies StillAsked);
    return () => worker.removeEventListener('message', hear);
    // What is loaded is drawn once it is there.
  }, [worker, places, view, loaded]);
  const isNewest = drawn !== undefined && [places, view, loaded].every((each, at) => each === drawn.of[at]);
  return useMemo(() => drawn && { ...drawn, isNewest }, [drawn, isNewest]);
}

/** A worker that knows the meshes that are there. */
function useWorker(loaded: Looking['loaded']): Worker | undefined {
  const [worker, setWorker] = useState<Worker>();
  const told = useRef(new Map<number, LookMesh>());
  useEffect(() => {
    const made = new Worker(new URL('../../../workers/still.worker.ts', import.meta.url), { type: 'module' });
    told.current = new Map();
    setWorker(made);
    return () => made.terminate();
  }, []);
  useEffect(() => {
    // What is told to nobody has to be told again.
    if (!worker) return;
    loaded.forEach((mesh, at) => {
      if (!mesh || told.current.get(at) === mesh) return;
      told.current.set(at, mesh);
      worker.postMessage({ kind: 'mesh', mesh: at, pieces: piecesOf(mesh) } satisfies StillAsked);
    });
  }, [worker, loaded]);
  return worker;
}

/** Parts follow each other in the triangles of the whole. */
function piecesOf({ parts, shape }: LookMesh): StillPiece[] {
  return parts.map(({ colour, firstTriangle }, at) => ({
    positions: shape.positions,
    indices: shape.indices.slice(firstTriangle * 3, (parts[at + 1]?.firstTriangle ?? Infinity) * 3),
    tint: tintOf(colour),
  }));
}

/** As it is on the screen. */
function tintOf(colour: Color): Tint {
  const hex = colour.getHex();
  return [(hex >> 16) & 255, (hex >> 8) & 255, hex & 255];
}
