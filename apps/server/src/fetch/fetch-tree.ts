import { Injectable } from '@nestjs/common';
import {
  follow,
  planFetch,
  StructureGraph,
  type FetchFile,
  type FetchPlan,
  type FetchReference,
  type Lens,
  type LinkEdge,
  type PlannedFile,
  type ProductNames,
  type Relation,
} from '@stem-trace/core';
import { DataSource, type EntityManager } from 'typeorm';
import { CatalogueService, type DescribedVersion } from '../items/catalogue.service.js';
import { StructureLoader } from '../structure/structure-loader.js';

export interface FetchTree {
  readonly plan: FetchPlan;
  /** The file of the item asked for, or the one that it lives in. */
  readonly root: PlannedFile;
  /** Versions by the version whose file they live in. */
  readonly contents: ReadonlyMap<string, readonly DescribedVersion[]>;
}

interface StoredLink extends LinkEdge {
  readonly targetRef: number;
  readonly idInFile: string;
  readonly nameInFile: string;
  readonly relation: Relation;
}

export interface TreeChoice {
  readonly lens: Lens;
  /** Whether the drawings of everything in the tree belong to it. */
  readonly drawings: boolean;
  /** Whether what lies in a place may be handed out. */
  readonly mayFetch: (placeId: string) => boolean;
}

/** Works out which files belong to a version and everything below it, under a lens, and what they must say. */
@Injectable()
export class FetchTreeService {
  constructor(
    private readonly database: DataSource,
    private readonly catalogue: CatalogueService,
    private readonly loader: StructureLoader,
  ) {}

  async collect(version: DescribedVersion, { lens, drawings, mayFetch }: TreeChoice): Promise<FetchTree> {
    const { manager } = this.database;
    const rootFile = version.carrierVersion ?? version.id;
    const contents = new Map<string, DescribedVersion[]>();
    const links: StoredLink[] = [];
    const targets = new Map<string, string>();
    const keptBack = new Set<string>();
    let frontier = [rootFile];
    let drawingsAdded = !drawings;
    while (frontier.length > 0) {
      const inFiles = await this.catalogue.describeFileContents(frontier, manager);
      for (const found of inFiles) {
        const file = found.carrierVersion ?? found.id;
        contents.set(file, [...(contents.get(file) ?? []), found]);
      }
      const outward = await this.outwardLinks(
        manager,
        inFiles.map((found) => found.id),
      );
      links.push(...outward);
      const { chosen, refused } = await this.choose(manager, outward.filter(leadsToFile), { lens, mayFetch });
      for (const [link, target] of chosen) targets.set(link, target);
      for (const link of refused) keptBack.add(link);
      const next = [...new Set([...chosen.values()])].filter((file) => !contents.has(file));
      frontier = next;
      if (frontier.length === 0 && !drawingsAdded) {
        drawingsAdded = true;
        const items = [...contents.values()].flat().map(({ itemId }) => itemId);
        const found = await this.loader.drawingsOf([...new Set(items)], lens);
        const drawn = await this.catalogue.describe([...found.keys()]);
        frontier = [...drawn].flatMap(([file, { placeId }]) =>
          !contents.has(file) && mayFetch(placeId) ? [file] : [],
        );
      }
    }
    const files = fetchFiles(contents, { links, targets, keptBack, items: await this.targetsOf(links) });
    const plan = planFetch(files);
    const root = plan.files.find((file) => file.versionId === rootFile);
    if (!root) throw new Error(`version ${rootFile} has no file`);
    return { plan, root, contents };
  }

  private async outwardLinks(manager: EntityManager, versionIds: readonly string[]): Promise<StoredLink[]> {
    return manager.query(
      `SELECT id, version_id AS "parentVersion", target_item_id AS "targetItem", target_version_id AS "targetVersion", quantity::float8,
              carried, locator, target_ref::int AS "targetRef", target_id_in_file AS "idInFile", target_name_in_file AS "nameInFile", relation,
              '' AS "targetText", '[]'::jsonb AS occurrences
       FROM link WHERE version_id = ANY($1::bigint[]) AND NOT carried ORDER BY version_id, position`,
      [versionIds],
    );
  }

  /** For each link the version whose file it leads to under the lens; links that lead nowhere are absent. */
  private async choose(
    manager: EntityManager,
    links: readonly StoredLink[],
    { lens, mayFetch }: Pick<TreeChoice, 'lens' | 'mayFetch'>,
  ): Promise<{ chosen: Map<string, string>; refused: string[] }> {
    const versions: {
      id: string;
      itemId: string;
      ordinal: number;
      createdAtMs: number;
      released: boolean;
      file: string;
      placeId: string;
    }[] = await manager.query(
      `SELECT v.id, v.item_id AS "itemId", v.ordinal, (extract(epoch FROM v.created_at) * 1000)::float8 AS "createdAtMs",
              r.state IN ('released', 'superseded') AS released, coalesce(v.carrier_version_id, v.id) AS file, i.place_id AS "placeId"
       FROM version v JOIN revision r ON r.id = v.revision_id JOIN item i ON i.id = v.item_id WHERE v.item_id = ANY($1::bigint[])`,
      [[...new Set(links.flatMap((link) => link.targetItem ?? []))]],
    );
    const graph = new StructureGraph(versions, []);
    const fileOf = new Map(versions.map(({ id, file }) => [id, file]));
    const placeOf = new Map(versions.map(({ id, placeId }) => [id, placeId]));
    const chosen = new Map<string, string>();
    const refused: string[] = [];
    for (const link of links) {
      // The database says null for a gap where the core leaves the member out.
      const version = link.targetItem ? follow(graph, link, lens) : undefined;
      const file = version && fileOf.get(version.id);
      if (file === undefined || !version) continue;
      if (mayFetch(placeOf.get(version.id) ?? '')) chosen.set(link.id, file);
      else refused.push(link.id);
    }
    return { chosen, refused };
  }

  private async targetsOf(
    links: readonly StoredLink[],
  ): Promise<Map<string, { number: string; name: string }>> {
    const rows: { id: string; number: string; name: string }[] = await this.database.query(
      'SELECT id, number, name FROM item WHERE id = ANY($1::bigint[])',
      [[...new Set(links.flatMap((link) => link.targetItem ?? []))]],
    );
    return new Map(rows.map((row) => [row.id, row]));
  }
}

/** Whether a link's target is a file that must lie beside; a drawing only names what it shows. */
function leadsToFile({ relation }: StoredLink): boolean {
  return relation === 'component' || relation === 'draws on';
}

interface LinkTargets {
  readonly links: readonly StoredLink[];
  /** Version whose file is meant, by link. */
  readonly targets: ReadonlyMap<string, string>;
  /** Links to what the asker may not fetch. */
  readonly keptBack: ReadonlySet<string>;
  readonly items: ReadonlyMap<string, { number: string; name: string }>;
}

function fetchFiles(
  contents: ReadonlyMap<string, readonly DescribedVersion[]>,
  { links, targets, keptBack, items }: LinkTargets,
): FetchFile[] {
  const linksByVersion = new Map<string, StoredLink[]>();
  for (const link of links)
    linksByVersion.set(link.parentVersion, [...(linksByVersion.get(link.parentVersion) ?? []), link]);
  return [...contents].flatMap(([fileVersion, versions]): FetchFile[] => {
    const own = versions.find((version) => version.id === fileVersion);
    if (!own) return [];
    const references = new Map<number, FetchReference>();
    const names: ProductNames[] = [];
    for (const link of versions.flatMap((version) => linksByVersion.get(version.id) ?? [])) {
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
        product: {
          ref: link.targetRef,
          idInFile: link.idInFile,
          nameInFile: link.nameInFile,
          number: item?.number ?? link.idInFile,
          name: item?.name ?? link.nameInFile,
        },
        locator: link.locator ?? '',
        ...(keptBack.has(link.id) ? { keptBack: true } : {}),
        ...(target === undefined ? {} : { targetVersion: target }),
      });
    }
    return [
      {
        versionId: fileVersion,
        place: own.place,
        fileName: own.fileName,
        storedFileName: own.storedFileName,
        sha256: own.sha256,
        products: versions.map(({ productRef, idInFile, nameInFile, number, name }) => ({
          ref: productRef,
          idInFile,
          nameInFile,
          number,
          name,
        })),
        names,
        references: [...references.values()],
      },
    ];
  });
}
