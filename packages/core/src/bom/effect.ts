/** What the differences of two BOMs add up to. */
import type { StateBook } from '../lifecycle/diagram.js';
import { compareStates } from '../structure/net/roll-up.js';
import type { Amount } from '../model/amount.js';
import { countInside, timesAmount } from './amount.js';
import { itemKeyOf, type BomLine } from './line.js';

/** What a whole BOM adds up to. */
export interface BomSum {
  /** Of the parts whose mass is known, in kg. */
  readonly massKg: number;
  readonly cost: number;
  /** Lines that say no mass, or no cost, of those that should. */
  readonly massUnknown: number;
  readonly costUnknown: number;
  /** Pieces of parts, and different ones. */
  readonly pieces: number;
  readonly parts: number;
  readonly bought: number;
  readonly lines: number;
  /** The least far in the lifecycle; null where nothing has a state. */
  readonly worst: string | null;
}

/** How much one item adds to the difference. */
export interface Contribution {
  readonly number: string;
  readonly name: string;
  readonly before: number;
  readonly after: number;
}

export interface Effect {
  readonly from: BomSum;
  readonly to: BomSum;
  /** What changes the mass, and what the cost, the most first; together they are the whole difference. */
  readonly mass: readonly Contribution[];
  readonly cost: readonly Contribution[];
}

interface PartTotal {
  readonly number: string;
  readonly name: string;
  readonly isBought: boolean;
  pieces: number;
  massKg: number;
  cost: number;
}

interface Summed {
  readonly sum: BomSum;
  readonly parts: ReadonlyMap<string, PartTotal>;
}

/** `O(lines)` */
export function effectOf(from: BomLine, to: BomLine, book: StateBook): Effect {
  const [before, after] = [summed(from, book), summed(to, book)];
  const contributions = (of: (part: PartTotal) => number): Contribution[] =>
    [...new Set([...before.parts.keys(), ...after.parts.keys()])]
      .map((key): Contribution => {
        const [left, right] = [before.parts.get(key), after.parts.get(key)];
        const { number = '', name = '' } = right ?? left ?? {};
        return { number, name, before: left ? of(left) : 0, after: right ? of(right) : 0 };
      })
      .filter((each) => each.before !== each.after)
      .sort((a, b) => Math.abs(b.after - b.before) - Math.abs(a.after - a.before));
  return {
    from: before.sum,
    to: after.sum,
    mass: contributions(({ massKg }) => massKg),
    cost: contributions(({ cost }) => cost),
  };
}

/**
 * What one of a line weighs and costs: what it says, or what lies below it adds up to. Absent where something of it is not known.
 * `O(lines)`
 */
export function measureOf(line: BomLine): Pick<BomLine, 'massKg' | 'cost'> {
  const { massKg, cost, massUnknown, costUnknown } = summed(
    {
      ...line,
      children: [{ ...line, amount: ONE }],
    },
    NO_STATES,
  ).sum;
  return { ...(massUnknown === 0 ? { massKg } : {}), ...(costUnknown === 0 ? { cost } : {}) };
}

/** Where only sums are asked for. */
const NO_STATES: StateBook = new Map();

const ONE: Amount = { value: '1', unit: '', basis: 'each' };

function summed(root: BomLine, book: StateBook): Summed {
  const compare = compareStates(book);
  const parts = new Map<string, PartTotal>();
  let [massKg, cost, massUnknown, costUnknown, lines] = [0, 0, 0, 0, 0];
  let worst: string | null = null;
  const stack: { readonly line: BomLine; readonly count: string }[] = root.children.map((line) => ({
    line,
    count: '1',
  }));
  for (let top = stack.pop(); top; top = stack.pop()) {
    const { line, count } = top;
    if (line.amount.role !== undefined) continue;
    lines++;
    if (line.state && (worst === null || compare(line.state, worst) < 0)) worst = line.state;
    const total = timesAmount(line.amount, count);
    if (line.children.length > 0) {
      for (const child of line.children) stack.push({ line: child, count: countInside(total) });
      continue;
    }
    if (line.kind === 'drawing' || line.kind === 'document') continue;
    const amount = total.value === '' ? 0 : Number(total.value);
    if (line.massKg === undefined) massUnknown++;
    if (line.cost === undefined) costUnknown++;
    // A copy weighs in the place of what it was copied from.
    const key = line.stem ?? itemKeyOf(line);
    const part = parts.get(key) ?? {
      number: line.number,
      name: line.name,
      isBought: line.source === 'bought',
      ...{ pieces: 0, massKg: 0, cost: 0 },
    };
    parts.set(key, part);
    if (line.amount.unit === '') part.pieces += amount;
    part.massKg += amount * (line.massKg ?? 0);
    part.cost += amount * (line.cost ?? 0);
    massKg += amount * (line.massKg ?? 0);
    cost += amount * (line.cost ?? 0);
  }
  const all = [...parts.values()];
  return {
    parts,
    sum: {
      ...{ massKg, cost, massUnknown, costUnknown, lines, worst },
      pieces: all.reduce((sum, part) => sum + part.pieces, 0),
      parts: all.length,
      bought: all.filter(({ isBought }) => isBought).length,
    },
  };
}
