import { numberKey } from '../numbering/number.js';
import { isModel, numberOf, type Owner } from './belonging.js';
import { ownId, type Draft } from './draft.js';
import { base, stemOf, type FileIndex } from './locate.js';
import type { IntakeOptions } from './plan-types.js';

export interface NumberingScope {
  readonly index: FileIndex;
  readonly owners: ReadonlyMap<Draft, Owner>;
  readonly options: IntakeOptions;
}

/** Gives every draft a number and a name: models first, since drawings and documents may go by theirs. */
export function proposeNumbers(drafts: readonly Draft[], scope: NumberingScope): void {
  numberModels(
    drafts.filter(({ product }) => isModel(product.kind)),
    scope.index,
    scope.options,
  );
  numberDocuments(drafts, scope);
}

/**
 * A drawing or a document has the number that it says; else that of the model it belongs to, with its ending; else its
 * file name. A number that something else has already gets the ending too: a drawing often bears the number of its part.
 */
function numberDocuments(drafts: readonly Draft[], { owners, options }: NumberingScope): void {
  const taken = new Set(
    drafts.flatMap(({ product, number }) => (isModel(product.kind) ? [numberKey(number)] : [])),
  );
  const prefix = options.prefix ?? '';
  for (const draft of drafts) {
    if (isModel(draft.product.kind)) continue;
    const owner = owners.get(draft);
    const ending = endingOf(draft.file.path);
    const correction = options.corrections?.get(draft.key);
    const wanted =
      draft.product.id !== ''
        ? prefix + draft.product.id
        : owner
          ? `${numberOf(owner)}${ending}`
          : prefix + stemOf(draft.file.path);
    const known = options.store.byNumber(wanted);
    const clashes = taken.has(numberKey(wanted)) || (known !== undefined && isModel(known.kind));
    const proposed = clashes ? `${wanted}${ending || '-2'}` : wanted;
    if (clashes && correction?.number === undefined)
      draft.notes.push(`${wanted} is taken by something else; proposed is ${proposed}.`);
    draft.number = correction?.number ?? proposed;
    taken.add(numberKey(draft.number));
    draft.name = correction?.name ?? (draft.product.name || nameOf(owner) || stemOf(draft.file.path));
  }
}

function nameOf(owner: Owner | undefined): string {
  if (!owner) return '';
  return owner.kind === 'row' ? owner.draft.name : owner.item.name;
}

/** `-DXF` */
function endingOf(path: string): string {
  const name = base(path);
  const dot = name.lastIndexOf('.');
  return dot > 0 && dot < name.length - 1 ? `-${name.slice(dot + 1).toUpperCase()}` : '';
}

/**
 * The number is the product's id in its own file. Some systems write the same id into every file and the real
 * one only where it is used; so where an id is doubled, or where the name of the file and those who refer to it
 * agree on another, that other one is proposed.
 */
function numberModels(drafts: readonly Draft[], index: FileIndex, options: IntakeOptions): void {
  const referrers = new Map<string, Set<string>>();
  for (const { file, reading } of drafts) {
    for (const product of reading.products) {
      if (product.locator === undefined) continue;
      const match = index.find(product.locator, file.path);
      const name = product.id || product.name;
      if (match.kind !== 'found' || !name) continue;
      referrers.set(match.path, (referrers.get(match.path) ?? new Set()).add(name));
    }
  }
  const contentsById = new Map<string, Set<string>>();
  for (const draft of drafts) {
    const id = numberKey(ownId(draft));
    contentsById.set(id, (contentsById.get(id) ?? new Set()).add(draft.file.sha256));
  }
  const seenInFile = new Map<string, number>();
  for (const draft of drafts) {
    const own = uniqueInFile(draft, seenInFile);
    const [calledByOthers, ...disagreeing] =
      draft.carrierKey === undefined ? (referrers.get(draft.file.path) ?? []) : [];
    const agreed = disagreeing.length === 0 ? calledByOthers : undefined;
    const doubled = (contentsById.get(numberKey(own))?.size ?? 0) > 1;
    let proposed = own;
    if (agreed !== undefined && numberKey(agreed) !== numberKey(own)) {
      if (doubled || numberKey(agreed) === numberKey(stemOf(draft.file.path))) proposed = agreed;
    } else if (doubled && draft.carrierKey === undefined && agreed === undefined)
      proposed = stemOf(draft.file.path);
    if (proposed !== own)
      draft.notes.push(`The file calls itself '${own}'; proposed is the name by which it is used.`);
    const correction = options.corrections?.get(draft.key);
    draft.number = correction?.number ?? `${options.prefix ?? ''}${proposed}`;
    const ownName = draft.product.name;
    draft.name = correction?.name ?? (ownName === '' || ownName === own ? draft.number : ownName);
  }
}

/** Two products of one file that share an id are told apart by a count. */
function uniqueInFile(draft: Draft, seen: Map<string, number>): string {
  const own = ownId(draft);
  const key = `${draft.file.path}#${numberKey(own)}`;
  const count = (seen.get(key) ?? 0) + 1;
  seen.set(key, count);
  return count === 1 ? own : `${own}-${count}`;
}
