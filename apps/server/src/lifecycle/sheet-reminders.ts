import type { StepBy } from '@stem-trace/core';
import { DataSource, type EntityManager } from 'typeorm';
import { RightsService } from '../access/rights.service.js';
import { Person } from '../database/entities/person.js';
import { json, listOf, readRows, text, word } from '../database/read-rows.js';
import { announce } from '../feed/feed.js';
import { Recurring } from '../queue/recurring.js';
import { CatalogueService } from '../store/catalogue.service.js';
import { decidesAt, standingsOf, takerAt } from '../store/standings.js';
import { sheetAddress } from './open-sheet.js';
import { UNDECIDED } from './sheets.service.js';
import { ToldOfSteps } from './told.js';
import { siteDay } from '../database/site-day.js';

/** Days before the day that was set. */
const SOON_DAYS = 1;
const LOOK_MS = 600_000;

interface DueSheet {
  readonly id: string;
  readonly day: string;
  readonly kind: 'soon' | 'today' | 'late';
  readonly title: string;
  readonly itemId: string;
  readonly items: readonly string[];
  /** Who is asked by name. */
  readonly asked: readonly string[];
  readonly lead: readonly StepBy[];
}

const SAYS: Readonly<Record<DueSheet['kind'], (due: DueSheet) => string>> = {
  soon: ({ title, day }) => `${title} is to be decided by ${day}`,
  today: ({ title }) => `${title} is to be decided today`,
  late: ({ title, day }) => `${title} was to be decided by ${day}`,
};

/** Reminds of check sheets: those who are asked, the day before, on the day, and after it, then also whoever leads. */
export class SheetReminders extends Recurring {
  constructor(
    inBackground: boolean,
    private readonly database: DataSource,
    private readonly rights: RightsService,
    private readonly catalogue: CatalogueService,
  ) {
    super(inBackground, 'check sheets', LOOK_MS);
  }

  protected work(): Promise<unknown> {
    return this.remind(new Date());
  }

  /** Whichever server is first says it. @returns how many sheets somebody was reminded of */
  async remind(now: Date): Promise<number> {
    return this.database.transaction(async (manager) => {
      const due = await readRows<DueSheet>(
        manager,
        {
          ...{ id: text, day: text, kind: word<DueSheet['kind']>(), title: text, itemId: text },
          ...{ items: listOf(text), asked: listOf(text), lead: json<DueSheet['lead']>() },
        },
        DUE,
        [await siteDay(manager, now), SOON_DAYS],
      );
      for (const each of due) await this.tell(manager, each, now);
      if (due.length > 0) await announce(manager, 'notices');
      return due.length;
    });
  }

  private async tell(manager: EntityManager, due: DueSheet, at: Date): Promise<void> {
    const asked = due.asked.length > 0 ? due.asked : await this.deciders(manager, due.items);
    const lead = due.kind === 'late' ? await this.leadOf(manager, due) : [];
    await manager.query(
      `INSERT INTO notice (person_id, item_id, says, address, at, kind) SELECT id, $2, $3, $4, $5, 'to check' FROM unnest($1::bigint[]) AS p(id)`,
      [[...new Set([...asked, ...lead])], due.itemId, SAYS[due.kind](due), sheetAddress(due.id), at],
    );
  }

  private async leadOf(manager: EntityManager, { lead, items }: DueSheet): Promise<string[]> {
    const [first] = await this.catalogue.newestOf(items, manager);
    return first ? new ToldOfSteps(manager, this.rights).meant(lead, first.placeId) : [];
  }

  /** Everybody who may decide about something of it. */
  private async deciders(manager: EntityManager, itemIds: readonly string[]): Promise<string[]> {
    const items = await this.catalogue.newestOf(itemIds, manager);
    const standings = await standingsOf(manager, items);
    const people = await manager.find(Person, { where: { isActive: true } });
    const found: string[] = [];
    for (const person of people) {
      const rights = await this.rights.of(person, manager);
      const may = items.some(({ itemId, placeId }) => {
        const at = standings.get(itemId);
        return at !== undefined && decidesAt(at, takerAt(placeId, person, rights));
      });
      if (may) found.push(person.id);
    }
    return found;
  }
}

const DUE = `
  WITH waiting AS (
    SELECT c.id, c.until, c.lead, array_agg(i.id::text ORDER BY s.position) AS items,
           (array_agg(i.number || ' ' || i.name ORDER BY s.position))[1] AS first
    FROM check_sheet c JOIN check_sheet_item s ON s.sheet_id = c.id JOIN item i ON i.id = s.item_id
    WHERE c.until <= $1::date + $2::int AND ${UNDECIDED} GROUP BY c.id),
  wanted AS (
    SELECT *, CASE WHEN $1::date > until THEN 'late' WHEN $1::date = until THEN 'today' ELSE 'soon' END AS kind FROM waiting),
  fresh AS (
    INSERT INTO check_reminder (sheet_id, day, kind) SELECT id, until, kind FROM wanted ON CONFLICT DO NOTHING RETURNING sheet_id)
  SELECT w.id::text, w.until::text AS day, w.kind, w.lead, w.items, w.items[1] AS "itemId",
         w.first || CASE WHEN array_length(w.items, 1) > 1 THEN ' and ' || array_length(w.items, 1) - 1 || ' more' ELSE '' END AS title,
         ARRAY(SELECT k.person_id::text FROM check_asked k WHERE k.sheet_id = w.id AND k.passed_on_at IS NULL) AS asked
  FROM fresh f JOIN wanted w ON w.id = f.sheet_id`;
