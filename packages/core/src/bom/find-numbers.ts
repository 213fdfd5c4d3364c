/** Find numbers: what the rows of an assembly are called by in its BOM and in the balloons of its drawing (ISO 6433). */
import { addTo } from '../collections.js';
import { numberKey } from '../numbering/number.js';

/** Most digits of a number that is counted on. */
const COUNTED = /^\d{1,9}$/;

/**
 * Numbers for rows that have none: they follow the highest one that there is, in the order of the rows, so that no row that had
 * a number gets another one.
 *
 * @param finds empty where a row has none
 */
export function proposeFinds(finds: readonly string[]): string[] {
  let next = finds.reduce((most, find) => (COUNTED.test(find) ? Math.max(most, Number(find)) : most), 0);
  return finds.map((find) => (find === '' ? String(++next) : find));
}

/** What is wrong with the find numbers of an assembly. */
export interface FindFault {
  readonly kind: 'twice' | 'hole' | 'none';
  readonly rows: readonly number[];
  readonly says: string;
}

/** Most holes that are named one by one. */
const MOST_HOLES = 20;

/**
 * Numbers given twice, rows without one among others that have one, and holes. An assembly in which no row has a number has
 * nothing wrong with them.
 */
export function checkFinds(finds: readonly string[]): FindFault[] {
  const rows = new Map<string, number[]>();
  for (const [at, find] of finds.entries()) addTo(rows, find, at);
  const none = rows.get('') ?? [];
  rows.delete('');
  if (rows.size === 0) return [];
  const faults: FindFault[] = [...rows]
    .filter(([, at]) => at.length > 1)
    .map(([find, at]) => ({
      kind: 'twice',
      rows: at,
      says: `find number ${find} is given ${at.length} times`,
    }));
  if (none.length > 0)
    faults.push({
      kind: 'none',
      rows: none,
      says: `${none.length} ${none.length === 1 ? 'row has' : 'rows have'} no find number`,
    });
  const counted = [...rows.keys()]
    .filter((find) => COUNTED.test(find))
    .map(Number)
    .sort((a, b) => a - b);
  const holes = holesIn(counted);
  if (holes.length > 0)
    faults.push({
      kind: 'hole',
      rows: [],
      says: `no row has find number ${holes.slice(0, MOST_HOLES).join(', ')}${holes.length > MOST_HOLES ? ' …' : ''}`,
    });
  return faults;
}

/** Where numbers are counted in steps of ten, holes are steps that are left out. */
function holesIn(counted: readonly number[]): number[] {
  const step = counted.length > 1 && counted.every((find) => find % 10 === 0) ? 10 : 1;
  const holes: number[] = [];
  let expected = step;
  for (const find of counted) {
    for (; expected < find && holes.length <= MOST_HOLES; expected += step) holes.push(expected);
    expected = Math.max(expected, find + step);
  }
  return holes;
}

/** A row of the list of parts on a drawing (ISO 7573). */
export interface DrawnPart {
  readonly find: string;
  readonly number: string;
}

/** Find numbers that the list of a drawing gives to rows of an assembly. */
export interface DrawnFinds {
  /** By row; empty where the list does not say, or not which of several. */
  readonly finds: readonly string[];
  /** Rows that have another number than the list gives them. */
  readonly otherwise: readonly number[];
}

/**
 * Reads the list of a drawing into rows of an assembly. Rows of one item that stand apart take the numbers of the list in order,
 * where it has as many of them; else nobody can tell which is which. `O(rows + parts)`
 *
 * @param rows what each row is now
 */
export function findsFromDrawing(rows: readonly DrawnPart[], parts: readonly DrawnPart[]): DrawnFinds {
  const listed = new Map<string, string[]>();
  for (const { number, find } of parts) addTo(listed, numberKey(number), find);
  const used = new Map<string, number[]>();
  for (const [at, { number }] of rows.entries()) addTo(used, numberKey(number), at);
  const finds = rows.map(() => '');
  for (const [key, said] of listed) {
    const at = used.get(key) ?? [];
    if (at.length === said.length) for (const [of, row] of at.entries()) finds[row] = said[of] ?? '';
  }
  const otherwise = [...finds.entries()]
    .filter(([at, find]) => find !== '' && rows[at]?.find !== '' && rows[at]?.find !== find)
    .map(([at]) => at);
  return { finds, otherwise };
}
