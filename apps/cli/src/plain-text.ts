/**
 * Text that a terminal shows and does not obey. Names and comments come from anybody: control codes (ECMA-48) could clear the screen or
 * set its title, and bidirectional marks (UAX #9) could make a line read otherwise than it is.
 */
export function plainText(text: string): string {
  return text.replace(UNSAFE, (character) => `\\u${character.charCodeAt(0).toString(16).padStart(4, '0')}`);
}

// eslint-disable-next-line no-control-regex -- the codes that are looked for
const UNSAFE = /[\u0000-\u0008\u000b-\u001f\u007f-\u009f\u061c\u200e\u200f\u202a-\u202e\u2066-\u2069]/g;
