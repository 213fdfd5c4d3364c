import { nameFold, portableName } from '../names/portable.js';
import { VERSION_ENDING } from '../lifecycle/revision-scheme.js';

/** Longest number; longer ones do not fit the columns people read them in. */
export const MAX_NUMBER_LENGTH = 200;

/** Numbers are compared without regard to case, so that `fm-100` cannot stand beside `FM-100`. */
export function numberKey(number: string): string {
  return number.normalize('NFC').toLowerCase();
}

/** @returns what is wrong with a number, as the end of a sentence; undefined where nothing is */
export function validateNumber(number: string): string | undefined {
  if (number.trim() === '') return 'a number cannot be empty';
  if (number !== number.trim()) return 'a number cannot begin or end with a blank';
  if (number.length > MAX_NUMBER_LENGTH) return `a number has at most ${MAX_NUMBER_LENGTH} characters`;
  // eslint-disable-next-line no-control-regex -- control characters are what is looked for
  if (/[\u0000-\u001f\u007f-\u009f\u2028\u2029]/u.test(number))
    return 'a number cannot hold control characters';
  if (VERSION_ENDING.test(number))
    return "a number cannot end like a version, with '@', a revision and a count";
  return undefined;
}

/**
 * A file name for a number: what some file system refuses, and `%`, which readers of locators take for an encoding,
 * become `_`.
 * @param ending with its dot
 */
export function fileNameFor(number: string, ending: string): string {
  return portableName(
    `${number === '' ? '_' : number.replaceAll('%', '_').replace(/^\.+|[. ]+$/g, '_')}${ending}`,
  );
}

/** Makes names unique without regard to capitals and Unicode form (`nameFold`) by a count before the ending: `a.stp`, `a-2.stp`. */
export function uniqueFileName(name: string, taken: { has(foldedName: string): boolean }): string {
  const dot = name.lastIndexOf('.');
  const [stem, ending] = dot > 0 ? [name.slice(0, dot), name.slice(dot)] : [name, ''];
  let candidate = name;
  for (let count = 2; taken.has(nameFold(candidate)); count++) candidate = `${stem}-${count}${ending}`;
  return candidate;
}
