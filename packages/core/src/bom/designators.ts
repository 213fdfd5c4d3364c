/** Reference designators: the names of places in a circuit or a diagram, `R1`, `C12`, `X3A` (IEC 81346-2, IEEE 315). */

/** More are not read of one text. */
const MOST_DESIGNATORS = 20_000;
const NUMBERED = /^(.*?)(\d{1,9})([A-Za-z]?)$/;
const RANGE = /^(.*\d[A-Za-z]?)([–-])([A-Za-z_]*\d{1,9}[A-Za-z]?)$/;

export type ParsedDesignators =
  | { readonly kind: 'designators'; readonly designators: readonly string[] }
  /** A sentence about what is wrong with it. */
  | { readonly kind: 'problem'; readonly says: string };

/**
 * Reads a list as it stands in a BOM: `R1–R4, R7; C3`, also `R1-4`. Each once, in the order of their names.
 */
export function parseDesignators(text: string): ParsedDesignators {
  const found = new Set<string>();
  // One sign for all that mean “to”, without blanks, so that blanks part.
  const parts = text
    .replace(/\s*(?:\.{2,3}|[–—])\s*/g, '–')
    .replace(/\s+-\s+/g, '-')
    .split(/[,;\s]+/);
  for (const part of parts) {
    const names = namesOf(part);
    if (!names) return { kind: 'problem', says: `“${part}” is no range of designators, such as R1–R4` };
    for (const name of names) found.add(name);
    if (found.size > MOST_DESIGNATORS)
      return { kind: 'problem', says: `more than ${MOST_DESIGNATORS.toLocaleString('en-GB')} designators` };
  }
  found.delete('');
  return { kind: 'designators', designators: [...found].sort(compareDesignators) };
}

/** A name, or all of a range; undefined for a range that is none. A hyphen may also be part of a name: `X-1`. */
function namesOf(part: string): readonly string[] | undefined {
  const range = RANGE.exec(part);
  const names = range && between(range[1] ?? '', range[3] ?? '');
  if (names) return names;
  // `K1-A2` is one name; `R4-R1` and `R1–C4` are ranges that lead nowhere.
  const isName = !part.includes('–') && (!range || lettersOf(range[1] ?? '') !== lettersOf(range[3] ?? ''));
  return isName && !/-\d+[A-Za-z]?$/.test(part) ? [part] : isName && !range ? [part] : undefined;
}

function lettersOf(name: string): string {
  return NUMBERED.exec(name)?.[1] ?? '';
}

/** All from one to another; undefined where they are no range. */
function between(first: string, last: string): string[] | undefined {
  const from = NUMBERED.exec(first);
  const to = NUMBERED.exec(last);
  if (!from || !to || from[3] !== to[3]) return undefined;
  // `R1-4` leaves the letters of the second away.
  if (to[1] !== '' && to[1] !== from[1]) return undefined;
  const [start, end] = [Number(from[2]), Number(to[2])];
  if (end < start || end - start >= MOST_DESIGNATORS) return undefined;
  // Zeros in front are part of the name.
  const digits = from[2]?.startsWith('0') ? from[2].length : 0;
  return Array.from(
    { length: end - start + 1 },
    (_, at) => `${from[1]}${String(start + at).padStart(digits, '0')}${from[3]}`,
  );
}

const COLLATOR = new Intl.Collator('en', { numeric: true });

/** R2 before R10. */
export function compareDesignators(a: string, b: string): number {
  return COLLATOR.compare(a, b) || (a < b ? -1 : a > b ? 1 : 0);
}

/** As `parseDesignators` reads it: three and more in a row are a range. */
export function sayDesignators(designators: readonly string[]): string {
  const sorted = [...new Set(designators)].sort(compareDesignators);
  const runs: string[][] = [];
  for (const name of sorted) {
    const run = runs.at(-1);
    if (run && follows(run.at(-1) ?? '', name)) run.push(name);
    else runs.push([name]);
  }
  return runs.flatMap((run) => (run.length < 3 ? run : [`${run[0]}–${run.at(-1)}`])).join(', ');
}

function follows(before: string, name: string): boolean {
  const [a, b] = [NUMBERED.exec(before), NUMBERED.exec(name)];
  if (!a || !b || a[1] !== b[1] || a[3] !== b[3] || a[3] !== '') return false;
  // A range must read back as just these.
  if (a[1] === '' || /[,;\s.–—-]|\d$/.test(a[1] ?? '')) return false;
  if ((a[2]?.startsWith('0') || b[2]?.startsWith('0')) && a[2]?.length !== b[2]?.length) return false;
  return Number(b[2]) === Number(a[2]) + 1;
}

/** What is wrong with the designators of a list: named twice, or not as many as there are pieces. */
export interface DesignatorFault {
  readonly kind: 'twice' | 'count';
  /** Places of the rows in the list. */
  readonly rows: readonly number[];
  readonly says: string;
}

/**
 * @param rows of one assembly
 * @returns faults in the order of rows; `O(designators)`
 */
export function checkDesignators(
  rows: readonly { readonly designators: readonly string[]; readonly pieces?: number }[],
): DesignatorFault[] {
  const users = new Map<string, number[]>();
  const faults: DesignatorFault[] = [];
  for (const [at, { designators, pieces }] of rows.entries()) {
    for (const name of designators) users.set(name, [...(users.get(name) ?? []), at]);
    if (designators.length > 0 && pieces !== undefined && pieces !== designators.length)
      faults.push({
        kind: 'count',
        rows: [at],
        says: `${designators.length} designators for ${pieces} ${pieces === 1 ? 'piece' : 'pieces'}`,
      });
  }
  for (const [name, at] of users)
    if (at.length > 1) faults.push({ kind: 'twice', rows: at, says: `${name} is named ${at.length} times` });
  return faults.sort((a, b) => (a.rows[0] ?? 0) - (b.rows[0] ?? 0));
}
