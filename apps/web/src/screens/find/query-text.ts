/** Filters are kept in the words of the search alone; buttons only write there what could be typed. */
import { quoted } from '@stem-trace/core';

/** A filter as text: `state = "in check"`. */
export function clause(field: string, value: string): string {
  return `${quoted(field)} = ${quoted(value)}`;
}

export function hasClause(words: string, wanted: string): boolean {
  return at(words, wanted) >= 0;
}

/** The words with a filter more, or without it where it is there. */
export function toggledClause(words: string, wanted: string): string {
  const found = at(words, wanted);
  if (found < 0) return `${words} ${wanted}`.trim();
  return `${words.slice(0, found)} ${words.slice(found + wanted.length)}`.replace(/\s+/g, ' ').trim();
}

/** Where a filter stands by itself, not as a part of something longer. */
function at(words: string, wanted: string): number {
  for (let from = words.indexOf(wanted); from >= 0; from = words.indexOf(wanted, from + 1)) {
    const before = words[from - 1];
    const after = words[from + wanted.length];
    if ((before === undefined || before === ' ') && (after === undefined || after === ' ')) return from;
  }
  return -1;
}
