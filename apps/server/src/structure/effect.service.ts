import { holderFor } from '../store/names.js';
import { Injectable } from '@nestjs/common';
import type { EffectAnswer, EffectPart, EffectRequest, EffectRow, LensText } from '@stem-trace/contract';
import type { Lens } from '@stem-trace/core';
import { DataSource } from 'typeorm';
import { RightsService, type Rights } from '../access/rights.service.js';
import { isStructure } from '../database/conditions.js';
import type { Person } from '../database/entities/person.js';
import { number, readRows, text } from '../database/read-rows.js';
import { CatalogueService, type DescribedVersion } from '../store/catalogue.service.js';
import { StructureIndex } from './structure-index.js';

const MOST_ROWS = 20_000;

/** What an item is touched by, before it is described. */
interface Touched {
  part: EffectPart;
  level: number;
  quantity: number | null;
  readonly through: Set<string>;
  readonly origin?: EffectRow['origin'];
}

/** What is looked at, and how many levels of it. */
interface Under {
  readonly lens: Lens;
  readonly levels: number;
}

/** What a change of some items would touch. */
@Injectable()
export class EffectService {
  constructor(
    private readonly catalogue: CatalogueService,
    private readonly index: StructureIndex,
    private readonly rights: RightsService,
    private readonly database: DataSource,
  ) {}

  /** Products and assemblies by level, drawings and documents of all of these, and what is of the same stem. */
  async effect({ items, lens, levels }: EffectRequest, person: Person): Promise<EffectAnswer> {
    const changed = await this.catalogue.resolveAll(items, person);
    const touched = new Map<string, Touched>();
    const rights = await this.rights.of(person);
    const under = await this.catalogue.lens(lens, rights);
    for (const item of changed) await this.users(item, { lens: under, levels }, touched);
    const users = await this.catalogue.describe([...touched.keys()]);
    await this.tellProducts(users, touched);
    const seen = new Map([...users].filter(([, { placeId }]) => rights.may('see', placeId)));
    for (const item of changed) await this.nameThrough(item, { lens: under, levels }, seen, touched);
    const about = [...changed, ...users.values()];
    await this.papers(about, touched);
    await this.copies(changed, rights, touched);
    await this.sameStem(changed, touched);
    for (const item of changed) await this.unused(item, under, touched);
    for (const { id } of changed) touched.delete(id);
    return this.answer(changed, touched, person);
  }

  /** As far as one may see it. */
  private async answer(
    asked: readonly DescribedVersion[],
    touched: ReadonlyMap<string, Touched>,
    person: Person,
  ): Promise<EffectAnswer> {
    const described = await this.catalogue.describe([...touched.keys()]);
    const rights = await this.rights.of(person);
    const hidden = [...described.values()].filter(({ placeId }) => !rights.may('see', placeId));
    const rows = [...touched].flatMap(([id, touch]): EffectRow[] => {
      const version = described.get(id);
      if (!version || !rights.may('see', version.placeId)) return [];
      return [{ ...rowOf(version, touch, rights), mayChange: rights.may('change', version.placeId) }];
    });
    return {
      items: asked.map(({ number, name, label }) => ({ number, name, version: label })),
      rows: rows.sort(inOrder).slice(0, MOST_ROWS),
      cut: Math.max(0, rows.length - MOST_ROWS),
      hidden: new Set(hidden.map(({ itemId }) => itemId)).size,
    };
  }

  private async users(
    item: DescribedVersion,
    { lens, levels }: Under,
    touched: Map<string, Touched>,
  ): Promise<void> {
    const answer = await this.index.ask({
      what: 'used',
      of: Number(item.itemId),
      lens,
      levels: levels === 0 ? Infinity : levels,
    });
    for (const [slot, id] of answer.versions.entries()) {
      const level = answer.levels[slot] ?? 1;
      const quantity = answer.totals[slot] ?? 0;
      const known = touched.get(String(id));
      if (known) {
        known.level = Math.min(known.level, level);
        known.quantity = (known.quantity ?? 0) + quantity;
        known.through.add(item.number);
      } else
        touched.set(String(id), {
          part: answer.isEnd[slot] === 1 ? 'product' : 'assembly',
          level,
          quantity,
          through: new Set([item.number]),
        });
    }
  }

  /** A version that nobody records is no product where others of its item are used: it is only newer than what is. */
  private async tellProducts(
    users: ReadonlyMap<string, DescribedVersion>,
    touched: ReadonlyMap<string, Touched>,
  ): Promise<void> {
    const ends = [...users.values()].filter(({ id }) => touched.get(id)?.part === 'product');
    const used = await readRows(
      this.database,
      { id: text },
      `SELECT DISTINCT l.target_item_id AS id FROM link l JOIN item u ON u.newest_version_id = l.version_id
       WHERE l.target_item_id = ANY($1::bigint[]) AND ${isStructure()}`,
      [ends.map(({ itemId }) => itemId)],
    );
    const isUsed = new Set(used.map(({ id }) => id));
    for (const { id, itemId } of ends) {
      const touch = touched.get(id);
      if (touch && isUsed.has(itemId)) touch.part = 'assembly';
    }
  }

  /** What lies further up is reached through the assemblies right below it. @param users those that the asker sees */
  private async nameThrough(
    item: DescribedVersion,
    { lens, levels }: Under,
    users: ReadonlyMap<string, DescribedVersion>,
    touched: ReadonlyMap<string, Touched>,
  ): Promise<void> {
    const { versions, from, to } = await this.index.ask({
      what: 'above',
      of: Number(item.id),
      lens,
      levels: levels === 0 ? Infinity : levels,
    });
    for (const [link, user] of from.entries()) {
      const touch = touched.get(String(versions[user]));
      const between = users.get(String(versions[to[link] ?? -1]));
      if (!touch || !between || touch.level < 2) continue;
      touch.through.delete(item.number);
      touch.through.add(between.number);
    }
  }

  private async papers(about: readonly DescribedVersion[], touched: Map<string, Touched>): Promise<void> {
    const byItem = new Map(about.map((version) => [version.itemId, version]));
    const rows = await readRows(
      this.database,
      { id: text, target: text, relation: text },
      `SELECT i.newest_version_id AS id, l.target_item_id AS target, l.relation
       FROM link l JOIN item i ON i.newest_version_id = l.version_id
       WHERE l.target_item_id = ANY($1::bigint[]) AND l.relation IN ('depicts', 'describes')`,
      [[...byItem.keys()]],
    );
    for (const { id, target, relation } of rows) {
      const of = byItem.get(target);
      if (!of) continue;
      const through = touched.get(of.id)?.through ?? new Set([of.number]);
      const known = touched.get(id);
      if (known) through.forEach((number) => known.through.add(number));
      else
        touched.set(id, {
          part: relation === 'depicts' ? 'drawing' : 'document',
          level: touched.get(of.id)?.level ?? 0,
          quantity: null,
          through: new Set(through),
        });
    }
  }

  /** What is used through the item alone: without it nobody needs these. */
  private async unused(item: DescribedVersion, lens: Lens, touched: Map<string, Touched>): Promise<void> {
    const { versions } = await this.index.ask({
      what: 'unused',
      of: Number(item.id),
      lens,
      levels: Infinity,
    });
    for (const id of versions) {
      const known = touched.get(String(id));
      if (known) known.through.add(item.number);
      else
        touched.set(String(id), {
          part: 'unused without it',
          level: 0,
          quantity: null,
          through: new Set([item.number]),
        });
    }
  }

  /** The nearest assemblies that hold all of some items. */
  async common(items: readonly string[], lens: LensText, person: Person): Promise<EffectAnswer> {
    const asked = await this.catalogue.resolveAll(items, person);
    const [first, ...others] = asked.map(({ itemId }) => Number(itemId));
    const { versions } = await this.index.ask({
      what: 'common',
      of: first ?? 0,
      and: others,
      lens: await this.catalogue.lens(lens, await this.rights.of(person)),
      levels: Infinity,
    });
    const numbers = asked.map(({ number }) => number);
    const touched = new Map(
      Array.from(versions, (id): [string, Touched] => [
        String(id),
        { part: 'assembly', level: 0, quantity: null, through: new Set(numbers) },
      ]),
    );
    return this.answer(asked, touched, person);
  }

  /** Others that come from the same origin: they may want the change too. */
  /** Copies of what would be changed, and copies of those: the change may be wanted there too. */
  private async copies(
    changed: readonly DescribedVersion[],
    rights: Rights,
    touched: Map<string, Touched>,
  ): Promise<void> {
    const rows = await readRows(
      this.database,
      { id: text, of: text, placeId: text, version: text, newer: number },
      `WITH RECURSIVE copy AS (
         SELECT i.id, i.origin_version_id AS base, i.newest_version_id AS newest FROM item i JOIN version o ON o.id = i.origin_version_id
         WHERE o.item_id = ANY($1::bigint[])
         UNION
         SELECT i.id, i.origin_version_id, i.newest_version_id FROM copy JOIN version o ON o.item_id = copy.id
         JOIN item i ON i.origin_version_id = o.id
       )
       SELECT copy.newest::text AS id, oi.number AS of, oi.place_id::text AS "placeId", r.code || '/' || o.seq AS version,
              (n.ordinal - o.ordinal)::int AS newer
       FROM copy JOIN version o ON o.id = copy.base JOIN revision r ON r.id = o.revision_id JOIN item oi ON oi.id = o.item_id
       JOIN version n ON n.id = oi.newest_version_id WHERE copy.newest IS NOT NULL`,
      [changed.map(({ itemId }) => itemId)],
    );
    for (const { id, of, placeId, version, newer } of rows) {
      if (touched.has(id)) continue;
      const isSeen = rights.may('see', placeId);
      touched.set(id, {
        ...{ part: 'copy', level: 0, quantity: null, through: new Set(isSeen ? [of] : []) },
        origin: isSeen ? { version, newer } : null,
      });
    }
  }

  private async sameStem(changed: readonly DescribedVersion[], touched: Map<string, Touched>): Promise<void> {
    const rows = await readRows(
      this.database,
      { id: text, stem: text },
      `SELECT newest_version_id AS id, coalesce(stem_id, id) AS stem FROM item
       WHERE (stem_id = ANY($1::bigint[]) OR id = ANY($1::bigint[])) AND newest_version_id IS NOT NULL AND id <> ALL($2::bigint[])`,
      [changed.map(({ stemId }) => stemId), changed.map(({ itemId }) => itemId)],
    );
    for (const { id, stem } of rows) {
      const of = changed.filter(({ stemId }) => stemId === stem).map(({ number }) => number);
      if (!touched.has(id))
        touched.set(id, { part: 'derived', level: 0, quantity: null, through: new Set(of) });
    }
  }
}

function rowOf(version: DescribedVersion, touch: Touched, rights: Rights): Omit<EffectRow, 'mayChange'> {
  return {
    part: touch.part,
    level: touch.level,
    number: version.number,
    name: version.name,
    kind: version.kind,
    version: version.label,
    state: version.state,
    heldBy: holderFor(rights, version.heldBy),
    quantity: touch.quantity,
    through: [...touch.through].sort(),
    origin: touch.origin ?? null,
  };
}

const PARTS: readonly EffectPart[] = [
  'product',
  'assembly',
  'drawing',
  'document',
  'copy',
  'derived',
  'unused without it',
];

function inOrder(a: EffectRow, b: EffectRow): number {
  return PARTS.indexOf(a.part) - PARTS.indexOf(b.part) || a.level - b.level || (a.number < b.number ? -1 : 1);
}
