import {
  addTo,
  base,
  isModel,
  nameFold,
  normaliseLocator,
  numberKey,
  planIntake,
  stemOf,
  storedNameOf,
  type IntakeOptions,
  type IntakePlan,
  type IntakeStore,
  type KnownItem,
  type KnownLink,
} from '@stem-trace/core';
import type { EntityManager } from 'typeorm';
import type { Rights } from '../access/rights.service.js';
import { isAmong } from '../database/conditions.js';
import { listOf, orNull, readRows, text, word } from '../database/read-rows.js';

const EMPTY: IntakeStore = {
  byNumber: () => undefined,
  byPath: () => undefined,
  byStem: () => undefined,
  linksOf: () => [],
  versionOf: () => undefined,
};

/** Plans an intake against what the store holds: first on its own, to learn what to look up, then for good. */
export async function planAgainstStore(
  manager: EntityManager,
  rights: Rights,
  options: Omit<IntakeOptions, 'store'>,
): Promise<IntakePlan> {
  const wanted = wantedBy(options);
  const known = new KnownItems(rights);
  known.add(await loadRows(manager, wanted));
  // A number that is proposed because another is taken may be taken too.
  let plan = planIntake({ ...options, store: known.store });
  const asked = new Set(wanted.numbers);
  for (let round = 0; round < MOST_ROUNDS; round++) {
    const further = [...plan.rows.map(({ number }) => numberKey(number)), ...known.owners()].filter(
      (number) => !asked.has(number),
    );
    if (further.length === 0) break;
    for (const number of further) asked.add(number);
    known.add(await loadRows(manager, { ...NOTHING_WANTED, numbers: new Set(further) }));
    plan = planIntake({ ...options, store: known.store });
  }
  const going = plan.rows.flatMap(({ status }) => ('of' in status ? [status.of.id] : []));
  const hasLinks = await loadLinks(manager, going, known);
  const hasVersions = await loadVersions(manager, options, known);
  return hasLinks || hasVersions ? planIntake({ ...options, store: known.store }) : plan;
}

const MOST_ROUNDS = 50;

interface Wanted {
  readonly numbers: ReadonlySet<string>;
  readonly fileNames: ReadonlySet<string>;
  readonly stems: ReadonlySet<string>;
  readonly items: readonly string[];
}

const NOTHING_WANTED: Wanted = { numbers: new Set(), fileNames: new Set(), stems: new Set(), items: [] };

function wantedBy(options: Omit<IntakeOptions, 'store'>): Wanted {
  const alone = planIntake({ ...options, store: EMPTY });
  const prefix = options.prefix ?? '';
  const numbers = new Set<string>();
  const fileNames = new Set<string>();
  const stems = new Set<string>();
  for (const { belongsTo, number, references = {} } of options.corrections?.values() ?? [])
    for (const said of [belongsTo, number, ...Object.values(references)])
      if (said) numbers.add(numberKey(said));
  for (const { items, references } of options.workingCopy?.files.values() ?? [])
    for (const { number } of [...items, ...references]) if (number !== null) numbers.add(numberKey(number));
  for (const row of alone.rows) {
    // Its own id, too: what doubles another here may go on an item of the store.
    for (const number of [row.number, prefix + row.product.id, prefix + stemOf(row.path)])
      numbers.add(numberKey(number));
    addSpellings(fileNames, storedNameOf(row.path));
    if (!isModel(row.product.kind)) stems.add(stemOf(row.path).toLowerCase());
    for (const { product } of row.links) {
      numbers.add(numberKey(prefix + product.id));
      numbers.add(numberKey(product.id));
      if (product.locator === undefined) continue;
      addSpellings(fileNames, base(product.locator.replaceAll('\\', '/')));
      addSpellings(fileNames, base(normaliseLocator(product.locator).path));
    }
  }
  return { numbers, fileNames, stems, items: [] };
}

/** The lower-case forms in which the database may have a name; what its locale folds and what not is for it to say. */
function addSpellings(names: Set<string>, name: string): void {
  const ascii = name.replace(/[A-Z]/g, (letter) => letter.toLowerCase());
  for (const form of ['NFC', 'NFD'] as const) {
    names.add(name.toLowerCase().normalize(form));
    names.add(ascii.normalize(form));
  }
}

interface KnownRow extends Omit<KnownItem, 'newest' | 'isVisible' | 'belongsTo' | 'carrier'> {
  readonly versionId: string;
  readonly label: string;
  readonly sha256: string;
  readonly idInFile: string;
  readonly belongsTo: string | null;
  readonly carrier: string | null;
}

/** Items of the store that planning may meet, looked up in every way that it asks. */
class KnownItems {
  private readonly byId = new Map<string, KnownItem>();
  private readonly byNumber = new Map<string, KnownItem>();
  private readonly byPath = new Map<string, KnownItem | 'several'>();
  private readonly byFoldedPath = new Map<string, KnownItem | 'several'>();
  private readonly byStem = new Map<string, KnownItem | 'several'>();
  private readonly links = new Map<string, KnownLink[]>();
  private readonly versions = new Map<string, string>();

  constructor(private readonly rights: Rights) {}

  readonly store: IntakeStore = {
    byNumber: (number) => this.byNumber.get(numberKey(number)),
    byPath: (path, spelling) =>
      theOne(spelling === 'exact' ? this.byPath.get(path) : this.byFoldedPath.get(nameFold(path))),
    byStem: (place, stem) => theOne(this.byStem.get(nameFold(pathIn(place, stem)))),
    linksOf: (itemId) => this.links.get(itemId) ?? [],
    versionOf: (itemId, label) => this.versions.get(`${itemId} ${label}`),
  };

  item(id: string): KnownItem | undefined {
    return this.byId.get(id);
  }

  /** Keys of the numbers of what documents belong to by hand, which may be nothing that the intake names. */
  owners(): string[] {
    return [...this.byId.values()].flatMap(({ belongsTo }) =>
      belongsTo === undefined ? [] : [numberKey(belongsTo)],
    );
  }

  add(rows: readonly KnownRow[]): void {
    for (const { versionId, label, sha256, idInFile, belongsTo, carrier, ...item } of rows) {
      if (this.byId.has(item.id)) continue;
      const isVisible = this.rights.mayAt('see', item.place);
      const known: KnownItem = {
        ...item,
        ...(belongsTo === null ? {} : { belongsTo }),
        ...(carrier === null ? {} : { carrier }),
        isVisible,
        newest: { id: versionId, label, sha256, idInFile },
      };
      this.byId.set(item.id, known);
      this.byNumber.set(numberKey(item.number), known);
      // What may not be seen keeps its number to itself, and is found by nothing else; what lives in another's file has no path.
      if (!isVisible || carrier !== null || item.fileName === '') continue;
      const path = pathIn(item.place, item.fileName);
      add(this.byPath, path, known);
      add(this.byFoldedPath, nameFold(path), known);
      if (isModel(item.kind)) add(this.byStem, nameFold(pathIn(item.place, stemOf(item.fileName))), known);
    }
  }

  addLink(itemId: string, link: KnownLink): void {
    addTo(this.links, itemId, link);
  }

  addVersion(itemId: string, label: string, id: string): void {
    this.versions.set(`${itemId} ${label}`, id);
  }
}

function pathIn(place: string, name: string): string {
  return `${place === '/' ? '' : place}/${name}`;
}

function add(map: Map<string, KnownItem | 'several'>, key: string, item: KnownItem): void {
  map.set(key, map.has(key) ? 'several' : item);
}

async function loadRows(
  manager: EntityManager,
  { numbers, fileNames, stems, items }: Wanted,
): Promise<KnownRow[]> {
  return readRows<KnownRow>(
    manager,
    {
      versionId: text,
      label: text,
      sha256: text,
      idInFile: text,
      belongsTo: orNull(text),
      carrier: orNull(text),
      number: text,
      id: text,
      name: text,
      kind: word<KnownRow['kind']>(),
      fileName: text,
      place: text,
      state: word<KnownRow['state']>(),
      formerFileNames: listOf(text),
    },
    `SELECT i.id, i.number, i.name, i.kind, i.file_name AS "fileName", p.path AS place, r.state, v.id AS "versionId",
            r.code || '/' || v.seq AS label, v.sha256, v.id_in_file AS "idInFile", c.item_id AS carrier,
            ARRAY(SELECT DISTINCT file_name FROM version WHERE item_id = i.id AND carrier_version_id IS NULL) AS "formerFileNames",
            (SELECT t.number FROM link l JOIN item t ON t.id = l.target_item_id
             WHERE l.version_id = v.id AND l.relation IN ('depicts', 'describes') AND l.target_ref = 0 LIMIT 1) AS "belongsTo"
     FROM item i JOIN place p ON p.id = i.place_id JOIN version v ON v.id = i.newest_version_id JOIN revision r ON r.id = v.revision_id
     LEFT JOIN version c ON c.id = v.carrier_version_id
     WHERE i.id IN (
       SELECT id FROM item WHERE ${isAmong('number_key', '$1')}
       UNION SELECT id FROM item WHERE file_name <> '' AND ${isAmong('lower(file_name)', '$2')}
       UNION SELECT id FROM item WHERE kind IN ('part', 'assembly')
         AND ${isAmong("lower(regexp_replace(file_name, '\\.[^.]*$', ''))", '$3')}
       UNION SELECT unnest($4::bigint[]))`,
    [[...numbers], [...fileNames], [...stems], items],
  );
}

/** What the newest versions of items refer to by which text. @returns whether there is any */
async function loadLinks(
  manager: EntityManager,
  items: readonly string[],
  known: KnownItems,
): Promise<boolean> {
  const rows = await readRows(
    manager,
    { item: text, locator: text, target: text, version: text },
    `SELECT i.id AS item, l.locator, l.target_item_id AS target, l.target_version_id AS version
     FROM item i JOIN link l ON l.version_id = i.newest_version_id
     WHERE i.id = ANY($1::bigint[]) AND l.locator IS NOT NULL AND l.target_item_id IS NOT NULL ORDER BY l.id`,
    [items],
  );
  const missing = [...new Set(rows.map(({ target }) => target))].filter((id) => !known.item(id));
  if (missing.length > 0) known.add(await loadRows(manager, { ...NOTHING_WANTED, items: missing }));
  for (const { item, locator, target, version } of rows) {
    const found = known.item(target);
    if (found) known.addLink(item, { locator, target: found, versionId: version });
  }
  return rows.length > 0;
}

/** The versions that a working copy's manifest speaks of. @returns whether there is any */
async function loadVersions(
  manager: EntityManager,
  { workingCopy }: Omit<IntakeOptions, 'store'>,
  known: KnownItems,
): Promise<boolean> {
  const numbers = new Set<string>();
  for (const { items, references } of workingCopy?.files.values() ?? [])
    for (const { number } of [...items, ...references]) if (number !== null) numbers.add(number);
  const items = [...numbers].flatMap((number) => known.store.byNumber(number)?.id ?? []);
  if (items.length === 0) return false;
  const rows = await readRows(
    manager,
    { item: text, label: text, id: text },
    `SELECT v.item_id AS item, r.code || '/' || v.seq AS label, v.id FROM version v JOIN revision r ON r.id = v.revision_id
     WHERE v.item_id = ANY($1::bigint[])`,
    [items],
  );
  for (const { item, label, id } of rows) known.addVersion(item, label, id);
  return rows.length > 0;
}

function theOne(found: KnownItem | 'several' | undefined): KnownItem | undefined {
  return found === 'several' ? undefined : found;
}
