/** What is shown and chosen of a model, and the stage that draws it. */
import type { NearRow, SceneAnswer, TraitsAnswer } from '@stem-trace/contract';
import { useQuery } from '@tanstack/react-query';
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { Color } from 'three';
import { useShowing } from '../../../ui/showing.js';
import { traitsQuery } from '../scene-queries.js';
import { useStates } from '../../../ui/states.js';
import { coloured, coloursOf, type ColourGroup } from './colouring.js';
import type { LookMesh } from './look-mesh.js';
import type { LookStage, Looks } from './look-stage.js';
import { AT_FIRST, type LookState } from './look-state.js';
import type { Measured, MeasuredAt } from './measured.js';
import { useStage } from './use-stage.js';
import { apart, withInside } from './uses.js';
import type { ViewName } from './views.js';

/** How much is seen of what is glass. */
const GLASS = 0.12;
export const SELECTED = new Color(0xc8743c);

export interface LookingOptions {
  readonly item: string;
  readonly lens: string;
  readonly scene: SceneAnswer;
  readonly loaded: readonly (LookMesh | undefined)[];
  /** Uses in whose place something else is tried. */
  readonly replaced: ReadonlySet<number>;
  /** Whether all is there that can be. */
  readonly isWhole: boolean;
}

export function useLooking({ item, lens, scene, loaded, replaced, isWhole }: LookingOptions) {
  const box = useRef<HTMLDivElement>(null);
  const stage = useStage(box, scene, loaded, !isWhole);
  const [state, setState] = useState<LookState>(AT_FIRST);
  const [picked, setPicked] = useState<readonly Measured[]>([]);
  const [measuresAt, measureAt] = useState<MeasuredAt>('faces');
  const [isBoxing, setBoxing] = useState(false);
  const [view, setView] = useState<ViewName>('corner');
  const change = useCallback(
    (patch: Partial<LookState>): void => setState((known) => ({ ...known, ...patch })),
    [],
  );
  const inside = useMemo(() => withInside(scene.nodes, state.selected), [scene, state.selected]);
  const traits = useQuery(traitsQuery(item, lens)).data;
  const groups = useGroups(state, scene, traits);
  useAppearance(stage, { state, inside, groups, scene, loaded, replaced });
  const { length: unit } = useShowing();
  const select = useCallback(
    (nodes: readonly number[]): void => change({ selected: new Set(nodes) }),
    [change],
  );
  const toggle = (nodes: readonly number[]): void =>
    change({ hidden: toggled(state.hidden, scene.nodes, nodes) });
  const deeds = {
    fit: () => stage?.fit(),
    hide: () => toggle([...state.selected]),
    isolate: () =>
      inside.size > 0
        ? change({ hidden: new Set(scene.nodes.flatMap((_, at) => (inside.has(at) ? [] : at))) })
        : undefined,
    all: () => change({ hidden: new Set() }),
    ghost: () => change({ isGlass: !state.isGlass }),
    parallel: () => change({ isParallel: !state.isParallel }),
    box: () => setBoxing(!isBoxing),
  };
  return {
    ...{
      item,
      lens,
      scene,
      loaded,
      isWhole,
      box,
      stage,
      state,
      change,
      inside,
      traits,
      groups,
      select,
      toggle,
      deeds,
    },
    ...{ picked, setPicked, measuresAt, measureAt, isBoxing, unit, view, setView },
    showNear: ({ node, of }: NearRow): void => select([of, node]),
  };
}

export type Looking = ReturnType<typeof useLooking>;

/** What is hidden once some uses are hidden with all in them, or shown again where all of them were hidden. */
function toggled(
  hidden: ReadonlySet<number>,
  uses: SceneAnswer['nodes'],
  nodes: readonly number[],
): ReadonlySet<number> {
  const all = withInside(uses, new Set(nodes));
  const isHidden = nodes.every((node) => hidden.has(node));
  return new Set(isHidden ? [...hidden].filter((node) => !all.has(node)) : [...hidden, ...all]);
}

function useGroups(
  { colouredBy }: LookState,
  scene: SceneAnswer,
  traits: TraitsAnswer | undefined,
): readonly ColourGroup[] {
  const { mass } = useShowing();
  const book = useStates();
  return useMemo(() => {
    if (colouredBy === 'file' || !traits) return [];
    const drawn = new Set(scene.meshes.flatMap(({ nodes }) => nodes));
    return coloured(colouredBy, traits, { drawn, mass, now: Date.now(), book });
  }, [colouredBy, scene, traits, mass, book]);
}

interface AppearanceOptions {
  readonly state: LookState;
  readonly inside: ReadonlySet<number>;
  readonly groups: readonly ColourGroup[];
  readonly replaced: ReadonlySet<number>;
  readonly scene: SceneAnswer;
  readonly loaded: readonly (LookMesh | undefined)[];
}

function useAppearance(
  stage: LookStage | undefined,
  { state, inside, groups, scene, loaded, replaced }: AppearanceOptions,
): void {
  const { hidden, isGlass, sections, spread } = state;
  const tints = useMemo(() => coloursOf(groups), [groups]);
  const offsets = useMemo(() => apart(scene, loaded, spread), [scene, loaded, spread]);
  useEffect(() => {
    const looks: Looks = {
      selected: inside,
      opacityOf: (node) =>
        hidden.has(node) || replaced.has(node) ? 0 : isGlass && !inside.has(node) ? GLASS : 1,
      colourOf: (node) => (inside.has(node) ? SELECTED : tints.get(node)),
      ...(offsets ? { offsetOf: (node) => offsets[node] } : {}),
    };
    stage?.show(looks);
  }, [stage, hidden, inside, isGlass, tints, offsets, replaced]);
  useEffect(() => stage?.cutAt(sections), [stage, sections]);
  useEffect(() => stage?.project(state.isParallel), [stage, state.isParallel]);
}
