/** What is made of what, once certain versions count as released: the structure that a release freezes. */
import type { EntityManager } from 'typeorm';
import { isReleased, isStructure } from '../database/conditions.js';
import { number, orNull, readRows, text } from '../database/read-rows.js';
import { LABEL } from './item-row.js';

/** A reference of a version, and the version that stands there. */
export interface Use {
  readonly from: string;
  /** Undefined where nothing stands there that counts as released. */
  readonly to: string | undefined;
  readonly missing: Missing | undefined;
}

/** What does not count as released, or is not in the store, and what refers to it. */
export interface Missing {
  readonly user: string;
  readonly userPlaceId: string;
  /** `FM-3307 B/2`; of a gap the name that the file gives. */
  readonly what: string;
  /** Null for a gap. */
  readonly placeId: string | null;
}

export class ReleasedBelow {
  private readonly uses = new Map<string, Use[]>();

  constructor(uses: readonly Use[]) {
    for (const use of uses) this.uses.set(use.from, [...(this.uses.get(use.from) ?? []), use]);
  }

  /** Every version below one, without itself. `O(uses reached)` */
  below(version: string): ReadonlySet<string> {
    const reached = new Set<string>();
    this.walk(version, ({ to }) => to !== undefined && reached.add(to));
    return reached;
  }

  /** What is missing below a version. `O(uses reached)` */
  missing(version: string): readonly Missing[] {
    const all: Missing[] = [];
    this.walk(version, ({ missing }) => missing !== undefined && all.push(missing));
    return all;
  }

  private walk(version: string, visit: (use: Use) => unknown): void {
    const seen = new Set([version]);
    // A set that grows while it is gone through is gone through to its end.
    for (const at of seen)
      for (const use of this.uses.get(at) ?? []) {
        visit(use);
        if (use.to !== undefined) seen.add(use.to);
      }
  }
}

/**
 * Below several versions, at any level, what the lens *Released* picks: the newest version that counts as released, unless an
 * even newer one was recorded, for then that is what is meant, and it is missing.
 *
 * @param releasing versions, by item, that count as released as well
 * @returns two statements for each level
 */
export async function releasedBelow(
  manager: EntityManager,
  versionIds: readonly string[],
  releasing: ReadonlyMap<string, string>,
): Promise<ReleasedBelow> {
  const uses: Use[] = [];
  const seen = new Set(versionIds);
  for (let level = [...seen]; level.length > 0;) {
    const links = await linksOf(manager, level);
    const items = [...new Set(links.flatMap(({ item }) => item ?? []))];
    const picked = await picksOf(manager, items, releasing);
    const next = new Set<string>();
    for (const link of links) {
      const use = useOf(link, picked.get(link.item ?? ''));
      uses.push(use);
      if (use.to !== undefined && !seen.has(use.to)) next.add(use.to);
    }
    for (const version of next) seen.add(version);
    level = [...next];
  }
  return new ReleasedBelow(uses);
}

interface LinkBelow extends Missing {
  readonly from: string;
  readonly item: string | null;
  readonly ordinal: number | null;
}

function useOf(
  { from, ordinal, user, userPlaceId, what, placeId }: LinkBelow,
  pick: { readonly version: string; readonly ordinal: number } | undefined,
): Use {
  return pick && pick.ordinal >= (ordinal ?? 0)
    ? { from, to: pick.version, missing: undefined }
    : { from, to: undefined, missing: { user, userPlaceId, what, placeId } };
}

async function linksOf(manager: EntityManager, versionIds: readonly string[]): Promise<LinkBelow[]> {
  return readRows<LinkBelow>(
    manager,
    {
      ...{ from: text, item: orNull(text), ordinal: orNull(number) },
      ...{ user: text, userPlaceId: text, what: text, placeId: orNull(text) },
    },
    `SELECT DISTINCT l.version_id AS from, u.number AS user, u.place_id AS "userPlaceId", l.target_item_id AS item, v.ordinal,
            coalesce(i.number || ' ' || ${LABEL}, l.target_name_in_file) AS what, i.place_id AS "placeId"
     FROM link l JOIN version w ON w.id = l.version_id JOIN item u ON u.id = w.item_id
     LEFT JOIN version v ON v.id = l.target_version_id LEFT JOIN revision r ON r.id = v.revision_id
     LEFT JOIN item i ON i.id = l.target_item_id
     WHERE l.version_id = ANY($1::bigint[]) AND ${isStructure()}`,
    [versionIds],
  );
}

async function picksOf(
  manager: EntityManager,
  itemIds: readonly string[],
  releasing: ReadonlyMap<string, string>,
): Promise<Map<string, { readonly version: string; readonly ordinal: number }>> {
  const rows = await readRows(
    manager,
    { item: text, version: text, ordinal: number },
    `SELECT DISTINCT ON (v.item_id) v.item_id AS item, v.id AS version, v.ordinal
     FROM version v JOIN revision r ON r.id = v.revision_id
     WHERE v.item_id = ANY($1::bigint[]) AND (v.id = ANY($2::bigint[]) OR ${isReleased()})
     ORDER BY v.item_id, v.ordinal DESC`,
    [itemIds, [...releasing.values()]],
  );
  return new Map(rows.map(({ item, ...pick }) => [item, pick]));
}
