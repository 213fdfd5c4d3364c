/**
 * Three-way merge of lists of rows that lie in one another: what two sides changed of one that both come from.
 *
 * A row is told by its id. What one side changed is taken; what both changed alike is taken once; where they contradict, somebody
 * decides. A deletion is carried out, and what the other side keeps in a deleted row moves out to where that row lay. Seen from
 * the other side, the result is the same where nothing contradicts. `O(rows × fields)`
 */
import { addTo } from '../collections.js';
import { parentsOf } from './model.js';

export interface MergeRow {
  readonly id: string;
  readonly level: number;
  /** Of a merged row: the very fields of the side that it agrees with, where there is one. */
  readonly fields: Readonly<Record<string, string>>;
}

export type Side = 'mine' | 'theirs';

export interface Contradiction {
  readonly id: string;
  /** A field; or that one side deleted what the other changed, that each put a row into the other, or that both ordered anew. */
  readonly what: string;
  /** Undefined where the row is not there. */
  readonly base: string | undefined;
  readonly mine: string | undefined;
  readonly theirs: string | undefined;
}

export interface Merged {
  readonly rows: readonly MergeRow[];
  readonly contradictions: readonly Contradiction[];
  /** Rows that lie further out than either side had them, because what they lay in was deleted. */
  readonly movedOut: readonly string[];
}

/** By `keyOfContradiction`; mine where nothing is said. */
export type Decisions = ReadonlyMap<string, Side>;

export const DELETED = 'deleted';
export const LIES_IN = 'lies in';
export const ORDER = 'order';

export function keyOfContradiction({ id, what }: Pick<Contradiction, 'id' | 'what'>): string {
  return `${what} of ${id}`;
}

interface Node {
  readonly id: string;
  readonly parent: string;
  readonly fields: Readonly<Record<string, string>>;
}

const NO_FIELDS: MergeRow['fields'] = {};

/** The id of what all rows lie in. */
const TOP = '';

interface Forest {
  readonly nodes: ReadonlyMap<string, Node>;
  readonly children: ReadonlyMap<string, readonly string[]>;
}

function forestOf(rows: readonly MergeRow[]): Forest {
  const parents = parentsOf(rows);
  const nodes = new Map<string, Node>();
  const children = new Map<string, string[]>();
  for (const [at, { id, fields }] of rows.entries()) {
    const parent = rows[parents[at] ?? -1]?.id ?? TOP;
    nodes.set(id, { id, parent, fields });
    addTo(children, parent, id);
  }
  return { nodes, children };
}

export interface MergeOptions {
  readonly decisions?: Decisions;
  /** Fields that do not count as a change of what the other side deleted. */
  readonly light?: readonly string[];
}

export function mergeRows(
  base: readonly MergeRow[],
  mine: readonly MergeRow[],
  theirs: readonly MergeRow[],
  options: MergeOptions = {},
): Merged {
  return new Merging(forestOf(base), forestOf(mine), forestOf(theirs), options).result();
}

class Merging {
  private readonly contradictions: Contradiction[] = [];
  private readonly movedOut: string[] = [];
  private readonly decisions: Decisions;
  private readonly light: ReadonlySet<string>;
  /** Where each row stood in the base. */
  private readonly places: ReadonlyMap<string, number>;

  constructor(
    private readonly base: Forest,
    private readonly mine: Forest,
    private readonly theirs: Forest,
    { decisions = new Map(), light = [] }: MergeOptions,
  ) {
    this.decisions = decisions;
    this.light = new Set(light);
    this.places = new Map([...base.nodes.keys()].map((id, at) => [id, at]));
  }

  result(): Merged {
    const kept = this.keptIds();
    const parents = new Map([...kept].map((id) => [id, this.parentOf(id, kept)]));
    this.untie(parents, kept);
    const children = new Map<string, string[]>();
    for (const [id, parent] of parents) addTo(children, parent, id);
    const rows: MergeRow[] = [];
    const stack = this.inOrder(TOP, children.get(TOP) ?? [])
      .reverse()
      .map((id) => ({ id, level: 1 }));
    for (let top = stack.pop(); top; top = stack.pop()) {
      const { id, level } = top;
      rows.push({ id, level, fields: this.fieldsOf(id) });
      const inside = this.inOrder(id, children.get(id) ?? []);
      for (const child of inside.reverse()) stack.push({ id: child, level: level + 1 });
    }
    return { rows, contradictions: this.contradictions, movedOut: this.movedOut };
  }

  private decide(contradiction: Contradiction): Side {
    this.contradictions.push(contradiction);
    return this.decisions.get(keyOfContradiction(contradiction)) ?? 'mine';
  }

  private keptIds(): Set<string> {
    const kept = new Set<string>();
    for (const id of new Set([...this.mine.nodes.keys(), ...this.theirs.nodes.keys()])) {
      const [was, one, other] = [this.base.nodes.get(id), this.mine.nodes.get(id), this.theirs.nodes.get(id)];
      if (!was || (one && other)) kept.add(id);
      else if (this.survives(was, one, other)) kept.add(id);
    }
    return kept;
  }

  /** Whether a row stays that one side deleted. */
  private survives(was: Node, one: Node | undefined, other: Node | undefined): boolean {
    const left = one ?? other;
    if (!left || !this.isChanged(was, left)) return false;
    const say = (node: Node | undefined): string | undefined => node && 'changed';
    const side = this.decide({
      id: was.id,
      what: DELETED,
      base: 'there',
      mine: say(one),
      theirs: say(other),
    });
    return (side === 'mine') === (one !== undefined);
  }

  private isChanged(was: Node, is: Node): boolean {
    return namesOf(was, is).some((name) => !this.light.has(name) && was.fields[name] !== is.fields[name]);
  }

  private fieldsOf(id: string): MergeRow['fields'] {
    const was = this.base.nodes.get(id)?.fields ?? NO_FIELDS;
    const [one, other] = [this.mine.nodes.get(id)?.fields, this.theirs.nodes.get(id)?.fields];
    if (!one || !other) return one ?? other ?? NO_FIELDS;
    const fields: Record<string, string> = {};
    let [isOne, isOther] = [true, true];
    const take = (name: string): void => {
      const [mine, theirs] = [one[name], other[name]];
      const value = mine === theirs ? mine : this.oneOf(id, name, was[name], mine, theirs);
      if (value !== mine) isOne = false;
      if (value !== theirs) isOther = false;
      if (value !== undefined) fields[name] = value;
    };
    for (const name in one) take(name);
    for (const name in other) if (!(name in one)) take(name);
    return isOne ? one : isOther ? other : fields;
  }

  private oneOf(
    id: string,
    what: string,
    base: string | undefined,
    mine: string | undefined,
    theirs: string | undefined,
  ): string | undefined {
    if (mine === theirs || theirs === base) return mine;
    if (mine === base) return theirs;
    return this.decide({ id, what, base, mine, theirs }) === 'mine' ? mine : theirs;
  }

  /** Where a row lies: in what it lies in by the merge, or further out where that is gone. */
  private parentOf(id: string, kept: ReadonlySet<string>): string {
    const [was, one, other] = [this.base.nodes.get(id), this.mine.nodes.get(id), this.theirs.nodes.get(id)];
    const parent =
      one && other
        ? (this.oneOf(id, LIES_IN, was?.parent, one.parent, other.parent) ?? TOP)
        : (one ?? other)?.parent;
    return this.outOf(id, parent ?? TOP, kept);
  }

  private outOf(id: string, parent: string, kept: ReadonlySet<string>): string {
    let at = parent;
    const seen = new Set<string>();
    while (at !== TOP && !kept.has(at) && !seen.has(at)) {
      seen.add(at);
      at = (this.base.nodes.get(at) ?? this.mine.nodes.get(at) ?? this.theirs.nodes.get(at))?.parent ?? TOP;
    }
    const found = kept.has(at) ? at : TOP;
    if (found !== parent) this.movedOut.push(id);
    return found;
  }

  /** Each side put one of two rows into the other: both lie where the decided side has them. */
  private untie(parents: Map<string, string>, kept: ReadonlySet<string>): void {
    const safe = new Set<string>([TOP]);
    for (const id of [...parents.keys()].sort()) {
      const way: string[] = [];
      const onWay = new Set<string>();
      let at = id;
      while (!safe.has(at) && !onWay.has(at)) {
        way.push(at);
        onWay.add(at);
        at = parents.get(at) ?? TOP;
      }
      if (!safe.has(at)) {
        const loop = way.slice(way.indexOf(at)).sort();
        const of = loop[0] ?? at;
        const lies = (forest: Forest): string | undefined => forest.nodes.get(of)?.parent;
        const side = this.decide({
          ...{ id: of, what: LIES_IN, base: lies(this.base) },
          ...{ mine: lies(this.mine), theirs: lies(this.theirs) },
        });
        const forest = side === 'mine' ? this.mine : this.theirs;
        for (const each of loop)
          parents.set(each, this.outOf(each, forest.nodes.get(each)?.parent ?? TOP, kept));
        // Where rows of the other side are on the way, the loop may not be open yet.
        if (this.isLoop(of, parents)) parents.set(of, TOP);
      }
      for (const each of way) if (!this.isLoop(each, parents)) safe.add(each);
    }
  }

  private isLoop(id: string, parents: ReadonlyMap<string, string>): boolean {
    const seen = new Set<string>();
    for (let at = id; at !== TOP; at = parents.get(at) ?? TOP) {
      if (seen.has(at)) return true;
      seen.add(at);
    }
    return false;
  }

  /** Orders what lies in a row: as the side that ordered anew, with what only one side has behind what it follows there. */
  private inOrder(parent: string, ids: readonly string[]): string[] {
    if (ids.length < 2) return [...ids];
    const wanted = new Set(ids);
    const [base, mine, theirs] = [this.base, this.mine, this.theirs].map((forest) =>
      (forest.children.get(parent) ?? []).filter((id) => wanted.has(id)),
    ) as [string[], string[], string[]];
    const inMine = new Set(mine);
    const both = new Set(theirs.filter((id) => inMine.has(id)));
    const skeleton = this.skeleton(parent, both, base, mine, theirs);
    const after = new Map<string, string[][]>();
    for (const side of [mine, theirs])
      for (const [anchor, run] of runsIn(side, both)) addTo(after, anchor, run);
    // A run that both sides could have is in one place, whichever side is called mine.
    for (const runs of after.values()) runs.sort((a, b) => ((a[0] ?? '') < (b[0] ?? '') ? -1 : 1));
    const ordered: string[] = [];
    for (const id of [TOP, ...skeleton]) {
      if (id !== TOP) ordered.push(id);
      ordered.push(...(after.get(id)?.flat() ?? []));
    }
    const placed = new Set(ordered);
    const moved = ids.filter((id) => !placed.has(id));
    return [...ordered, ...this.asTheyCame(moved)];
  }

  private skeleton(
    parent: string,
    both: ReadonlySet<string>,
    base: readonly string[],
    mine: readonly string[],
    theirs: readonly string[],
  ): string[] {
    const [one, other] = [mine.filter((id) => both.has(id)), theirs.filter((id) => both.has(id))];
    const was = base.filter((id) => both.has(id));
    const known = new Set(was);
    const isAsBefore = (side: readonly string[]): boolean =>
      isSameOrder(
        side.filter((id) => known.has(id)),
        was,
      );
    if (isSameOrder(one, other)) return one;
    const [isOne, isOther] = [isAsBefore(one), isAsBefore(other)];
    // Where neither ordered anew what there was, they put the same new rows into it, each in another order.
    if (isOne !== isOther) return isOne ? other : one;
    const say = (ids: readonly string[]): string => ids.join('\n');
    const side = this.decide({
      ...{ id: parent, what: ORDER, base: say(was), mine: say(one), theirs: say(other) },
    });
    return side === 'mine' ? one : other;
  }

  /** Rows that moved out of what was deleted: as they stood in the base, the others by their ids. */
  private asTheyCame(ids: readonly string[]): string[] {
    const place = (id: string): number => this.places.get(id) ?? Infinity;
    return [...ids].sort((a, b) => (place(a) === place(b) ? (a < b ? -1 : 1) : place(a) - place(b)));
  }
}

function namesOf(...nodes: readonly (Node | undefined)[]): string[] {
  return [...new Set(nodes.flatMap((node) => Object.keys(node?.fields ?? {})))];
}

function isSameOrder(one: readonly string[], other: readonly string[]): boolean {
  return one.length === other.length && one.every((id, at) => id === other[at]);
}

/** What stands between rows that both sides have, under the one that it follows. */
function runsIn(side: readonly string[], both: ReadonlySet<string>): Map<string, string[]> {
  const runs = new Map<string, string[]>();
  let anchor = TOP;
  for (const id of side) {
    if (both.has(id)) anchor = id;
    else addTo(runs, anchor, id);
  }
  return runs;
}
