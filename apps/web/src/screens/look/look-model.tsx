/** An assembly or a part in three dimensions to work in: its tree beside the picture, what is shown, a section, what is measured. */
import type { LensText, NearRow, SceneAnswer } from '@stem-trace/contract';
import type { SectionPlane } from '@stem-trace/core/look';
import { useQueries, useQuery } from '@tanstack/react-query';
import pLimit from 'p-limit';
import { useCallback, useEffect, useMemo, useRef, useState, type KeyboardEvent } from 'react';
import styled from 'styled-components';
import { addressOf, get } from '../../api/client.js';
import { useKeyHints, type KeyHint } from '../../frame/keys.js';
import { combineLoaded } from '../../pictures/combine-loaded.js';
import { Soft, Trouble } from '../../ui/controls.js';
import { useShowing } from '../../ui/showing.js';
import { colour } from '../../ui/theme.js';
import { LookBar } from './look-bar.js';
import { loadLookMesh, type LookMesh } from './look-mesh.js';
import { LookNear } from './look-near.js';
import { PinsOver, PinsPanel, usePins } from './look-pins.js';
import { LookStage, type Looks, type ViewName } from './look-stage.js';
import { LookTree } from './look-tree.js';
import { measured, sayMeasured, type MeasuredFace } from './measured.js';
import { withInside } from './uses.js';

const takeTurn = pLimit(4);

export interface LookModelProps {
  /** `NUMBER@B/3` */
  readonly item: string;
  readonly lens: LensText;
}

export default function LookModel({ item, lens }: LookModelProps): React.JSX.Element {
  const scene = useQuery({
    queryKey: ['scene', item, lens],
    queryFn: ({ signal }) => get('/api/scene', { item, lens }, signal),
  });
  const placed = useMemo(() => scene.data?.meshes ?? [], [scene.data]);
  const { loaded, done } = useMeshes(placed);
  if (scene.error) return <Trouble>{scene.error.message}</Trouble>;
  if (!scene.data) return <Soft role="status">Looking what it is made of …</Soft>;
  if (placed.length === 0 || (done === placed.length && loaded.every((mesh) => !mesh)))
    return <Soft>There is no geometry in it.</Soft>;
  if (done < placed.length)
    return (
      <Soft role="status">
        Making the picture: {done} of {placed.length} parts
      </Soft>
    );
  return <Working {...{ item, lens, loaded }} scene={scene.data} />;
}

/** The meshes of all files, nearest to the root first. */
function useMeshes(placed: SceneAnswer['meshes']): {
  readonly loaded: readonly (LookMesh | undefined)[];
  readonly done: number;
} {
  return useQueries({
    queries: placed.map((mesh) => ({
      queryKey: ['look mesh', mesh.item],
      queryFn: ({ signal }: { signal: AbortSignal }) =>
        takeTurn(() => loadLookMesh(addressOf('/api/mesh', { item: mesh.item }), signal)),
      staleTime: Infinity,
      gcTime: 60_000,
    })),
    combine: combineLoaded,
  });
}

interface WorkingProps extends LookModelProps {
  readonly scene: SceneAnswer;
  readonly loaded: readonly (LookMesh | undefined)[];
}

function Working({ item, lens, scene, loaded }: WorkingProps): React.JSX.Element {
  const work = useLooking(scene, loaded);
  const pins = usePins(item, work.faces);
  useKeyHints(KEYS);
  const onKey = (event: KeyboardEvent): void => {
    const isPin = event.key === 'n' && !event.ctrlKey && !event.metaKey && !event.altKey && !isTyping(event);
    if (isPin && pins.closed === '') {
      event.preventDefault();
      pins.begin();
    } else work.onKey(event);
  };
  const { length } = useShowing();
  const { stage, selected, hidden, select, toggle, faces } = work;
  return (
    <Parts onKeyDown={onKey}>
      <LookBar {...work} />
      <Left>
        <LookTree nodes={scene.nodes} {...{ selected, hidden, select, toggle }} />
        <PinsPanel {...{ pins, stage }} />
      </Left>
      <Middle>
        <Stage
          ref={work.box}
          role="img"
          aria-label={`${item} in three dimensions`}
          tabIndex={0}
          onPointerDown={work.begin}
          onClick={work.click}
        >
          <PinsOver {...{ pins, stage }} />
        </Stage>
        <Said role="status" aria-label="Measured">
          {sayMeasured(faces, stage?.boxOf(selected.size > 0 ? selected : undefined), length)}
        </Said>
        <LookNear {...{ item, lens, selected }} nodes={scene.nodes} onShow={work.showNear} />
      </Middle>
    </Parts>
  );
}

const KEYS: readonly KeyHint[] = [
  { key: 'F', says: 'Fit what is selected, or all' },
  { key: 'H', says: 'Hide what is selected, or show it again' },
  { key: 'I', says: 'Leave only what is selected' },
  { key: 'A', says: 'Show all' },
  { key: 'G', says: 'The rest as glass' },
  { key: 'P', says: 'Parallel or in perspective' },
  { key: 'N', says: 'Pin a note to the face that was clicked' },
  { key: '1 … 7', says: 'From the front, behind, left, right, above, below, a corner' },
  { key: 'Shift Enter', says: 'Select one more; Shift and a click measures to a second face' },
];

type Deeds = Readonly<Record<'fit' | 'hide' | 'isolate' | 'all' | 'ghost' | 'parallel', () => void>>;

function keysOf({ fit, hide, isolate, all, ghost, parallel }: Deeds): Readonly<Record<string, () => void>> {
  return { f: fit, h: hide, i: isolate, a: all, g: ghost, p: parallel };
}

/** What is shown and chosen, and the stage that draws it. */
function useLooking(scene: SceneAnswer, loaded: readonly (LookMesh | undefined)[]) {
  const box = useRef<HTMLDivElement>(null);
  const [stage, setStage] = useState<LookStage>();
  const [selected, choose] = useState<ReadonlySet<number>>(new Set());
  const [hidden, hide] = useState<ReadonlySet<number>>(new Set());
  const [ghosts, ghost] = useState(false);
  const [isParallel, project] = useState(false);
  const [section, cut] = useState<SectionPlane | null>(null);
  const [faces, setFaces] = useState<readonly MeasuredFace[]>([]);
  useEffect(() => {
    if (!box.current) return undefined;
    const made = new LookStage(box.current, scene.meshes, loaded);
    setStage(made);
    return () => made.end();
  }, [scene, loaded]);
  const inside = useMemo(() => withInside(scene.nodes, selected), [scene, selected]);
  useEffect(() => {
    const looks: Looks = { hidden, selected: inside, ghosts, section };
    stage?.show(looks);
  }, [stage, hidden, inside, ghosts, section]);
  useEffect(() => stage?.project(isParallel), [stage, isParallel]);
  const select = useCallback((nodes: readonly number[]): void => choose(new Set(nodes)), []);
  const toggle = (nodes: readonly number[]): void => {
    const all = withInside(scene.nodes, new Set(nodes));
    const isHidden = nodes.every((node) => hidden.has(node));
    hide(new Set(isHidden ? [...hidden].filter((node) => !all.has(node)) : [...hidden, ...all]));
  };
  const isolate = (): void => {
    if (inside.size > 0) hide(new Set(scene.nodes.flatMap((_, at) => (inside.has(at) ? [] : at))));
  };
  const deeds = {
    fit: () => stage?.fit(),
    hide: () => toggle([...selected]),
    isolate,
    all: () => hide(new Set()),
    ghost: () => ghost(!ghosts),
    parallel: () => project(!isParallel),
  };
  const pointer = usePicking(stage, { scene, loaded, faces, setFaces, select, selected });
  const view = (name: ViewName): void => stage?.view(name);
  const onKey = (event: KeyboardEvent): void => {
    const deed = keysOf(deeds)[event.key] ?? viewKey(event.key, view);
    if (!deed || event.ctrlKey || event.metaKey || event.altKey || isTyping(event)) return;
    event.preventDefault();
    event.stopPropagation();
    deed();
  };
  const showNear = ({ node, of }: NearRow): void => select([of, node]);
  return {
    ...{ box, stage, selected, hidden, select, toggle, faces, deeds, ghosts, isParallel, view, section, cut },
    ...{ onKey, showNear, ...pointer },
  };
}

export type Looking = ReturnType<typeof useLooking>;

const VIEW_KEYS: readonly ViewName[] = ['front', 'back', 'left', 'right', 'top', 'below', 'corner'];

function viewKey(key: string, view: (name: ViewName) => void): (() => void) | undefined {
  const name = VIEW_KEYS[Number(key) - 1];
  return name && (() => view(name));
}

function isTyping({ target }: KeyboardEvent): boolean {
  if (target instanceof HTMLSelectElement || target instanceof HTMLTextAreaElement) return true;
  return target instanceof HTMLInputElement && target.type !== 'checkbox' && target.type !== 'range';
}

/** Pixels by which a pointer may move and still have clicked. */
const STILL = 4;

interface PickingOptions {
  readonly scene: SceneAnswer;
  readonly loaded: readonly (LookMesh | undefined)[];
  readonly faces: readonly MeasuredFace[];
  readonly setFaces: (faces: readonly MeasuredFace[]) => void;
  readonly select: (nodes: readonly number[]) => void;
  readonly selected: ReadonlySet<number>;
}

/** A click selects what is there, and measures its face; with Shift both are added to what was there before. */
function usePicking(stage: LookStage | undefined, options: PickingOptions) {
  const { scene, loaded, faces, setFaces, select, selected } = options;
  const began = useRef<readonly [number, number]>([0, 0]);
  return {
    begin: ({ clientX, clientY }: React.PointerEvent): void => {
      began.current = [clientX, clientY];
    },
    click: ({ clientX, clientY, shiftKey }: React.MouseEvent): void => {
      const [x, y] = began.current;
      if (Math.hypot(clientX - x, clientY - y) > STILL) return;
      const picked = stage?.pick(clientX, clientY);
      if (!picked) {
        select([]);
        setFaces([]);
        return;
      }
      const face = measured(picked, { scene, shape: loaded[picked.mesh]?.shape });
      select(shiftKey ? [...selected, picked.node] : [picked.node]);
      setFaces(shiftKey ? [...faces.slice(-1), face] : [face]);
    },
  };
}

const Parts = styled.div`
  flex: 1;
  min-height: 0;
  display: grid;
  grid-template: auto minmax(0, 1fr) / minmax(180px, 280px) minmax(0, 1fr);
  gap: 8px 10px;
`;
const Left = styled.div`
  display: flex;
  flex-direction: column;
  min-height: 0;
  & > :first-child {
    flex: 1;
    min-height: 0;
  }
`;
const Middle = styled.div`
  display: flex;
  flex-direction: column;
  gap: 6px;
  min-height: 0;
`;
const Stage = styled.div`
  flex: 1;
  min-height: 0;
  position: relative;
  border: 1px solid ${colour.line};
  border-radius: 4px;
  background: ${colour.raised};
  overflow: hidden;
  canvas {
    position: absolute;
    inset: 0;
  }
`;
const Said = styled.p`
  margin: 0;
  min-height: 1.4em;
`;
