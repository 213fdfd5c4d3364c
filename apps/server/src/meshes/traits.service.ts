import type { LineageKind, TraitRow, TraitsAnswer } from '@stem-trace/contract';
import type { DataSource } from 'typeorm';
import type { RightsService } from '../access/rights.service.js';
import { measureOfItem } from '../database/conditions.js';
import type { Person } from '../database/entities/person.js';
import { number, orNull, readRow, readRows, text, timeText } from '../database/read-rows.js';
import type { CatalogueService, DescribedVersion } from '../store/catalogue.service.js';
import type { StructureLoader } from '../structure/structure-loader.js';
import type { SceneRequest, SceneService } from './scene.service.js';

interface Known {
  readonly id: string;
  readonly behind: number;
  readonly class: string | null;
  readonly massKg: number | null;
  readonly changedAt: string;
  /** Item that it was made from. */
  readonly origin: string | null;
  readonly copiedFrom: string | null;
}

/** What the colours of a scene can tell of what stands in it. */
export class TraitsService {
  constructor(
    private readonly database: DataSource,
    private readonly catalogue: CatalogueService,
    private readonly loader: StructureLoader,
    private readonly rights: RightsService,
    private readonly scenes: SceneService,
  ) {}

  /** Each version once, however often it stands there. */
  async traits(request: SceneRequest, person: Person): Promise<TraitsAnswer> {
    const { versions, root } = await this.scenes.placed(request, person);
    const seen = new Map(versions.flatMap((version) => (version ? [[version.id, version]] : [])));
    const known = await this.known([...seen.keys()], (await this.rights.of(person)).placesWithout('see'));
    const origin = await this.originOf(root, person);
    const shared = origin ? await this.itemsBelow(origin.id, request, person) : new Set<string>();
    const places = new Map([...seen.keys()].map((id, at) => [id, at]));
    return {
      rows: [...seen.values()].map((version) => rowOf(version, known.get(version.id), shared)),
      of: versions.map((version) => (version ? (places.get(version.id) ?? -1) : -1)),
      origin: origin?.number ?? '',
    };
  }

  private async known(ids: readonly string[], hidden: readonly string[]): Promise<Map<string, Known>> {
    const rows = await readRows<Known>(
      this.database,
      {
        ...{ id: text, behind: number, class: orNull(text), massKg: orNull(number) },
        ...{ changedAt: timeText, origin: orNull(text), copiedFrom: orNull(text) },
      },
      `SELECT v.id, n.ordinal - v.ordinal AS behind, (SELECT c.name FROM class c WHERE c.id = i.class_id) AS class,
              (${measureOfItem('mass', '$2')} AND p.unit = 'kg') AS "massKg", v.created_at AS "changedAt",
              f.id AS origin, CASE WHEN f.place_id <> ALL($2::bigint[]) THEN f.number END AS "copiedFrom"
       FROM version v JOIN item i ON i.id = v.item_id JOIN version n ON n.id = i.newest_version_id
       LEFT JOIN version o ON o.id = i.origin_version_id LEFT JOIN item f ON f.id = o.item_id
       WHERE v.id = ANY($1::bigint[])`,
      [ids, hidden],
    );
    return new Map(rows.map((row) => [row.id, row]));
  }

  /** What an item was derived from, as it is by now; undefined where it was not, or may not be seen. */
  private async originOf(
    { itemId }: DescribedVersion,
    person: Person,
  ): Promise<DescribedVersion | undefined> {
    const { origin } = await readRow(
      this.database,
      { origin: orNull(text) },
      'SELECT (SELECT o.item_id FROM version o WHERE o.id = i.origin_version_id) AS origin FROM item i WHERE i.id = $1',
      [itemId],
    );
    if (origin === null) return undefined;
    const [newest] = await this.catalogue.newestOf([origin]);
    return newest && (await this.rights.of(person)).may('see', newest.placeId) ? newest : undefined;
  }

  private async itemsBelow(
    version: string,
    { lens }: SceneRequest,
    person: Person,
  ): Promise<ReadonlySet<string>> {
    const graph = await this.loader.below(
      version,
      await this.catalogue.lens(lens, await this.rights.of(person)),
    );
    const described = await this.catalogue.describe([...graph.versions()].map(({ id }) => id));
    return new Set([...described.values()].map(({ itemId }) => itemId));
  }
}

function rowOf(
  { number: item, state, heldBy, itemId }: DescribedVersion,
  known: Known | undefined,
  shared: ReadonlySet<string>,
): TraitRow {
  const lineage: LineageKind = shared.has(itemId)
    ? 'shared'
    : shared.has(known?.origin ?? '')
      ? 'copied'
      : 'own';
  return {
    copiedFrom: known?.copiedFrom ?? '',
    ...{ number: item, state, behind: known?.behind ?? 0, holder: heldBy?.name ?? '' },
    ...{
      class: known?.class ?? '',
      massKg: known?.massKg ?? null,
      changedAt: known?.changedAt ?? '',
      lineage,
    },
  };
}
