import { nameFold } from '../names/portable.js';
import { applyRules, type NameRule } from '../naming/rules.js';
import { fileNameFor, numberKey, uniqueFileName, validateNumber } from '../numbering/number.js';
import type { OriginItem } from './items.js';
import type { DerivationRequest } from './types.js';

/** A copy that needs names. */
export interface Unnamed {
  /** Of its line; that of a further copy of an item differs from the item's id. */
  readonly key: string;
  readonly item: OriginItem;
}

export interface CopyName {
  readonly copy: { readonly number: string; readonly name: string; readonly fileName: string };
  readonly clash?: string;
}

/**
 * Names for copies: given by hand, by the rules, or the next spare number; a further copy of an item counts behind the number
 * of the first. `O(copies)`
 */
export function nameCopies(copies: readonly Unnamed[], request: DerivationRequest): Map<string, CopyName> {
  const names = new Map<string, CopyName>();
  const given = new Map<string, string>();
  const byItem = new Map(copies.map(({ key, item }) => [key, item]));
  const fileNames = new Set(request.takenFileNames);
  const spare = (request.spare ?? []).values();
  const byRules = wordedBy(request.rules);
  for (const { key, item } of copies) {
    const renamed = request.renamed.get(key);
    const plain = byRules(item);
    const beside = besideModel(item, byItem, names);
    const ruled = beside ?? plain.number;
    const number =
      renamed?.number ??
      (ruled === item.number
        ? (spare.next().value ?? ruled)
        : key === item.itemId
          ? ruled
          : countedBehind(
              ruled,
              (text) => request.takenNumbers.has(numberKey(text)) || given.has(numberKey(text)),
            ));
    const worded = number === plain.number ? plain : wordedAs(number, item, request.rules);
    const name = renamed?.name ?? worded.name;
    const fileName =
      item.carriers.size > 0
        ? ''
        : fileNames.has(worded.fileFold)
          ? uniqueFileName(worded.fileName, fileNames)
          : worded.fileName;
    fileNames.add(fileName === worded.fileName ? worded.fileFold : nameFold(fileName));
    const twin = given.get(worded.key);
    given.set(worded.key, item.number);
    const clash = clashOf(worded, item, twin, request);
    names.set(key, { copy: { number, name, fileName }, ...(clash === undefined ? {} : { clash }) });
  }
  return names;
}

/** What follows from a copy's number alone. */
interface Worded {
  readonly number: string;
  readonly key: string;
  readonly name: string;
  readonly fileName: string;
  readonly fileFold: string;
  readonly invalid: string | undefined;
  /** Whether it is the number of the origin itself. */
  readonly isOrigins: boolean;
}

function wordedAs(number: string, item: OriginItem, rules: readonly NameRule[]): Worded {
  const fileName = fileNameFor(number, endingOf(item.fileName));
  const key = numberKey(number);
  return {
    number,
    key,
    isOrigins: key === numberKey(item.number),
    name: nameOfCopy(item, number, rules),
    fileName,
    fileFold: nameFold(fileName),
    invalid: validateNumber(number),
  };
}

const WORDED = new WeakMap<readonly NameRule[], WeakMap<OriginItem, Worded>>();

/** What rules make of an item; they are applied once to each, however often is planned with them. */
function wordedBy(rules: readonly NameRule[]): (item: OriginItem) => Worded {
  const before = WORDED.get(rules) ?? new WeakMap<OriginItem, Worded>();
  WORDED.set(rules, before);
  return (item) => {
    const known = before.get(item) ?? wordedAs(applyRules(item.number, rules, 'numbers'), item, rules);
    before.set(item, known);
    return known;
  };
}

/** A drawing that is called like its model and something behind it goes on being called so: `FM-1000-D` beside `FM-1000`. */
function besideModel(
  { number, depicts }: OriginItem,
  byItem: ReadonlyMap<string, OriginItem>,
  names: ReadonlyMap<string, CopyName>,
): string | undefined {
  if (depicts.size === 0) return undefined;
  for (const shown of depicts) {
    const item = byItem.get(shown);
    const model = names.get(shown)?.copy.number;
    if (!item || model === undefined || number.length <= item.number.length) continue;
    if (numberKey(number).startsWith(numberKey(item.number)))
      return `${model}${number.slice(item.number.length)}`;
  }
  return undefined;
}

/** The first free of `X-2`, `X-3` and so on. */
function countedBehind(number: string, isTaken: (text: string) => boolean): string {
  for (let count = 2; ; count++) if (!isTaken(`${number}-${count}`)) return `${number}-${count}`;
}

/** A name that only repeats the number repeats the new one; any other has the rules for names applied. */
function nameOfCopy(item: OriginItem, number: string, rules: readonly NameRule[]): string {
  const repeats = [item.number, item.idInFile, ''].some((text) => numberKey(text) === numberKey(item.name));
  return repeats ? number : applyRules(item.name, rules, 'names');
}

function endingOf(fileName: string): string {
  const dot = fileName.lastIndexOf('.');
  return dot > 0 ? fileName.slice(dot) : '';
}

function clashOf(
  { number, key, invalid, isOrigins }: Worded,
  item: OriginItem,
  twin: string | undefined,
  request: DerivationRequest,
): string | undefined {
  if (invalid !== undefined) return invalid;
  if (isOrigins) return 'needs a new number; this is the origin’s';
  if (request.takenNumbers.has(key)) return `${number} is already in the store`;
  if (twin !== undefined) return `the copy of ${twin} gets the same number`;
  return undefined;
}
