/** Makes SQL of a search. Whatever a person typed goes in as a parameter, never as text of the statement. */
import type { FindLens } from '@stem-trace/contract';
import type { Query } from '@stem-trace/core';
import { isReleased, isStructure, mayBeTold } from '../database/conditions.js';
import { beginningOf, stands } from './fit.js';

/** Items that a part of a query means which SQL cannot work out: by relation, and those that are behind. */
export type ItemSets = ReadonlyMap<Query, readonly string[]>;

export interface PlacesApart {
  /** Nothing there may be seen: what weighs on a sum from there keeps it from being looked up. */
  readonly hidden: readonly string[];
  /** Files there may not be fetched, so that nothing is found by what is drawn on them. */
  readonly unread: readonly string[];
}

export interface Condition {
  /** On `item` as `i`, with `$1` and on for the values. */
  readonly sql: string;
  readonly values: unknown[];
}

/**
 * @param sets for every `relation` and `behind` in the query
 * @param lens says which of an item's versions its state is that of: under *Newest* the newest; else an item is released also
 *   where a newer draft has been begun, and under *Released* it is there only with what was released
 * @param apart places of which not everything is told
 */
export function compileQuery(
  query: Query,
  sets: ItemSets,
  lens: FindLens = 'recorded',
  apart: PlacesApart = { hidden: [], unread: [] },
): Condition {
  const values: unknown[] = [];
  const compiler = new Compiler(sets, (value) => `$${values.push(value)}`, lens, apart);
  const condition = compiler.condition(query);
  return { sql: lens === 'released' ? `(${condition} AND ${HAS_RELEASED})` : condition, values };
}

/** Wants `item` as `i`. */
const HAS_RELEASED = `EXISTS (SELECT FROM revision lr WHERE lr.item_id = i.id AND ${isReleased('lr')})`;

/** Two values as near as this are one: 1 in and 25.4 mm. */
const TOLERANCE = 1e-9;

const TEXT_COLUMNS = {
  number: 'i.number_key',
  name: 'lower(i.name)',
  file: 'lower(i.file_name)',
} as const;

class Compiler {
  constructor(
    private readonly sets: ItemSets,
    private readonly put: (value: unknown) => string,
    private readonly lens: FindLens,
    private readonly apart: PlacesApart,
  ) {}

  condition(query: Query): string {
    const { put } = this;
    switch (query.kind) {
      case 'all':
        return 'true';
      case 'and':
      case 'or':
        return `(${query.parts.map((part) => this.condition(part)).join(query.kind === 'and' ? ' AND ' : ' OR ')})`;
      case 'not':
        return `NOT coalesce(${this.condition(query.part)}, false)`;
      case 'words':
        return stands(query.text, put);
      case 'text':
        return this.text(query);
      case 'option':
        return this.option(query);
      case 'property':
        return this.property(query);
      case 'quantity':
        return this.quantity(query);
      case 'day': {
        const { from = '0001-01-01', to = '9999-12-31' } = query.range;
        return this.byProperty(query.name, `p.said BETWEEN ${put(from)} AND ${put(to)}`);
      }
      case 'time':
        return this.time(query);
      case 'by':
        return `i.author_id = (SELECT id FROM person WHERE login = ${put(query.login)})`;
      case 'held':
        return query.login === undefined
          ? 'i.id IN (SELECT item_id FROM hold)'
          : `i.id IN (SELECT h.item_id FROM hold h JOIN person p ON p.id = h.person_id WHERE p.login = ${put(query.login)})`;
      case 'relation':
      case 'behind':
        return `i.id = ANY(${put(this.sets.get(query) ?? [])}::bigint[])`;
      case 'with':
        return this.having(query.what);
      case 'in': {
        const path = put(query.place.replace(/(.)\/+$/, '$1'));
        // Paths keep their case; people need not.
        return `i.place_id IN (SELECT id FROM place WHERE ${path} = '/' OR lower(path) = lower(${path}) OR starts_with(lower(path), lower(${path}) || '/'))`;
      }
      case 'unused':
        return `(i.kind IN ('part', 'assembly') AND NOT EXISTS (
          SELECT FROM link l JOIN item holder ON holder.newest_version_id = l.version_id WHERE l.target_item_id = i.id AND ${isStructure()}))`;
    }
  }

  private text({ field, how, text }: Extract<Query, { kind: 'text' }>): string {
    const { put } = this;
    const like = how === 'has' ? has(text) : is(text);
    switch (field) {
      case 'number':
      case 'name':
      case 'file':
        return `${TEXT_COLUMNS[field]} LIKE ${put(like)}`;
      case 'description':
        return `EXISTS (SELECT FROM version v WHERE v.id = i.newest_version_id AND lower(v.facts->>'description') LIKE ${put(like)})`;
      case 'revision':
        return `EXISTS (SELECT FROM version v JOIN revision r ON r.id = v.revision_id WHERE v.id = i.newest_version_id AND lower(r.code) LIKE ${put(like)})`;
      case 'comment':
        return `(i.comment_text LIKE ${put(has(text))} AND EXISTS (
          SELECT FROM version v WHERE v.item_id = i.id AND lower(v.comment) LIKE ${put(like)}))`;
      case 'remark':
        return `(${this.mayRead()} AND i.id IN (SELECT m.item_id FROM mark_up m WHERE lower(m.words) LIKE ${put(like)}
          OR EXISTS (SELECT FROM mark_up_remark a WHERE a.mark_up_id = m.id AND lower(a.words) LIKE ${put(like)})))`;
      case 'text':
        return how === 'has'
          ? `i.body_words @@ to_tsquery('simple', ${put(beginningOf(text))})`
          : `(i.body_text <> '' AND lower(i.body_text) LIKE ${put(like)})`;
    }
  }

  private option({ field, values }: Extract<Query, { kind: 'option' }>): string {
    const any = `ANY(${this.put(values)}::text[])`;
    switch (field) {
      case 'kind':
        return `i.kind = ${any}`;
      case 'state':
        return this.lens !== 'newest' && values.includes('released')
          ? `(i.state = ${any} OR EXISTS (SELECT FROM revision sr WHERE sr.item_id = i.id AND sr.state = 'released'))`
          : `i.state = ${any}`;
      case 'class':
        return `i.class_id IN (SELECT id FROM class WHERE name = ${any})`;
      case 'format':
        // Versions from before other kinds of file were taken in do not say: they are STEP.
        return `EXISTS (SELECT FROM version v WHERE v.id = i.newest_version_id AND coalesce(v.facts->>'format', 'step') = ${any})`;
    }
  }

  private property({ name, how, texts }: Extract<Query, { kind: 'property' }>): string {
    const patterns = texts.map((text) => (how === 'has' ? has(text) : is(text)));
    return this.byProperty(name, `p.said LIKE ANY(${this.put(patterns)}::text[])`);
  }

  private quantity({ name, unit, range }: Extract<Query, { kind: 'quantity' }>): string {
    const { from, to, withFrom, withTo } = range;
    const parts = [`p.unit = ${this.put(unit)}`];
    // Zero has no neighbourhood of its own.
    if (from === 0) parts.push(withFrom ? 'p.number >= 0' : 'p.number > 0');
    else if (from !== undefined)
      parts.push(`p.number > ${this.put(from + (withFrom ? -1 : 1) * TOLERANCE * Math.abs(from))}`);
    if (to === 0) parts.push(withTo ? 'p.number <= 0' : 'p.number < 0');
    else if (to !== undefined)
      parts.push(`p.number < ${this.put(to + (withTo ? 1 : -1) * TOLERANCE * Math.abs(to))}`);
    return this.byProperty(name, parts.join(' AND '));
  }

  private time({ field, range }: Extract<Query, { kind: 'time' }>): string {
    const column = field === 'changed' ? 'i.changed_at' : 'v.created_at';
    const parts: string[] = [];
    if (range.from !== undefined) parts.push(`${column} >= site_midnight(${this.put(range.from)}::date)`);
    if (range.to !== undefined) parts.push(`${column} < site_midnight(${this.put(range.to)}::date + 1)`);
    const condition = parts.join(' AND ') || 'true';
    return field === 'changed'
      ? `(${condition})`
      : `i.id IN (SELECT v.item_id FROM version v WHERE v.ordinal = 1 AND ${condition})`;
  }

  private having(what: Extract<Query, { kind: 'with' }>['what']): string {
    if (typeof what === 'object') return this.byProperty(what.property, 'true');
    switch (what) {
      case 'drawing':
        return `i.id IN (SELECT target_item_id FROM link WHERE relation = 'depicts')`;
      case 'document':
        return `i.id IN (SELECT target_item_id FROM link WHERE relation = 'describes')`;
      case 'gap':
        return 'i.newest_version_id IN (SELECT version_id FROM link WHERE target_item_id IS NULL)';
      case 'class':
        return 'i.class_id IS NOT NULL';
      case 'mark-up':
        return `(i.id IN (SELECT item_id FROM mark_up WHERE settled_at IS NULL) AND ${this.mayRead()})`;
      case 'change':
        // Of what is released, the newest; of what never was, the newest revision.
        return `EXISTS (SELECT FROM change_makes m JOIN item o ON o.id = m.change_id WHERE o.place_id <> ALL(${this.put(this.apart.hidden)}::bigint[]) AND m.revision_id = (
          SELECT cr.id FROM revision cr WHERE cr.item_id = i.id ORDER BY (${isReleased('cr')}) DESC, cr.position DESC LIMIT 1))`;
      case 'comment':
        return `EXISTS (SELECT FROM version v WHERE v.id = i.newest_version_id AND v.comment <> '')`;
    }
  }

  /** Mark-up is for whoever may have the file. */
  private mayRead(): string {
    const { unread } = this.apart;
    return unread.length === 0 ? 'true' : `i.place_id <> ALL(${this.put(unread)}::bigint[])`;
  }

  private byProperty(name: string, condition: string): string {
    const { hidden } = this.apart;
    const told = hidden.length === 0 ? 'true' : mayBeTold(this.put(hidden));
    return `i.id IN (SELECT p.item_id FROM item_property p WHERE p.key = ${this.put(name.toLowerCase())} AND ${condition} AND ${told})`;
  }
}

function has(text: string): string {
  return `%${escaped(text.toLowerCase())}%`;
}

/** A star stands for anything. */
function is(text: string): string {
  return text.toLowerCase().split('*').map(escaped).join('%');
}

function escaped(text: string): string {
  return text.replace(/[\\%_]/g, '\\$&');
}
