import {
  base,
  isModel,
  numberKey,
  planIntake,
  stemOf,
  type IntakeOptions,
  type IntakePlan,
  type IntakeStore,
  type KnownItem,
} from '@stem-trace/core';
import type { EntityManager } from 'typeorm';
import type { Rights } from '../access/rights.service.js';

const EMPTY: IntakeStore = {
  byNumber: () => undefined,
  byFile: () => undefined,
  byStem: () => undefined,
};

interface KnownItemRow extends KnownItem {
  readonly itemId: string;
}

/** Plans an intake against what the store holds: first on its own, to learn what to look up, then for good. */
export async function planAgainstStore(
  manager: EntityManager,
  rights: Rights,
  options: Omit<IntakeOptions, 'store'>,
): Promise<IntakePlan> {
  const alone = planIntake({ ...options, store: EMPTY });
  const numbers = new Set<string>();
  const fileNames = new Set<string>();
  const stems = new Set<string>();
  for (const { belongsTo } of options.corrections?.values() ?? [])
    if (belongsTo) numbers.add(numberKey(belongsTo));
  for (const row of alone.rows) {
    numbers.add(numberKey(row.number));
    if (!isModel(row.product.kind)) stems.add(stemOf(row.path).toLowerCase());
    for (const { product } of row.links) {
      numbers.add(numberKey((options.prefix ?? '') + product.id));
      numbers.add(numberKey(product.id));
      if (product.locator) fileNames.add(base(product.locator.replaceAll('\\', '/')).toLowerCase());
    }
  }
  return planIntake({
    ...options,
    store: await loadKnownItems(manager, { numbers, fileNames, stems }, rights),
  });
}

async function loadKnownItems(
  manager: EntityManager,
  wanted: { numbers: Set<string>; fileNames: Set<string>; stems: Set<string> },
  rights: Rights,
): Promise<IntakeStore> {
  const rows: (Omit<KnownItemRow, 'newest' | 'isVisible'> & {
    versionId: string;
    label: string;
    sha256: string;
  })[] = await manager.query(
    `SELECT i.id, i.number, i.name, i.kind, i.file_name AS "fileName", p.path AS place, v.id AS "versionId",
            r.code || '/' || v.seq AS label, v.sha256
     FROM item i JOIN place p ON p.id = i.place_id JOIN version v ON v.id = i.newest_version_id JOIN revision r ON r.id = v.revision_id
     WHERE i.number_key = ANY($1::text[]) OR (i.file_name <> '' AND lower(i.file_name) = ANY($2::text[]))
        OR (i.kind IN ('part', 'assembly') AND lower(regexp_replace(i.file_name, '\\.[^.]*$', '')) = ANY($3::text[]))`,
    [[...wanted.numbers], [...wanted.fileNames], [...wanted.stems]],
  );
  const byNumber = new Map<string, KnownItem>();
  const byFile = new Map<string, KnownItem | 'several'>();
  const byStem = new Map<string, KnownItem | 'several'>();
  for (const { versionId, label, sha256, ...item } of rows) {
    const isVisible = rights.mayAt('see', item.place);
    const known = { ...item, isVisible, newest: { id: versionId, label, sha256 } };
    byNumber.set(numberKey(item.number), known);
    // What may not be seen keeps its number to itself, and is found by nothing else.
    if (!isVisible) continue;
    const file = fileKey(item.place, item.fileName);
    byFile.set(file, byFile.has(file) ? 'several' : known);
    if (!isModel(item.kind) || item.fileName === '') continue;
    const stem = fileKey(item.place, stemOf(item.fileName));
    byStem.set(stem, byStem.has(stem) ? 'several' : known);
  }
  return {
    byNumber: (number) => byNumber.get(numberKey(number)),
    byFile: (place, fileName) => theOne(byFile.get(fileKey(place, fileName))),
    byStem: (place, stem) => theOne(byStem.get(fileKey(place, stem))),
  };
}

function theOne(found: KnownItem | 'several' | undefined): KnownItem | undefined {
  return found === 'several' ? undefined : found;
}

function fileKey(place: string, fileName: string): string {
  return `${place.toLowerCase()}\n${fileName.toLowerCase()}`;
}
