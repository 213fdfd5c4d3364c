import { Injectable } from '@nestjs/common';
import { MANIFEST_NAME } from '@stem-trace/contract';
import {
  follow,
  planFetch,
  StructureGraph,
  type AbsentTarget,
  type Effectivity,
  type FetchFile,
  type FetchPlan,
  type FetchReference,
  type Lens,
  type LinkEdge,
  type LinkFacts,
  type PlannedFile,
  type ProductNames,
  type TitleBlockRule,
} from '@stem-trace/core';
import { DataSource, type EntityManager } from 'typeorm';
import { COUNTS_FROM, RELEASED_AT } from '../database/conditions.js';
import { flag, json, listOf, number, orAbsent, readRows, text, word } from '../database/read-rows.js';
import { SettingsService } from '../settings/settings.service.js';
import { CatalogueService, type DescribedVersion } from '../store/catalogue.service.js';
import { formatOf, propertiesOf } from '../store/facts.js';
import { mentionsIn } from '../structure/mentions.js';
import { LINK_ENDS, StructureLoader } from '../structure/structure-loader.js';

export interface FetchTree {
  readonly plan: FetchPlan;
  /** The file of the item asked for, or the one that it lives in. */
  readonly root: PlannedFile;
  /** Versions by the version whose file they live in. */
  readonly contents: ReadonlyMap<string, readonly DescribedVersion[]>;
  /** What each reference of a file means, by the version whose file it is. */
  readonly references: ReadonlyMap<string, readonly FetchedReference[]>;
}

export interface FetchedReference {
  readonly ref: number;
  readonly locator: string;
  /** Of the item; null where it may not be known. */
  readonly number: string | null;
  /** Label of the version whose file was handed out; null where none was. */
  readonly version: string | null;
}

interface StoredLink
  extends Omit<LinkEdge, 'find' | 'amount' | 'position' | 'effectivity'>, Pick<LinkFacts, 'relation'> {
  /** Whether every mention of the target in the file says the locator. */
  readonly saidAlike: boolean;
  readonly targetRef: number;
  readonly idInFile: string;
  readonly nameInFile: string;
}

export interface TreeChoice {
  readonly lens: Lens;
  /** Whether the drawings of everything in the tree belong to it. */
  readonly drawings: boolean;
  /** Whether what lies in a place may be handed out. */
  readonly mayFetch: (placeId: string) => boolean;
  /** Whether what lies in a place may be known of. */
  readonly maySee: (placeId: string) => boolean;
}

/** Works out which files belong to a version and everything below it, under a lens, and what they must say. */
@Injectable()
export class FetchTreeService {
  constructor(
    private readonly database: DataSource,
    private readonly catalogue: CatalogueService,
    private readonly loader: StructureLoader,
    private readonly settings: SettingsService,
  ) {}

  async collect(
    version: DescribedVersion,
    { lens, drawings, mayFetch, maySee }: TreeChoice,
  ): Promise<FetchTree> {
    const { manager } = this.database;
    const rootFile = version.carrierVersion ?? version.id;
    const contents = new Map<string, DescribedVersion[]>();
    const links: StoredLink[] = [];
    const targets = new Map<string, ChosenTarget>();
    const keptBack = new Set<string>();
    let frontier = [rootFile];
    let drawingsAdded = !drawings;
    while (frontier.length > 0) {
      const inFiles = await this.catalogue.describeFileContents(frontier, manager);
      for (const found of inFiles) {
        const file = found.carrierVersion ?? found.id;
        const list = contents.get(file);
        if (list) list.push(found);
        else contents.set(file, [found]);
      }
      const outward = await this.outwardLinks(
        manager,
        inFiles.map((found) => found.id),
      );
      links.push(...outward);
      const { chosen, refused } = await this.choose(manager, outward.filter(leadsToFile), { lens, mayFetch });
      for (const [link, target] of chosen) targets.set(link, target);
      for (const link of refused) keptBack.add(link);
      const next = [...new Set([...chosen.values()].map(({ file }) => file))].filter(
        (file) => !contents.has(file),
      );
      frontier = next;
      if (frontier.length === 0 && !drawingsAdded) {
        drawingsAdded = true;
        const items = [...contents.values()].flat().map(({ itemId }) => itemId);
        const found = await this.loader.drawingsOf([...new Set(items)], lens);
        const drawn = await this.catalogue.placesOfFiles([...found.keys()]);
        frontier = [...drawn].flatMap(([file, places]) =>
          !contents.has(file) && places.every(mayFetch) ? [file] : [],
        );
      }
    }
    const linked = {
      ...{ links, targets, keptBack, items: await this.targetsOf(links), maySee },
      mentions: await this.mentionsIn(links, maySee),
      titleBlock: await this.settings.titleBlock(),
    };
    const plan = planFetch(fetchFiles(contents, linked), { reserved: [MANIFEST_NAME] });
    const root = plan.files.find((file) => file.versionId === rootFile);
    if (!root) throw new Error(`version ${rootFile} has no file`);
    const labels = await this.catalogue.describe([
      ...new Set([...targets.values()].map(({ version }) => version)),
    ]);
    return { plan, root, contents, references: referencesOf(contents, linked, labels) };
  }

  private async outwardLinks(manager: EntityManager, versionIds: readonly string[]): Promise<StoredLink[]> {
    return readRows<StoredLink>(
      manager,
      {
        ...LINK_ENDS,
        quantity: number,
        carried: flag,
        saidAlike: flag,
        targetRef: number,
        idInFile: text,
        nameInFile: text,
        relation: word(),
        targetText: text,
        occurrences: json(),
        configurations: orAbsent(listOf(text)),
      },
      `SELECT id, version_id AS "parentVersion", target_item_id AS "targetItem", target_version_id AS "targetVersion", quantity::float8,
              carried, locator, said_alike AS "saidAlike", target_ref::float8 AS "targetRef", target_id_in_file AS "idInFile", target_name_in_file AS "nameInFile", relation,
              '' AS "targetText", '[]'::jsonb AS occurrences, NULL::text[] AS configurations
       FROM link WHERE version_id = ANY($1::bigint[]) AND NOT carried ORDER BY version_id, position`,
      [versionIds],
    );
  }

  /** For each link the version that it leads to under the lens; links that lead nowhere are absent. */
  private async choose(
    manager: EntityManager,
    links: readonly StoredLink[],
    { lens, mayFetch }: Pick<TreeChoice, 'lens' | 'mayFetch'>,
  ): Promise<{ chosen: Map<string, ChosenTarget>; refused: string[] }> {
    const versions = await readRows(
      manager,
      {
        ...{ id: text, itemId: text, ordinal: number, createdAtMs: number, releasedAtMs: number, file: text },
        effectivity: orAbsent(json<Effectivity>()),
      },
      `SELECT v.id, v.item_id AS "itemId", v.ordinal, (extract(epoch FROM v.created_at) * 1000)::float8 AS "createdAtMs",
              ${RELEASED_AT} AS "releasedAtMs", ${COUNTS_FROM} AS effectivity, coalesce(v.carrier_version_id, v.id) AS file
       FROM version v JOIN revision r ON r.id = v.revision_id WHERE v.item_id = ANY($1::bigint[])`,
      [[...new Set(links.flatMap((link) => link.targetItem ?? []))]],
    );
    const graph = new StructureGraph(versions, []);
    const fileOf = new Map(versions.map(({ id, file }) => [id, file]));
    const chosen = new Map<string, ChosenTarget>();
    const refused: string[] = [];
    const files = new Map<string, ChosenTarget>();
    for (const link of links) {
      // The database says null for a gap where the core leaves the member out.
      const version = link.targetItem ? follow(graph, link, lens) : undefined;
      const file = version && fileOf.get(version.id);
      if (file === undefined || !version) continue;
      files.set(link.id, { version: version.id, file });
    }
    // All that lives in a file leaves with it.
    const places = await this.catalogue.placesOfFiles(
      [...new Set([...files.values()].map(({ file }) => file))],
      manager,
    );
    for (const [link, target] of files) {
      if ((places.get(target.file) ?? []).every(mayFetch)) chosen.set(link, target);
      else refused.push(link);
    }
    return { chosen, refused };
  }

  /** What drawings say of what their items are made of, where the store calls it otherwise. */
  private async mentionsIn(
    links: readonly StoredLink[],
    maySee: (placeId: string) => boolean,
  ): Promise<Map<string, ProductNames[]>> {
    const drawings = links.flatMap(({ relation, parentVersion }) =>
      relation === 'depicts' ? [parentVersion] : [],
    );
    return new Map(
      [...(await mentionsIn(this.database, drawings))].map(([drawing, mentions]) => [
        drawing,
        mentions.flatMap(({ was, number: now, placeId }) =>
          now !== was && maySee(placeId)
            ? [{ ref: 0, idInFile: was, nameInFile: '', number: now, name: '' }]
            : [],
        ),
      ]),
    );
  }

  private async targetsOf(links: readonly StoredLink[]): Promise<Map<string, TargetItem>> {
    const rows = await readRows<TargetItem>(
      this.database,
      { id: text, number: text, name: text, fileName: text, place: text, placeId: text },
      `SELECT i.id, i.number, i.name, i.file_name AS "fileName", p.path AS place, i.place_id AS "placeId"
       FROM item i JOIN place p ON p.id = i.place_id WHERE i.id = ANY($1::bigint[])`,
      [[...new Set(links.flatMap((link) => link.targetItem ?? []))]],
    );
    return new Map(rows.map((row) => [row.id, row]));
  }
}

interface ChosenTarget {
  readonly version: string;
  /** The version whose file it lives in. */
  readonly file: string;
}

interface TargetItem {
  readonly id: string;
  readonly number: string;
  readonly name: string;
  readonly fileName: string;
  readonly place: string;
  readonly placeId: string;
}

/** Whether a link's target is a file that must lie beside; a drawing only names what it shows. */
function leadsToFile({ relation }: StoredLink): boolean {
  return relation === 'component' || relation === 'draws on';
}

interface LinkTargets {
  readonly links: readonly StoredLink[];
  readonly targets: ReadonlyMap<string, ChosenTarget>;
  /** Links to what the asker may not fetch. */
  readonly keptBack: ReadonlySet<string>;
  readonly items: ReadonlyMap<string, TargetItem>;
  readonly maySee: (placeId: string) => boolean;
  /** By drawing: items that it names besides what it shows. */
  readonly mentions: ReadonlyMap<string, readonly ProductNames[]>;
  readonly titleBlock: readonly TitleBlockRule[];
}

type Contents = ReadonlyMap<string, readonly DescribedVersion[]>;

function linksByFile(contents: Contents, links: readonly StoredLink[]): Map<string, StoredLink[]> {
  const byVersion = new Map<string, StoredLink[]>();
  for (const link of links) {
    const list = byVersion.get(link.parentVersion);
    if (list) list.push(link);
    else byVersion.set(link.parentVersion, [link]);
  }
  return new Map(
    [...contents].map(([file, versions]) => [file, versions.flatMap(({ id }) => byVersion.get(id) ?? [])]),
  );
}

/** What each file refers to, for the manifest: by it a working copy that comes back is understood. */
function referencesOf(
  contents: Contents,
  { links, targets, items, maySee }: LinkTargets,
  described: ReadonlyMap<string, DescribedVersion>,
): Map<string, FetchedReference[]> {
  const references = new Map<string, FetchedReference[]>();
  for (const [file, own] of linksByFile(contents, links)) {
    const found = own.flatMap((link): FetchedReference[] => {
      const item = items.get(link.targetItem ?? '');
      if (!leadsToFile(link) || !link.locator || !item) return [];
      const version = described.get(targets.get(link.id)?.version ?? '');
      return [
        {
          ref: link.targetRef,
          locator: link.locator,
          number: maySee(item.placeId) ? item.number : null,
          version: version?.label ?? null,
        },
      ];
    });
    references.set(file, found);
  }
  return references;
}

function fetchFiles(contents: Contents, linked: LinkTargets): FetchFile[] {
  const { links, targets, keptBack, items, maySee, mentions, titleBlock: rules } = linked;
  const byFile = linksByFile(contents, links);
  return [...contents].flatMap(([fileVersion, versions]): FetchFile[] => {
    const own = versions.find((version) => version.id === fileVersion);
    if (!own) return [];
    const references = new Map<number, FetchReference>();
    const names: ProductNames[] = [];
    for (const link of byFile.get(fileVersion) ?? []) {
      const item = items.get(link.targetItem ?? '');
      const target = targets.get(link.id);
      if (!leadsToFile(link)) {
        if (item)
          names.push({
            ref: link.targetRef,
            idInFile: link.idInFile,
            nameInFile: '',
            number: item.number,
            name: '',
          });
        continue;
      }
      references.set(link.targetRef, {
        product: placeholderNames(link, item),
        locator: link.locator ?? '',
        ...(link.saidAlike ? {} : { isSaidInSeveralWays: true }),
        ...(target === undefined ? {} : { targetVersion: target.file }),
        ...(target || !item ? {} : { absent: absence(item, { isKeptBack: keptBack.has(link.id), maySee }) }),
      });
    }
    return [
      {
        versionId: fileVersion,
        place: own.place,
        // What has no file name any more came out of a file of its own once.
        fileName: own.fileName || own.storedFileName,
        storedFileName: own.storedFileName,
        sha256: own.sha256,
        products: versions.map(({ productRef, idInFile, nameInFile, number, name }) => ({
          ref: productRef,
          idInFile,
          nameInFile,
          number,
          name,
        })),
        names: [...names, ...versions.flatMap(({ id }) => mentions.get(id) ?? [])],
        references: [...references.values()],
        ...(formatOf(own.facts) === 'dxf' ? { titleBlock: { rules, properties: propertiesOf(own) } } : {}),
      },
    ];
  });
}

/** A file that is drawn on is named by its path alone, unless it defines a product that is named too. */
function placeholderNames(link: StoredLink, item: TargetItem | undefined): ProductNames {
  const { targetRef: ref, idInFile, nameInFile, relation } = link;
  const isNamed = item !== undefined && (relation === 'component' || idInFile !== '');
  return {
    ref,
    idInFile,
    nameInFile,
    number: isNamed ? item.number : idInFile,
    name: isNamed ? item.name : nameInFile,
  };
}

function absence(
  { place, placeId, fileName, number }: TargetItem,
  { isKeptBack, maySee }: { isKeptBack: boolean; maySee: (placeId: string) => boolean },
): AbsentTarget {
  const at = maySee(placeId) ? { at: { place, fileName: fileName || `${number}.stp` } } : {};
  return { because: isKeptBack ? 'access' : 'lens', ...at };
}
