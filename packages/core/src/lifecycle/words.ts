/** `a, b or c` */
export const either = (words: readonly string[]): string => listed(words, 'or');

/** `a, b and c` */
export const both = (words: readonly string[]): string => listed(words, 'and');

function listed(words: readonly string[], last: string): string {
  return words.length < 2 ? words.join('') : `${words.slice(0, -1).join(', ')} ${last} ${words.at(-1) ?? ''}`;
}
