/** Which model a drawing shows or a document is about, where only its name tells. */
import { addTo } from '../collections.js';
import type { Draft } from './draft.js';
import { base, stemOf } from './locate.js';
import { placeOf, type IntakeOptions, type KnownItem } from './plan-types.js';
import type { ItemKind } from '../model/reading.js';
import type { Relation } from '../model/link.js';

export type Owner =
  { readonly kind: 'row'; readonly draft: Draft } | { readonly kind: 'item'; readonly item: KnownItem };

export function isModel(kind: ItemKind): boolean {
  return kind === 'part' || kind === 'assembly';
}

/** What the link of a drawing or a document to its model is. */
export function relationOf(kind: ItemKind): Relation {
  return kind === 'drawing' ? 'depicts' : 'describes';
}

export function numberOf(owner: Owner): string {
  return owner.kind === 'row' ? owner.draft.number : owner.item.number;
}

/**
 * The model with the same base name: beside the file, else the only one of the intake, else beside it in the store.
 * Given by draft; those whose title block names a model are left out, for that counts more. `O(drafts)`.
 */
export function ownersByName(drafts: readonly Draft[], options: IntakeOptions): Map<Draft, Owner> {
  const beside = new Map<string, Draft>();
  const anywhere = new Map<string, Draft[]>();
  for (const draft of drafts) {
    if (!isModel(draft.product.kind) || draft.carrierKey !== undefined) continue;
    const stem = stemOf(draft.file.path).toLowerCase();
    beside.set(besideKey(draft), draft);
    addTo(anywhere, stem, draft);
  }
  const owners = new Map<Draft, Owner>();
  for (const draft of drafts) {
    if (isModel(draft.product.kind) || draft.reading.products.some(({ byNumber }) => byNumber)) continue;
    const stem = stemOf(draft.file.path);
    const found = anywhere.get(stem.toLowerCase()) ?? [];
    const row = beside.get(besideKey(draft)) ?? (found.length === 1 ? found[0] : undefined);
    const item = row ? undefined : options.store.byStem(placeOf(options.place, draft.file.path), stem);
    if (row) owners.set(draft, { kind: 'row', draft: row });
    else if (item) owners.set(draft, { kind: 'item', item });
  }
  return owners;
}

function besideKey({ file }: Draft): string {
  const folder = file.path.slice(0, file.path.length - base(file.path).length);
  return `${folder}${stemOf(file.path)}`.toLowerCase();
}
