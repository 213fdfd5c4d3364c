import { joinPath, normaliseLocator } from '../intake/locate.js';
import { numberKey } from '../numbering/number.js';
import type { FileReading } from '../intake/reading.js';

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

/** Compares the fetched files of a variant with the plan: every reference, counted. `O(references)`. */
export function proveVariant(input: ProofInput): Proof {
  const faults: string[] = [];
  const found = new Map<string, Found>();
  let dangling = 0;
  for (const [path, reading] of input.readings) {
    for (const [key, reference] of referencesIn(path, reading)) {
      found.set(key, reference);
      if (reference.namedOnly) continue;
      const missing = reference.childPath === undefined || !input.readings.has(reference.childPath);
      if (missing && !input.knownGaps.has(`${path}#${reference.locator}`)) {
        dangling++;
        faults.push(`${path}: '${reference.locator}' leads to no fetched file`);
      }
    }
  }
  let copied = 0;
  let shared = 0;
  for (const expected of input.expected) {
    // A drawing names the files that it draws on by their paths alone.
    const reference =
      found.get(referenceKey(expected.path, expected.parentNumber, expected.childNumber)) ??
      found.get(referenceKey(expected.path, expected.parentNumber, expected.childPath));
    const holds =
      reference?.quantity === expected.quantity &&
      (reference.namedOnly || reference.childPath === expected.childPath);
    if (!holds) {
      dangling++;
      faults.push(
        `${expected.path}: ${expected.parentNumber} should use ${expected.childNumber} ×${expected.quantity} from ${expected.childPath}`,
      );
    } else if (expected.kind === 'copied') copied++;
    else shared++;
  }
  const leaks = findLeaks(input);
  return {
    references: input.expected.length,
    copied,
    shared,
    dangling,
    leaking: leaks.length,
    faults: [...faults, ...leaks],
  };
}

interface Found {
  readonly locator: string;
  readonly childPath: string | undefined;
  /** The file says the child's number, not where it lies. */
  readonly namedOnly: boolean;
  quantity: number;
}

function referencesIn(path: string, reading: FileReading): Map<string, Found> {
  const found = new Map<string, Found>();
  const folder = path.includes('/') ? path.slice(0, path.lastIndexOf('/')) : '';
  for (const use of reading.uses) {
    const parent = reading.products[use.parent];
    const child = reading.products[use.child];
    if (!parent || !child) continue;
    const childPath =
      child.locator === undefined ? path : joinPath(folder, normaliseLocator(child.locator).path);
    const key = referenceKey(path, parent.id, child.id || (childPath ?? ''));
    const known = found.get(key);
    if (known) known.quantity++;
    else {
      const namedOnly = child.byNumber === true;
      found.set(key, { locator: child.locator ?? child.id, childPath, namedOnly, quantity: 1 });
    }
  }
  return found;
}

function referenceKey(path: string, parent: string, child: string): string {
  return JSON.stringify([path, parent, child]);
}

function findLeaks(input: ProofInput): string[] {
  const names = new Set([...input.originNames].map(numberKey));
  const leaks: string[] = [];
  for (const path of input.copiedPaths) {
    const said = new Set<string>();
    for (const product of input.readings.get(path)?.products ?? []) {
      for (const text of [product.id, product.locator === undefined ? '' : lastPart(product.locator)])
        if (text) said.add(text);
    }
    for (const text of said)
      if (names.has(numberKey(text))) leaks.push(`${path}: still names '${text}' of the origin`);
  }
  return leaks;
}

function lastPart(locator: string): string {
  return locator.slice(Math.max(locator.lastIndexOf('/'), locator.lastIndexOf('\\')) + 1);
}
