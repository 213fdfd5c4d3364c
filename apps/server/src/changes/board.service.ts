import type { ChangeRow } from '@stem-trace/contract';
import {
  isFinished,
  rightFor,
  sayWho,
  stateNamed,
  type ChangeKind,
  type Lane,
  type StepBy,
  type Urgency,
} from '@stem-trace/core';
import { DataSource } from 'typeorm';
import { RightsService, type Rights } from '../access/rights.service.js';
import type { Person } from '../database/entities/person.js';
import { iso, json, number, orNull, readRows, text, timeText, word } from '../database/read-rows.js';
import { CatalogueService } from '../store/catalogue.service.js';
import { LABEL } from '../store/item-row.js';
import { standingsOf } from '../store/standings.js';
import type { StructureIndex } from '../structure/structure-index.js';

/** More are found by searching for them. */
const MOST = 5000;
/** Of one change, items whose products are looked up. */
const MOST_LOOKED_UP = 20;
/** What stands in more products is no sign of a product line: a bolt, a label. */
const MOST_PRODUCTS = 20;
const MANY = 'many products';
const ASKED_AT_ONCE = 50;

interface Stored {
  readonly id: string;
  readonly number: string;
  readonly name: string;
  readonly kind: ChangeKind;
  readonly version: string;
  readonly state: string;
  readonly lane: Lane;
  readonly urgency: Urgency;
  readonly owner: string;
  readonly until: string;
  readonly dueAt: string | null;
  readonly openedAt: string;
  readonly openedBy: string;
  readonly moves: readonly { readonly from: string; readonly to: string; readonly at: string }[];
  readonly items: readonly string[];
  readonly affects: number;
  readonly makes: number;
  readonly tasksOpen: number;
}

/** Where all changes stand. */
export class BoardService {
  constructor(
    private readonly database: DataSource,
    private readonly catalogue: CatalogueService,
    private readonly rights: RightsService,
    private readonly index: StructureIndex,
  ) {}

  /** @param item only changes that it has to do with; all where empty. The newest first */
  async list(item: string, person: Person): Promise<ChangeRow[]> {
    const rights = await this.rights.of(person);
    const of = item === '' ? null : (await this.catalogue.resolve(item, person)).itemId;
    const rows = await this.stored(of, rights);
    const waits = await this.waitsFor(rows);
    const products = await this.productsOf(rows, rights);
    return rows.map(({ id, moves, items: _, ...row }) => {
      const stays = staysOf(row, moves);
      const last = stays.at(-1);
      return {
        ...row,
        stays,
        closedAt: isFinished(row.lane) ? (last?.from ?? row.openedAt) : null,
        waitsFor: waits.get(id) ?? [],
        products: products.get(id) ?? [],
      };
    });
  }

  private async stored(of: string | null, rights: Rights): Promise<Stored[]> {
    const hidden = rights.placesWithout('see');
    return readRows<Stored>(
      this.database,
      {
        ...{ id: text, number: text, name: text, kind: word<ChangeKind>(), version: text, state: text },
        ...{
          lane: word<Lane>(),
          urgency: word<Urgency>(),
          owner: text,
          until: text,
          dueAt: orNull(timeText),
          openedAt: timeText,
        },
        ...{ openedBy: text, moves: json<Stored['moves']>(), items: json<string[]>() },
        ...{ affects: number, makes: number, tasksOpen: number },
      },
      `SELECT i.id, i.number, i.name, i.kind, ${LABEL} AS version, i.state, s.lane, c.urgency, coalesce(o.name, '') AS owner,
              coalesce(c.until::text, '') AS until, site_midnight(c.until + 1) AS "dueAt", f.created_at AS "openedAt", a.name AS "openedBy",
              (SELECT coalesce(jsonb_agg(jsonb_build_object('from', e.detail->>'from', 'to', e.detail->>'to', 'at', ${iso('e.at')})
                 ORDER BY e.id), '[]') FROM event e WHERE e.item_id = i.id AND e.kind = 'step') AS moves,
              (SELECT coalesce(jsonb_agg(DISTINCT l.item_id::text), '[]') FROM change_line l JOIN item li ON li.id = l.item_id
                 WHERE l.change_id = i.id AND l.relation IN ('affects', 'shows in') AND li.place_id <> ALL($1::bigint[])) AS items,
              (SELECT count(*)::int FROM change_line l JOIN item li ON li.id = l.item_id
                 WHERE l.change_id = i.id AND l.relation = 'affects' AND li.place_id <> ALL($1::bigint[])) AS affects,
              (SELECT count(*)::int FROM change_makes m JOIN revision mr ON mr.id = m.revision_id JOIN item mi ON mi.id = mr.item_id
                 WHERE m.change_id = i.id AND mi.place_id <> ALL($1::bigint[])) AS makes,
              (SELECT count(*)::int FROM change_task t WHERE t.change_id = i.id AND NOT EXISTS (
                 SELECT FROM change_task_done d WHERE d.change_id = t.change_id AND d.key = t.key)) AS "tasksOpen"
       FROM change c JOIN item i ON i.id = c.item_id JOIN state s ON s.name = i.state
       JOIN version v ON v.id = i.newest_version_id JOIN revision r ON r.id = v.revision_id
       JOIN version f ON f.item_id = i.id AND f.ordinal = 1 JOIN person a ON a.id = f.author_id LEFT JOIN person o ON o.id = c.owner_id
       WHERE i.place_id <> ALL($1::bigint[]) AND ($2::bigint IS NULL
         OR EXISTS (SELECT FROM change_line l WHERE l.change_id = i.id AND l.item_id = $2)
         OR EXISTS (SELECT FROM change_makes m JOIN revision mr ON mr.id = m.revision_id WHERE m.change_id = i.id AND mr.item_id = $2))
       ORDER BY f.created_at DESC, i.id DESC LIMIT ${MOST}`,
      [hidden, of],
    );
  }

  /** Who is expected to do something next: whoever it is in the hands of, or those who may decide. */
  private async waitsFor(rows: readonly Stored[]): Promise<Map<string, string[]>> {
    const open = rows.filter(({ lane }) => !isFinished(lane));
    const items = await this.catalogue.newestOf(
      open.map(({ id }) => id),
      this.database.manager,
    );
    const standings = await standingsOf(this.database.manager, items);
    return new Map(
      open.map(({ id, lane, owner, state }) => {
        if (lane === 'open' && owner !== '') return [id, [owner]];
        const at = standings.get(id);
        if (!at) return [id, []];
        const steps = at.diagram.steps.filter(({ from }) => from.includes(state));
        const wanted = steps.filter((step) =>
          lane === 'open'
            ? stateNamed(at.diagram, step.to)?.lane !== 'out of use'
            : rightFor(at.diagram, step) === 'release',
        );
        const signed = new Set(at.given.map(({ name }) => name));
        const more = signed.size > 0 ? ` (after ${[...signed].join(', ')})` : '';
        const who = distinct(wanted.flatMap((step) => step.signatures?.of ?? step.who));
        return [id, who.length === 0 ? [] : [`${who.join(' / ')}${more}`]];
      }),
    );
  }

  /** Names of the top-level products of what changes that are under way affect or show in. `O(items looked up + their products)` */
  private async productsOf(rows: readonly Stored[], rights: Rights): Promise<Map<string, string[]>> {
    const open = rows.filter(({ lane }) => !isFinished(lane));
    const asked = [...new Set(open.flatMap(({ items }) => items.slice(0, MOST_LOOKED_UP)))];
    const topsOf = new Map<string, readonly string[]>();
    for (let at = 0; at < asked.length; at += ASKED_AT_ONCE)
      await Promise.all(
        asked.slice(at, at + ASKED_AT_ONCE).map(async (item) => topsOf.set(item, await this.topsOf(item))),
      );
    const named = await this.namesOf(asked, [...new Set([...topsOf.values()].flat())], rights);
    return new Map(
      open.map(({ id, items }) => {
        const names = items.slice(0, MOST_LOOKED_UP).flatMap((item) => {
          const tops = topsOf.get(item) ?? [];
          if (tops.length > MOST_PRODUCTS) return [MANY];
          return tops.length > 0
            ? tops.flatMap((top) => named.versions.get(top) ?? [])
            : (named.items.get(item) ?? []);
        });
        return [id, [...new Set(names)].sort()];
      }),
    );
  }

  /** Ids of versions of top-level products; none where nothing uses it. */
  private async topsOf(item: string): Promise<string[]> {
    const { versions } = await this.index.ask({
      ...{ what: 'tops', of: Number(item), levels: Infinity },
      lens: { kind: 'newest' },
    });
    return Array.from(versions.subarray(0, MOST_PRODUCTS + 1), String);
  }

  /** Of those that may be seen. */
  private async namesOf(
    items: readonly string[],
    versions: readonly string[],
    rights: Rights,
  ): Promise<{
    readonly items: ReadonlyMap<string, string>;
    readonly versions: ReadonlyMap<string, string>;
  }> {
    const rows = await readRows(
      this.database,
      { version: orNull(text), item: text, name: text, placeId: text },
      `SELECT v.id::text AS version, i.id::text AS item, i.name, i.place_id AS "placeId" FROM version v JOIN item i ON i.id = v.item_id
       WHERE v.id = ANY($2::bigint[])
       UNION ALL SELECT NULL, i.id::text, i.name, i.place_id FROM item i WHERE i.id = ANY($1::bigint[])`,
      [items, versions],
    );
    const seen = rows.filter(({ placeId }) => rights.may('see', placeId));
    return {
      items: new Map(seen.map(({ item, name }) => [item, name])),
      versions: new Map(seen.flatMap(({ version, name }) => (version === null ? [] : [[version, name]]))),
    };
  }
}

/** In words, each once; administrators may do most things, and are named only where nobody else is. */
function distinct(who: readonly StepBy[]): string[] {
  const others = who.filter((each) => each.kind !== 'role' || each.role !== 'administrator');
  return [...new Set((others.length > 0 ? others : who).map((each) => sayWho([each])))];
}

/** States one after another: where it began until the first move, then where each move led. */
function staysOf(
  { state, openedAt }: { readonly state: string; readonly openedAt: string },
  moves: Stored['moves'],
): ChangeRow['stays'] {
  const first = { state: moves[0]?.from ?? state, from: openedAt, to: moves[0]?.at ?? null };
  return [
    first,
    ...moves.map(({ to, at }, index) => ({ state: to, from: at, to: moves[index + 1]?.at ?? null })),
  ];
}
