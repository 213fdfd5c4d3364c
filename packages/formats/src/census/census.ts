import type { CensusText } from './texts.js';

/** A fetched tree and what may be said in it. */
export interface CensusInput {
  /** Texts by path of the file; files without texts that could be changed are left out. */
  readonly texts: ReadonlyMap<string, readonly CensusText[]>;
  /** Paths of all fetched files. */
  readonly paths: ReadonlySet<string>;
  /** Paths of the files that are copies. */
  readonly copied: ReadonlySet<string>;
  /** Numbers and names of what is in the tree: a text that is one of them names an item, whatever it looks like. */
  readonly names: ReadonlySet<string>;
  /** Numbers and file names of items of the origin that were copied, and so are named by nothing any more. */
  readonly origin: ReadonlySet<string>;
  /** Texts that name files which were not in the store already for the origin, by path of the file that says them. */
  readonly gaps: ReadonlyMap<string, ReadonlySet<string>>;
}

export interface Census {
  /** Texts that name a file, and do it byte for byte. */
  readonly files: number;
  readonly dangling: readonly string[];
  readonly leaking: readonly string[];
}

/** Endings that a text has which names a design file. */
const ENDING = /\.(stp|step|p21|stpz|stpx|dxf)$/i;
/** Words of the standards themselves; an item that is called so is told by nothing but its file. */
const COMMON = new Set([
  '',
  'part',
  'assembly',
  'detail',
  'document',
  'product',
  'drawing',
  'raw material',
  'design',
  'mechanical',
  'none',
  'unknown',
  'digital',
  'physical',
  'mandatory',
  'optional',
  'standard',
  'layer',
  'block',
  'text',
  'model',
  'color',
  '0',
  '1',
  'placement',
  'equivalence',
  'not specified',
]);

/**
 * Accounts for every text of the fetched files: one that looks like a file must be the path of a fetched one as seen from
 * where it stands, byte for byte; and no copied file may still name what it was copied from. `O(texts × length)`.
 */
export function takeCensus(input: CensusInput): Census {
  const baseNames = new Set([...input.paths].map((path) => fold(lastPart(path))));
  const origin = new Map([...input.origin].map((text) => [fold(text), text]));
  const names = new Set([...input.names].map(fold));
  const findWord = wordFinder(
    [...origin.keys()].filter((text) => isTelling(text)),
    [...names],
  );
  const dangling: string[] = [];
  const leaking: string[] = [];
  let files = 0;
  for (const [path, texts] of input.texts) {
    const folder = path.includes('/') ? path.slice(0, path.lastIndexOf('/')) : '';
    const gaps = input.gaps.get(path);
    for (const { line, text, isHeader, isLettering } of texts) {
      const whole = text.trim();
      const isName = names.has(fold(whole));
      const isGap = gaps?.has(whole) === true;
      if (text === lastPart(path)) {
        files++;
        continue;
      }
      if (!isGap && !isHeader && (ENDING.test(whole) || baseNames.has(fold(lastPart(whole))))) {
        if (input.paths.has(joined(folder, text))) {
          files++;
          continue;
        }
        if (!isName && !isOtherName(whole, baseNames, origin)) {
          dangling.push(`${path}, line ${line}: '${whole}' is the path of no fetched file`);
          continue;
        }
      }
      if (!input.copied.has(path) || isName || isGap) continue;
      const key = fold(ENDING.test(whole) ? lastPart(whole) : whole);
      const isWhole = origin.has(key) && !COMMON.has(key) && (!isLettering || isTelling(key));
      const said = isWhole ? key : findWord(fold(whole));
      if (said !== undefined)
        leaking.push(
          `${path}, line ${line}: '${whole}' still names ${origin.get(said) ?? said} of the origin`,
        );
    }
  }
  return { files, dangling, leaking };
}

/** A sentence that ends in a file name, or a name that nothing here has: it is looked through for the origin's names only. */
function isOtherName(
  text: string,
  baseNames: ReadonlySet<string>,
  origin: ReadonlyMap<string, string>,
): boolean {
  const name = fold(lastPart(text));
  if (baseNames.has(name) || origin.has(name)) return false;
  return (
    /\s/.test(text) &&
    [...baseNames, ...origin.keys()].some((known) => known.length > 4 && name.endsWith(` ${known}`))
  );
}

/** Names that cannot be ordinary words of running text: long enough and with a digit, or the name of a file. */
function isTelling(text: string): boolean {
  return ENDING.test(text) || (text.length >= 4 && /\d/.test(text) && !/^[\d.,\s]+$/.test(text));
}

/**
 * Finds one of the words in a longer text, where it stands by itself: what stands within a name of the tree does not.
 * A number goes on over `-`, `.`, `/` and `_`, but for `_` with a count; the name of a file ends with its ending.
 */
function wordFinder(
  words: readonly string[],
  masks: readonly string[],
): (text: string) => string | undefined {
  const byStart = new Map<string, string[]>();
  for (const word of words) byStart.set(word.slice(0, 3), [...(byStart.get(word.slice(0, 3)) ?? []), word]);
  const longer = masks.filter((mask) =>
    words.some((word) => mask.length > word.length && mask.includes(word)),
  );
  return (text) => {
    let masked = text;
    for (const mask of longer)
      if (masked.includes(mask)) masked = masked.replaceAll(mask, '\u0000'.repeat(mask.length));
    for (let at = 0; at < masked.length; at++) {
      for (const word of byStart.get(masked.slice(at, at + 3)) ?? []) {
        if (!masked.startsWith(word, at)) continue;
        const before = masked[at - 1] ?? ' ';
        const after = masked.slice(at + word.length);
        const [start, end] = ENDING.test(word) ? FILE_BOUNDS : NUMBER_BOUNDS;
        if (start.test(before) && end.test(after)) return word;
      }
    }
    return undefined;
  };
}

const NUMBER_BOUNDS = [
  /[^\p{L}\p{N}_\-./]/u,
  /^($|[^\p{L}\p{N}_\-./]|_\d+($|[^\p{L}\p{N}])|[./-]($|\s))/u,
] as const;
const FILE_BOUNDS = [/[^\p{L}\p{N}_\-.]/u, /^($|[^\p{L}\p{N}])/u] as const;

/** The path that a text means from a folder, where it is one as it stands; no other spelling is undone. */
function joined(folder: string, text: string): string {
  const parts = folder === '' ? [] : folder.split('/');
  for (const part of text.split('/')) {
    if (part === '..') {
      if (parts.pop() === undefined) return '';
    } else parts.push(part);
  }
  return parts.join('/');
}

function lastPart(path: string): string {
  return path.slice(Math.max(path.lastIndexOf('/'), path.lastIndexOf('\\')) + 1);
}

function fold(text: string): string {
  return text.normalize('NFC').toLowerCase();
}
