import { cornersOf } from './extent.js';
import type { Lettering, Mark, Spot } from './model.js';
import { flat } from './overlay.js';

export interface FoundWords {
  readonly text: string;
  readonly corners: readonly Spot[];
}

/** Lettering that says all of `words`, in whichever case; as one reads. */
export function findWords(marks: Iterable<Mark>, words: string): readonly FoundWords[] {
  const wanted = words.trim().toLowerCase().split(/\s+/).filter(Boolean);
  if (wanted.length === 0) return [];
  const found: Lettering[] = [];
  for (const mark of flat(marks)) {
    if (mark.kind !== 'lettering') continue;
    const said = mark.lines.join('\n').toLowerCase();
    if (wanted.every((word) => said.includes(word))) found.push(mark);
  }
  return found
    .sort((a, b) => b.at[1] - a.at[1] || a.at[0] - b.at[0])
    .map((mark) => ({ text: mark.lines.join(' '), corners: cornersOf(mark) }));
}
