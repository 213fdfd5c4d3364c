/** How revisions are called, one after another. */

/** `drawing letters` leave out those that look like digits or other letters (ASME Y14.35, 5.1). */
export const REVISION_SCHEMES = ['letters', 'drawing letters', 'numbers', 'two digits'] as const;
export type RevisionScheme = (typeof REVISION_SCHEMES)[number];

const ALPHABETS: Readonly<Record<'letters' | 'drawing letters', string>> = {
  letters: 'ABCDEFGHIJKLMNOPQRSTUVWXYZ',
  'drawing letters': 'ABCDEFGHJKLMNPRTUVWY',
};

/** Longest code that there can be, in whatever scheme. */
const MAX_CODE_LENGTH = 6;

/** A version at the end of a text: `@B/3`, `@01/2`. */
export const VERSION_ENDING = new RegExp(`@([A-Z0-9]{1,${MAX_CODE_LENGTH}}/\\d+)$`);

/** Code of the n-th revision, from 1: A, B, … Z, AA; or 1, 2, …; or 01, 02, … */
export function revisionCode(position: number, scheme: RevisionScheme = 'letters'): string {
  if (scheme === 'numbers') return String(position);
  if (scheme === 'two digits') return String(position).padStart(2, '0');
  const alphabet = ALPHABETS[scheme];
  let code = '';
  for (let rest = position; rest > 0; rest = Math.floor((rest - 1) / alphabet.length))
    code = (alphabet[(rest - 1) % alphabet.length] ?? '') + code;
  return code;
}

/** Where a code stands in a scheme, from 1; undefined for what is no code of it. Undoes `revisionCode`. */
export function revisionPosition(code: string, scheme: RevisionScheme = 'letters'): number | undefined {
  if (code === '' || code.length > MAX_CODE_LENGTH) return undefined;
  const position =
    scheme === 'numbers' || scheme === 'two digits' ? Number(code) : letterPosition(code, ALPHABETS[scheme]);
  return Number.isInteger(position) && position > 0 && revisionCode(position, scheme) === code
    ? position
    : undefined;
}

function letterPosition(code: string, alphabet: string): number {
  let position = 0;
  for (const letter of code) {
    const at = alphabet.indexOf(letter);
    if (at < 0) return NaN;
    position = position * alphabet.length + at + 1;
  }
  return position;
}
