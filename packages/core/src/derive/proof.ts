import { addTo } from '../collections.js';
import { folderOf, pathsOf } from '../intake/locate.js';
import { numberKey } from '../numbering/number.js';
import type { FileReading } from '../model/reading.js';

/** What the store says about one reference of a copied item, to be found again in the fetched files. */
export interface ExpectedReference {
  /** Path of the fetched file that must hold the reference. */
  readonly path: string;
  readonly parentNumber: string;
  readonly childNumber: string;
  /** Path of the file that must be meant; the same as `path` where the child lives in the parent's file. */
  readonly childPath: string;
  readonly quantity: number;
  readonly kind: 'copied' | 'shared';
}

export interface Proof {
  /** References of copied items that were looked for. */
  readonly references: number;
  readonly copied: number;
  readonly shared: number;
  /** References, anywhere in the fetched files, whose file is not among them or that do not say what they should. */
  readonly dangling: number;
  /** Places in copied files that still name an item of the origin that was copied. */
  readonly leaking: number;
  /** Each fault in words: the file, and what is wrong there. */
  readonly faults: readonly string[];
}

export interface ProofInput {
  /** What an independent reading of the fetched files found, by path. */
  readonly readings: ReadonlyMap<string, FileReading>;
  readonly expected: readonly ExpectedReference[];
  /** Paths of the files that are copies. */
  readonly copiedPaths: ReadonlySet<string>;
  /** Numbers and file names of the origin's items that were copied. */
  readonly originNames: ReadonlySet<string>;
  /** Locators that were gaps already in the origin, by path; they are no fault of the derivation. */
  readonly knownGaps: ReadonlySet<string>;
}

/** A proof with what another witness found: what both saw is counted by both. */
export function withFindings(
  proof: Proof,
  { dangling, leaking }: { readonly dangling: readonly string[]; readonly leaking: readonly string[] },
): Proof {
  return {
    ...proof,
    dangling: proof.dangling + dangling.length,
    leaking: proof.leaking + leaking.length,
    faults: [...proof.faults, ...dangling, ...leaking],
  };
}

/** How often each reference stands in the files, by what it says; and what leads nowhere, in words. */
function readReferences({ readings, knownGaps }: Pick<ProofInput, 'readings' | 'knownGaps'>): {
  readonly found: ReadonlyMap<string, Found>;
  readonly faults: readonly string[];
} {
  const faults: string[] = [];
  const found = new Map<string, Found>();
  for (const [path, reading] of readings) {
    for (const reference of referencesIn(path, reading, readings)) {
      const key = referenceKey(reference.path, reference.parent, reference.child, reference.childPath);
      const known = found.get(key);
      if (known) known.quantity++;
      else found.set(key, { quantity: 1 });
      if (reference.childPath !== undefined) continue;
      const gap = `${path}#${reference.locator}`;
      if (known || knownGaps.has(gap)) continue;
      faults.push(`${path}: '${reference.locator}' leads to no fetched file`);
    }
  }
  return { found, faults };
}

function isFound(
  expected: ExpectedReference,
  found: ReadonlyMap<string, Found>,
  readings: ProofInput['readings'],
): boolean {
  return candidatesFor(expected, readings).some(
    ([parent, child, childAt]) =>
      found.get(referenceKey(expected.path, parent, child, childAt))?.quantity === expected.quantity,
  );
}

/**
 * Of each reference that the store has, in the order given, whether the fetched files say it. Those that a file cannot tell
 * apart are found together or not at all. `O(references)`
 */
export function foundReferences(input: Pick<ProofInput, 'readings' | 'knownGaps' | 'expected'>): boolean[] {
  const { found } = readReferences(input);
  const judged = new Map(
    [...summedByKey(input.expected)].map(([key, expected]) => [
      key,
      isFound(expected, found, input.readings),
    ]),
  );
  return input.expected.map((each) => judged.get(keyOf(each)) ?? false);
}

/** Compares the fetched files of a variant with the plan: every reference, counted. `O(references)`. */
export function proveVariant(input: ProofInput): Proof {
  const { found, faults: leadingNowhere } = readReferences(input);
  const faults = [...leadingNowhere];
  let dangling = faults.length;
  let copied = 0;
  let shared = 0;
  const expectations = summed(input.expected);
  for (const expected of expectations) {
    const { path, parentNumber, childNumber, childPath } = expected;
    if (!isFound(expected, found, input.readings)) {
      dangling++;
      faults.push(
        `${path}: ${parentNumber} should use ${childNumber} ×${expected.quantity} from ${childPath}`,
      );
    } else if (expected.kind === 'copied') copied++;
    else shared++;
  }
  const leaks = findLeaks(input);
  return {
    references: expectations.length,
    copied,
    shared,
    dangling,
    leaking: leaks.length,
    faults: [...faults, ...leaks],
  };
}

/**
 * Expectations that a file cannot tell apart are one: uses in different configurations, and several placeholders of one
 * file that are called the same.
 */
function summed(expected: readonly ExpectedReference[]): ExpectedReference[] {
  return [...summedByKey(expected).values()];
}

function summedByKey(expected: readonly ExpectedReference[]): Map<string, ExpectedReference> {
  const sums = new Map<string, ExpectedReference>();
  for (const each of expected) {
    const key = keyOf(each);
    const before = sums.get(key);
    sums.set(key, before ? { ...before, quantity: before.quantity + each.quantity } : each);
  }
  return sums;
}

function keyOf({ path, parentNumber, childNumber, childPath }: ExpectedReference): string {
  return referenceKey(path, parentNumber, childNumber, childPath);
}

/** How a file may say a reference: a drawing names what it draws on by its path alone, and what it shows by its number. */
function candidatesFor(
  { path, parentNumber, childNumber, childPath }: ExpectedReference,
  readings: ProofInput['readings'],
): [parent: string, child: string, childPath: string | undefined][] {
  const reading = readings.get(path);
  // A drawing without a title block does not say its own number.
  const silent = reading?.products[reading.root]?.id === '' ? [''] : [];
  return [parentNumber, ...silent].flatMap((parent): [string, string, string | undefined][] => [
    [parent, childNumber, childPath],
    [parent, '', childPath],
    [parent, childNumber, NAMED_ONLY],
  ]);
}

/** No path is empty. */
const NAMED_ONLY = '';

interface Found {
  quantity: number;
}

interface FoundReference {
  readonly path: string;
  readonly parent: string;
  readonly child: string;
  readonly locator: string;
  /** A fetched file; undefined where there is none, `NAMED_ONLY` where the file says the child's number and no path. */
  readonly childPath: string | undefined;
}

function referencesIn(
  path: string,
  reading: FileReading,
  readings: ProofInput['readings'],
): FoundReference[] {
  return reading.uses.flatMap((use): FoundReference[] => {
    const parent = reading.products[use.parent];
    const child = reading.products[use.child];
    if (!parent || !child) return [];
    const namedOnly = child.byNumber === true;
    const childPath = namedOnly
      ? NAMED_ONLY
      : child.locator === undefined
        ? path
        : pathsOf(child.locator, folderOf(path)).paths.find((each) => readings.has(each));
    return [{ path, parent: parent.id, child: child.id, locator: child.locator ?? child.id, childPath }];
  });
}

function referenceKey(path: string, parent: string, child: string, childPath: string | undefined): string {
  return JSON.stringify([path, parent, child, childPath ?? null]);
}

function findLeaks(input: ProofInput): string[] {
  const names = new Set([...input.originNames].map(numberKey));
  const shared = new Map<string, string[]>();
  // An item may be copied in one spot and shared in another.
  for (const { path, childNumber, kind } of input.expected)
    if (kind === 'shared') addTo(shared, path, numberKey(childNumber));
  const leaks: string[] = [];
  for (const path of input.copiedPaths) {
    const said = new Set<string>();
    const allowed = new Set(shared.get(path));
    for (const { id, locator } of input.readings.get(path)?.products ?? []) {
      if (id) said.add(id);
      // A file that lies there may be called like one of the origin; whether it is the right one is asked elsewhere.
      const isThere =
        locator !== undefined &&
        pathsOf(locator, folderOf(path)).paths.some((each) => input.readings.has(each));
      if (locator && !isThere) said.add(lastPart(locator));
    }
    for (const text of said)
      if (names.has(numberKey(text)) && !allowed.has(numberKey(text)))
        leaks.push(`${path}: still names '${text}' of the origin`);
  }
  return leaks;
}

function lastPart(locator: string): string {
  return locator.slice(Math.max(locator.lastIndexOf('/'), locator.lastIndexOf('\\')) + 1);
}
