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

interface Wanted {
  readonly numbers: ReadonlySet<string>;
  readonly fileNames: ReadonlySet<string>;
  readonly stems: ReadonlySet<string>;
}

type KnownRow = Omit<KnownItem, 'newest' | 'isVisible' | 'belongsTo'> & {
  readonly versionId: string;
  readonly label: string;
  readonly sha256: string;
  readonly belongsTo: string | null;
};

async function loadKnownItems(manager: EntityManager, wanted: Wanted, rights: Rights): Promise<IntakeStore> {
  const first = await loadRows(manager, wanted);
  // What documents belong to by hand may be nothing that this intake names.
  const owners = new Set(
    first.flatMap(({ belongsTo }) => (belongsTo === null ? [] : [numberKey(belongsTo)])),
  );
  for (const number of wanted.numbers) owners.delete(number);
  const rows =
    owners.size === 0
      ? first
      : [...first, ...(await loadRows(manager, { numbers: owners, fileNames: new Set(), stems: new Set() }))];
  const byNumber = new Map<string, KnownItem>();
  const byFile = new Map<string, KnownItem | 'several'>();
  const byStem = new Map<string, KnownItem | 'several'>();
  for (const { versionId, label, sha256, belongsTo, ...item } of rows) {
    const isVisible = rights.mayAt('see', item.place);
    const known = {
      ...item,
      ...(belongsTo === null ? {} : { belongsTo }),
      isVisible,
      newest: { id: versionId, label, sha256 },
    };
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

async function loadRows(manager: EntityManager, { numbers, fileNames, stems }: Wanted): Promise<KnownRow[]> {
  return manager.query(
    `SELECT i.id, i.number, i.name, i.kind, i.file_name AS "fileName", p.path AS place, v.id AS "versionId",
            r.code || '/' || v.seq AS label, v.sha256,
            (SELECT t.number FROM link l JOIN item t ON t.id = l.target_item_id
             WHERE l.version_id = v.id AND l.relation IN ('depicts', 'describes') AND l.target_ref = 0 LIMIT 1) AS "belongsTo"
     FROM item i JOIN place p ON p.id = i.place_id JOIN version v ON v.id = i.newest_version_id JOIN revision r ON r.id = v.revision_id
     WHERE i.number_key = ANY($1::text[]) OR (i.file_name <> '' AND lower(i.file_name) = ANY($2::text[]))
        OR (i.kind IN ('part', 'assembly') AND lower(regexp_replace(i.file_name, '\\.[^.]*$', '')) = ANY($3::text[]))`,
    [[...numbers], [...fileNames], [...stems]],
  );
}

function theOne(found: KnownItem | 'several' | undefined): KnownItem | undefined {
  return found === 'several' ? undefined : found;
}

function fileKey(place: string, fileName: string): string {
  return `${place.toLowerCase()}\n${fileName.toLowerCase()}`;
}
