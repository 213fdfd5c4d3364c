/** All variants of a stem, position by position, beside what they come from. */
import { countInside, isSameAmount, timesAmount } from '../bom/amount.js';
import { pairTrees } from '../bom/compare.js';
import { contentOf, itemKeyOf, type BomLine, type LineFacts } from '../bom/line.js';
import type { Amount } from '../model/amount.js';

/**
 * What a variant has at a position: the `same` content as the origin, shared or copied; a version of its `own` of the same stem;
 * an`other` item; nothing any more (`omitted`), or nothing that the origin has either (`absent`); something `added`; something that
 * may not be seen (`hidden`), of which nothing is told, not even whether it is the same.
 */
export type FamilyVerdict = 'same' | 'own' | 'other' | 'omitted' | 'absent' | 'added' | 'hidden';

export interface FamilyCell {
  readonly verdict: FamilyVerdict;
  /** Absent where there is nothing. */
  readonly line?: LineFacts;
  /** Another quantity than the origin has. */
  readonly isOtherAmount: boolean;
}

export interface FamilyRow {
  /** 1 and up. */
  readonly level: number;
  /** Of the origin, or of the first variant that has it. */
  readonly line: LineFacts;
  /** What one product needs; of the origin, or of that variant. */
  readonly total: Amount;
  /** Whether nothing lies in it, anywhere. */
  readonly isPart: boolean;
  /** Whether the origin has it. */
  readonly isOfOrigin: boolean;
  /** Different contents that the family has here, the origin's among them. */
  readonly kinds: number;
  /** One for each variant. */
  readonly cells: readonly FamilyCell[];
}

interface Growing {
  readonly line: BomLine;
  readonly total: Amount;
  readonly level: number;
  readonly isOfOrigin: boolean;
  readonly cells: (FamilyCell | undefined)[];
  readonly children: Growing[];
  /** What variants have added in it, by what tells it. */
  readonly added: Map<string, Growing>;
}

/**
 * Lines are paired as comparing pairs them; what several variants added beside each other and of one stem is one position.
 * `O(lines of all)`
 */
export function familyOf(origin: BomLine, variants: readonly BomLine[]): FamilyRow[] {
  const places = new Map<BomLine, Growing>();
  const root = grow(origin, { value: '1', unit: '', basis: 'each' }, 0, true);
  places.set(origin, root);
  const stack = [root];
  for (let top = stack.pop(); top; top = stack.pop()) {
    for (const child of top.line.children) {
      const grown = grow(child, timesAmount(child.amount, countInside(top.total)), top.level + 1, true);
      top.children.push(grown);
      places.set(child, grown);
      stack.push(grown);
    }
  }
  for (const [at, variant] of variants.entries())
    layOut(variant, pairTrees(origin, variant), { root, places, at });
  const rows: FamilyRow[] = [];
  const flat = [...root.children, ...root.added.values()].reverse();
  for (let top = flat.pop(); top; top = flat.pop()) {
    rows.push(rowOf(top, variants.length));
    flat.push(...[...top.children, ...top.added.values()].reverse());
  }
  return rows;
}

function grow(line: BomLine, total: Amount, level: number, isOfOrigin: boolean): Growing {
  return { line, total, level, isOfOrigin, cells: [], children: [], added: new Map() };
}

/** Puts the lines of one variant where they belong. */
function layOut(
  variant: BomLine,
  partners: ReadonlyMap<BomLine, BomLine>,
  {
    root,
    places,
    at,
  }: { readonly root: Growing; readonly places: ReadonlyMap<BomLine, Growing>; readonly at: number },
): void {
  const stack: { readonly line: BomLine; readonly place: Growing }[] = [{ line: variant, place: root }];
  for (let top = stack.pop(); top; top = stack.pop()) {
    const met = new Map<string, number>();
    for (const child of top.line.children) {
      const partner = partners.get(child);
      const known = partner && places.get(partner);
      const place = known ?? addedTo(top.place, child, met);
      place.cells[at] = known
        ? cellOf(known.line, child)
        : { verdict: 'added', line: child, isOtherAmount: false };
      stack.push({ line: child, place });
    }
  }
}

function addedTo(place: Growing, line: BomLine, met: Map<string, number>): Growing {
  const stem = line.stem ?? itemKeyOf(line);
  const times = (met.get(stem) ?? 0) + 1;
  met.set(stem, times);
  const key = `${stem} ${times}`;
  const known = place.added.get(key);
  if (known) return known;
  const total = timesAmount(line.amount, countInside(place.total));
  const grown = grow(line, total, place.level + 1, false);
  place.added.set(key, grown);
  return grown;
}

function cellOf(origin: BomLine, line: BomLine): FamilyCell {
  if (origin.isHidden || line.isHidden) return { verdict: 'hidden', line, isOtherAmount: false };
  const isSameStem =
    itemKeyOf(origin) === itemKeyOf(line) || (origin.stem !== undefined && origin.stem === line.stem);
  const verdict = !isSameStem ? 'other' : contentOf(origin) === contentOf(line) ? 'same' : 'own';
  return { verdict, line, isOtherAmount: !isSameAmount(origin.amount, line.amount) };
}

function rowOf(
  { line, total, level, isOfOrigin, cells, children, added }: Growing,
  variants: number,
): FamilyRow {
  const empty: FamilyCell = { verdict: isOfOrigin ? 'omitted' : 'absent', isOtherAmount: false };
  const all = Array.from({ length: variants }, (_, at) => cells[at] ?? empty);
  const lines = [...(isOfOrigin ? [line] : []), ...all.flatMap((cell) => cell.line ?? [])].filter(
    (each) => !each.isHidden,
  );
  return {
    ...{ level, line, total, isOfOrigin, cells: all },
    isPart: children.length === 0 && added.size === 0,
    kinds: new Set(lines.map((each) => `${each.stem ?? itemKeyOf(each)} ${contentOf(each)}`)).size,
  };
}

export interface Commonness {
  readonly common: number;
  readonly all: number;
}

/** How much of the origin all variants have in common: of its parts, their mass and their cost. What nobody knows counts nothing. */
export interface FamilyShares {
  readonly positions: Commonness;
  readonly massKg: Commonness;
  readonly cost: Commonness;
}

export function sharesOf(rows: readonly FamilyRow[]): FamilyShares {
  const shares = {
    positions: { common: 0, all: 0 },
    massKg: { common: 0, all: 0 },
    cost: { common: 0, all: 0 },
  };
  for (const { line, total, isPart, isOfOrigin, cells } of rows) {
    const isPaper = line.kind === 'drawing' || line.kind === 'document';
    if (!isPart || !isOfOrigin || isPaper || total.role !== undefined) continue;
    const isCommon = cells.every(({ verdict, isOtherAmount }) => verdict === 'same' && !isOtherAmount);
    const count = total.value === '' ? 0 : Number(total.value);
    const add = (to: { common: number; all: number }, value: number): void => {
      to.all += value;
      if (isCommon) to.common += value;
    };
    add(shares.positions, 1);
    add(shares.massKg, count * (line.massKg ?? 0));
    add(shares.cost, count * (line.cost ?? 0));
  }
  return shares;
}
