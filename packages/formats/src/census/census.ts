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

/** What a number goes on over; the name of a file does not go on over `/`. */
const RUN = /[\p{L}\p{N}_\-./]+/gu;
const FILE_RUN = /[\p{L}\p{N}_\-.]+/gu;
/** A file's name ends with its ending, whatever follows that is no letter or digit. */
const FILE_AT_START = /^.*?\.(?:stp|step|p21|stpz|stpx|dxf)(?![\p{L}\p{N}])/u;

/**
 * Finds one of the words in a longer text, where it stands by itself: what stands within a name of the tree does not. A number
 * goes on over `-`, `.`, `/` and `_`, but for `_` with a count; the name of a file ends with its ending. Words are looked up run
 * by run, so that it costs as much for ten words as for ten thousand.
 */
function wordFinder(
  words: readonly string[],
  masks: readonly string[],
): (text: string) => string | undefined {
  const byRun = new Map<string, string[]>();
  for (const word of words) {
    const first = firstRun(word, ENDING.test(word) ? FILE_RUN : RUN);
    if (first === undefined) continue;
    const list = byRun.get(first);
    if (list) list.push(word);
    else byRun.set(first, [word]);
  }
  const masksByRun = new Map<string, string[]>();
  for (const mask of masks) {
    // A name of one run is never within a run that is a word.
    const runs = new Set([...mask.matchAll(FILE_RUN), ...mask.matchAll(RUN)].flatMap(([run]) => endsOf(run)));
    if (runs.size > 1) for (const run of runs) masksByRun.set(run, [...(masksByRun.get(run) ?? []), mask]);
  }
  const isMasked = (text: string, at: number, run: string, word: string): boolean =>
    (masksByRun.get(run) ?? []).some((mask) => {
      const within = mask.indexOf(word);
      return mask.length > word.length && within >= 0 && text.startsWith(mask, at - within);
    });
  return (text) => {
    for (const pattern of [RUN, FILE_RUN]) {
      for (const { 0: found, index } of text.matchAll(pattern)) {
        for (const run of endsOf(found)) {
          for (const word of byRun.get(run) ?? []) {
            if (ENDING.test(word) !== (pattern === FILE_RUN) || !text.startsWith(word, index)) continue;
            const end = ENDING.test(word) ? FILE_END : NUMBER_END;
            if (end.test(text.slice(index + word.length)) && !isMasked(text, index, run, word)) return word;
          }
        }
      }
    }
    return undefined;
  };
}

function firstRun(word: string, pattern: RegExp): string | undefined {
  const [found] = word.matchAll(pattern);
  return found?.index === 0 ? found[0] : undefined;
}

/** A run as it stands, without a count or a point behind it, and up to the ending of a file. */
function endsOf(run: string): string[] {
  const file = FILE_AT_START.exec(run)?.[0];
  return [
    ...new Set([
      run,
      run.replace(/_\d+$/, ''),
      run.replace(/[./-]+$/, ''),
      ...(file === undefined ? [] : [file]),
    ]),
  ];
}

const NUMBER_END = /^($|[^\p{L}\p{N}_\-./]|_\d+($|[^\p{L}\p{N}])|[./-]($|\s))/u;
const FILE_END = /^($|[^\p{L}\p{N}])/u;

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
