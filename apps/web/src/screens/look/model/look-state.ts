/** What is shown of a model and how, as it is kept in a scene and found again. */
import type { ColouredBy, LensText, SceneLook, SceneMeasure, SceneNodeView } from '@stem-trace/contract';
import type { SectionPlane } from '@stem-trace/core/look';
import { namesOf, usesAt, withInside } from './uses.js';

export interface LookState {
  readonly hidden: ReadonlySet<number>;
  readonly selected: ReadonlySet<number>;
  /** Whether all that is not selected can be seen through. */
  readonly isGlass: boolean;
  readonly isParallel: boolean;
  readonly sections: readonly SectionPlane[];
  readonly colouredBy: ColouredBy;
  readonly spread: SceneLook['spread'];
  readonly measures: readonly SceneMeasure[];
  readonly note: string;
}

export const AT_FIRST: LookState = {
  ...{ hidden: new Set(), selected: new Set(), isGlass: false, isParallel: false, sections: [] },
  ...{ colouredBy: 'file', spread: { amount: 0, levels: 1 }, measures: [], note: '' },
};

export const MOST_SECTIONS = 3;

/** As it is kept. */
export function lookOf(
  state: LookState,
  {
    nodes,
    lens,
    camera,
  }: {
    readonly nodes: readonly SceneNodeView[];
    readonly lens: LensText;
    readonly camera: SceneLook['camera'];
  },
): SceneLook {
  const { hidden, selected, isGlass, sections, colouredBy, spread, measures, note } = state;
  return {
    ...{ lens, camera, isGlass, sections, colouredBy, spread, measures, note },
    hidden: namesOf(nodes, hidden),
    selected: namesOf(nodes, selected),
  };
}

/** As it was kept; uses that there are no more are left out. */
export function stateOf(look: SceneLook, nodes: readonly SceneNodeView[]): LookState {
  const { camera, isGlass, sections, colouredBy, spread, measures, note } = look;
  return {
    ...{ isGlass, sections, colouredBy, spread, measures, note, isParallel: camera.isParallel },
    hidden: withInside(nodes, new Set(usesAt(nodes, look.hidden))),
    selected: new Set(usesAt(nodes, look.selected)),
  };
}
