/** Replacing names in running text. */
import { beginsWithEnding } from './file-names.js';

interface Word {
  readonly folded: readonly string[];
  readonly becomes: string;
  readonly opensWithWord: boolean;
  readonly closesWithWord: boolean;
}

/**
 * A function that replaces whole words, in any case, all at once. A word ends where a letter or digit meets
 * anything else, and before `_` with a count, as in the occurrence name `nut_3`; but not before the ending of a file
 * name, for `nut.stp` is a file and no nut.
 *
 * By hand and not by a regular expression of the words, since that would be compiled anew for each file, which takes
 * longer than all the rest.
 */
export function wordReplacer(words: ReadonlyMap<string, string>): (text: string) => string {
  const byFolded = new Map<string, Word>();
  const lengths = new Set<number>();
  const firsts = new Set<string>();
  for (const [was, becomes] of words) {
    const points = Array.from(was);
    const folded = points.map(fold);
    byFolded.set(folded.join(''), {
      folded,
      becomes,
      opensWithWord: isWord(points[0]),
      closesWithWord: isWord(points.at(-1)),
    });
    lengths.add(points.length);
    firsts.add(folded[0] ?? '');
  }
  // Longest first. Names have few different lengths, so that it costs little to ask for each where a word may begin.
  const byLength = [...lengths].sort((a, b) => b - a);
  return (text) => {
    const points = Array.from(text);
    const folded = points.map(fold);
    let out = '';
    for (let at = 0; at < points.length;) {
      const word =
        firsts.has(folded[at] ?? '') && !isWithinWord(points, at) ? wordAt(points, folded, at) : undefined;
      out += word ? word.becomes : (points[at] ?? '');
      at += word ? word.folded.length : 1;
    }
    return out;
  };

  function wordAt(points: readonly string[], folded: readonly string[], at: number): Word | undefined {
    for (const length of byLength) {
      if (at + length > folded.length) continue;
      const word = byFolded.get(folded.slice(at, at + length).join(''));
      if (word && standsAt(word, points, folded, at)) return word;
    }
    return undefined;
  }
}

/** Whether a letter or digit goes on a word that began before it; no name begins there. */
function isWithinWord(points: readonly string[], at: number): boolean {
  return at > 0 && isWord(points[at]) && (points[at - 1] === '_' || isWord(points[at - 1]));
}

function standsAt(word: Word, points: readonly string[], folded: readonly string[], at: number): boolean {
  if (!word.folded.every((point, index) => point === folded[at + index])) return false;
  if (word.opensWithWord && (points[at - 1] === '_' || isWord(points[at - 1]))) return false;
  return !word.closesWithWord || endsAt(points, at + word.folded.length);
}

/** Whether a word ends before a position: at anything but a letter or digit; `_` only counts where a number follows. */
function endsAt(points: readonly string[], at: number): boolean {
  if (points[at] === '.' && beginsWithEnding(points.slice(at, at + 8).join(''))) return false;
  if (points[at] !== '_') return !isWord(points[at]);
  let after = at + 1;
  while (isAsciiDigit(points[after])) after++;
  return after > at + 1 && points[after] !== '_' && !isWord(points[after]);
}

function fold(point: string): string {
  return point.toLowerCase();
}

const WORD = /[\p{L}\p{N}]/u;

function isWord(point: string | undefined): boolean {
  return point !== undefined && WORD.test(point);
}

function isAsciiDigit(point: string | undefined): boolean {
  return point !== undefined && point >= '0' && point <= '9';
}
