/** What the colours of a picture tell: groups of uses with a colour each, for the picture and its legend. */
import type { ColouredBy, TraitRow, TraitsAnswer } from '@stem-trace/contract';
import { inLane, type Lane, type StateBook } from '@stem-trace/core';
import { Color } from 'three';
import { sayMass, type Showing } from '../../../ui/showing.js';

export interface ColourGroup {
  readonly key: string;
  readonly says: string;
  readonly colour: string;
  /** Uses of it, places in the scene's nodes. */
  readonly nodes: readonly number[];
}

/** Told apart also by those who see fewer colours: they differ in lightness as well. Copper is what is selected. */
const SERIES = [
  '#0b6e80',
  '#d9b02f',
  '#6b4fa1',
  '#8fae3c',
  '#2f5fb3',
  '#a33a5e',
  '#5fb7a6',
  '#4b5a61',
] as const;
const NONE = '#c9d1d4';
const UNSEEN = '#eef1f2';
/** From little to much. */
const STEPS = ['#d3e7ea', '#8fc4cc', '#4a9cab', '#1b7080', '#08404b'] as const;
const ATTENTION = '#a33a5e';
const CALM = '#9fb6bb';

/** By what is locked; what another state of the same lane comes to stands for itself in the legend. */
const LANE_COLOURS: Readonly<Record<Lane, readonly [string, ...string[]]>> = {
  open: ['#d9b02f', '#b58410', '#ecd98a'],
  'under check': ['#2f5fb3', '#7b9bd4', '#1d3f7d'],
  locked: ['#0b6e80', '#8d989d', '#5fb7a6'],
  'out of use': ['#a33a5e', '#c98aa0', '#6e2440'],
};

function stateColour(book: StateBook, state: string): string {
  const lane = book.get(state)?.lane;
  if (lane === undefined) return NONE;
  const at = inLane(book, lane).findIndex(({ name }) => name === state);
  const colours = LANE_COLOURS[lane];
  return colours[at % colours.length] ?? colours[0];
}
const LINEAGE = {
  copied: { says: 'copied from the origin', colour: '#d9b02f' },
  shared: { says: 'shared with the origin', colour: '#0b6e80' },
  own: { says: 'its own', colour: '#6b4fa1' },
} as const;

const DAY_MS = 86_400_000;
const AGES = [
  { days: 7, says: 'changed within a week' },
  { days: 30, says: 'within a month' },
  { days: 90, says: 'within three months' },
  { days: 365, says: 'within a year' },
  { days: Infinity, says: 'longer ago' },
] as const;
/** Up to these masses, kg. */
const MASSES = [0.01, 0.1, 1, 10, Infinity] as const;

interface Grouped {
  readonly key: string;
  readonly says: string;
  readonly colour?: string;
  /** Where it stands in the legend; the largest group first where it is not said. */
  readonly order?: number;
}

/**
 * Groups of all uses that have a mesh, in the order of the legend. What one may not see is a group of its own.
 *
 * @param drawn uses of which something is drawn
 */
export function coloured(
  by: Exclude<ColouredBy, 'file'>,
  traits: TraitsAnswer,
  {
    drawn,
    mass,
    now,
    book,
  }: {
    readonly drawn: ReadonlySet<number>;
    readonly mass: Showing['mass'];
    readonly now: number;
    readonly book: StateBook;
  },
): ColourGroup[] {
  const groups = new Map<string, Grouped & { readonly nodes: number[] }>();
  for (const node of drawn) {
    const row = traits.rows[traits.of[node] ?? -1];
    const group = row
      ? groupOf(by, row, { mass, now, book })
      : { key: '\0', says: 'hidden from you', colour: UNSEEN, order: 99 };
    const known = groups.get(group.key) ?? { ...group, nodes: [] };
    groups.set(group.key, known);
    known.nodes.push(node);
  }
  const sorted = [...groups.values()].sort(
    (a, b) =>
      (a.order ?? 50) - (b.order ?? 50) || b.nodes.length - a.nodes.length || a.says.localeCompare(b.says),
  );
  let next = 0;
  return sorted.map(({ key, says, colour, nodes }) => {
    // More groups than there are colours share the last.
    const own = colour ?? SERIES[Math.min(next++, SERIES.length - 1)] ?? NONE;
    return { key, says, colour: own, nodes };
  });
}

function groupOf(
  by: Exclude<ColouredBy, 'file'>,
  row: TraitRow,
  { mass, now, book }: { readonly mass: Showing['mass']; readonly now: number; readonly book: StateBook },
): Grouped {
  switch (by) {
    case 'state':
      return { key: row.state, says: row.state, colour: stateColour(book, row.state) };
    case 'behind':
      return row.behind > 0
        ? { key: 'behind', says: 'behind the newest', colour: ATTENTION, order: 0 }
        : { key: 'newest', says: 'the newest', colour: CALM, order: 1 };
    case 'holder':
      return row.holder === ''
        ? { key: '', says: 'held by nobody', colour: NONE, order: 90 }
        : { key: row.holder, says: row.holder };
    case 'class':
      return row.class === ''
        ? { key: '', says: 'without a class', colour: NONE, order: 90 }
        : { key: row.class, says: row.class };
    case 'lineage':
      return { key: row.lineage, ...LINEAGE[row.lineage] };
    case 'age': {
      const days = (now - Date.parse(row.changedAt)) / DAY_MS;
      const at = AGES.findIndex((age) => days <= age.days);
      return { key: String(at), says: AGES[at]?.says ?? '', colour: STEPS[4 - at] ?? NONE, order: at };
    }
    case 'mass': {
      const { massKg } = row;
      if (massKg === null) return { key: '', says: 'nobody knows it', colour: NONE, order: 90 };
      const at = MASSES.findIndex((most) => massKg <= most);
      const [low, high] = [MASSES[at - 1], MASSES[at]].map((kg) =>
        kg === undefined || kg === Infinity ? undefined : sayMass(kg, mass),
      );
      const says =
        low === undefined ? `up to ${high}` : high === undefined ? `over ${low}` : `${low} to ${high}`;
      return { key: String(at), says, colour: STEPS[at] ?? NONE, order: at };
    }
  }
}

/** The colour of each use. */
export function coloursOf(groups: readonly ColourGroup[]): ReadonlyMap<number, Color> {
  return new Map(
    groups.flatMap(({ colour, nodes }) => {
      const shown = new Color(colour);
      return nodes.map((node) => [node, shown] as const);
    }),
  );
}
