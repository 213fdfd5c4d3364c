import { numberKey } from '../numbering/number.js';
import { ownId, type Draft } from './draft.js';
import { stemOf, type FileIndex } from './locate.js';
import type { IntakeOptions } from './plan-types.js';

/**
 * The number is the product's id in its own file. Some systems write the same id into every file and the real
 * one only where it is used; so where an id is doubled, or where the name of the file and those who refer to it
 * agree on another, that other one is proposed.
 */
export function proposeNumbers(drafts: readonly Draft[], index: FileIndex, options: IntakeOptions): void {
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
