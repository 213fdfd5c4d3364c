/** A plan worked out again with other decisions, as the server works it out, from what the server says it is planned from. */
import type { DeriveRequest, PlanGround } from '@stem-trace/contract';
import {
  decisionsAsked,
  planLines,
  planRows,
  sketchDerivation,
  treeWords,
  type AskedDecisions,
  type PlanLine,
  type PlanRow,
  type ShownItem,
  type TreeWords,
} from '@stem-trace/core';

export interface Planned {
  readonly lines: readonly PlanLine[];
  readonly tree: readonly PlanRow[];
}

/** What has changed since the plan before: what stands at which place, or all of it where there are more or fewer. */
export interface PlannedChange {
  readonly lines: Change<PlanLine>;
  readonly tree: Change<PlanRow>;
}

type Change<T> = { readonly all: readonly T[] } | { readonly at: readonly (readonly [number, T])[] };

/** Everything of a request that a ground is made for; requests that have it in common are planned from the same. */
export function groundKey(request: DeriveRequest): string {
  const { item, configuration, baseline, rules, replace, prefix, scheme, renamed, place, added, swap, uses } =
    request;
  const others = [...swap.map(({ to }) => to), ...uses.flatMap(({ to }) => to ?? [])];
  const names = { rules, replace, prefix, scheme, renamed, place };
  return JSON.stringify([item, configuration, baseline, names, added, [...new Set(others)].sort()]);
}

/** Plans from one ground, again and again. */
export class Replanner {
  private readonly words: TreeWords;
  private readonly names;
  private readonly shown: ReadonlyMap<string, ShownItem>;
  private before: Planned = { lines: [], tree: [] };

  constructor(private readonly ground: PlanGround) {
    const { nodes, origin, rules, spare, added, takenNumbers, takenFileNames } = ground;
    this.words = treeWords(nodes, origin);
    this.shown = new Map(Object.entries(ground.shown));
    this.names = {
      ...{ nodes, rules, spare, added },
      takenNumbers: new Set(takenNumbers),
      takenFileNames: new Set(takenFileNames),
    };
  }

  /**
   * `O(nodes + lines of the tree)`
   *
   * @returns what is other than in the plan before
   * @throws Error where something is decided about that the ground does not know
   */
  plan(decisions: AskedDecisions): PlannedChange {
    const asked = decisionsAsked(decisions, this.words, (reference) => {
      const other = this.ground.others[reference];
      if (!other) throw new Error(`${reference} is not known`);
      return other;
    });
    const sketch = sketchDerivation({ ...this.names, ...asked });
    const next = {
      lines: planLines(sketch, this.shown, this.before.lines),
      tree: planRows(sketch, sketch.spots(), asked.uses, this.before.tree),
    };
    const change = {
      lines: changeOf(this.before.lines, next.lines),
      tree: changeOf(this.before.tree, next.tree),
    };
    this.before = next;
    return change;
  }
}

/** The plan after a change. */
export function changed(before: Planned, { lines, tree }: PlannedChange): Planned {
  return { lines: changedList(before.lines, lines), tree: changedList(before.tree, tree) };
}

function changedList<T>(before: readonly T[], change: Change<T>): readonly T[] {
  if ('all' in change) return change.all;
  if (change.at.length === 0) return before;
  const next = [...before];
  for (const [at, value] of change.at) next[at] = value;
  return next;
}

function changeOf<T extends object>(before: readonly T[], after: readonly T[]): Change<T> {
  if (before.length !== after.length) return { all: after };
  const at: (readonly [number, T])[] = [];
  for (const [place, value] of after.entries()) if (before[place] !== value) at.push([place, value]);
  return { at };
}
