import { Injectable, Logger, type OnApplicationBootstrap, type OnModuleDestroy } from '@nestjs/common';
import { FIND_LENSES, type SavedRow, type SaveRequest } from '@stem-trace/contract';
import { DataSource, type EntityManager } from 'typeorm';
import { Person } from '../database/entities/person.js';
import { countRows, flag, listOf, number, orNull, readRows, text, word } from '../database/read-rows.js';
import { announce, Feed } from '../feed/feed.js';
import { tellOne } from '../trail/record.js';
import { ProblemError } from '../problems/problem.js';
import { FindService } from './find.service.js';
import { Matching, type Match } from './matching.js';

interface Stored extends Omit<SavedRow, 'count'> {
  readonly ownerId: string;
  readonly lastCount: number | null;
}

const COUNT_AFTER_MS = 1500;

const STORED = `
  SELECT s.id, s.kind, s.name, s.address, a.name AS owner, s.owner_id = $1 AS "isMine", s.is_shared AS "isShared", s.tells,
         s.owner_id AS "ownerId", s.last_count AS "lastCount"
  FROM saved s JOIN person a ON a.id = s.owner_id`;

/** Searches and views that people keep under a name. */
@Injectable()
export class SavedService implements OnApplicationBootstrap, OnModuleDestroy {
  private readonly logger = new Logger('saved');

  constructor(
    private readonly database: DataSource,
    private readonly matching: Matching,
    private readonly finder: FindService,
    private readonly feed: Feed,
  ) {}

  private stop: (() => void) | undefined;
  private timer: NodeJS.Timeout | undefined;

  /** Counts again a while after items changed, not at each of many changes. */
  onApplicationBootstrap(): void {
    this.stop = this.feed.listen((kinds) => {
      if (!kinds.includes('items') || this.timer !== undefined) return;
      this.timer = setTimeout(() => {
        this.timer = undefined;
        this.tellChanges().catch((error: unknown) => this.logger.warn(String(error)));
      }, COUNT_AFTER_MS);
    });
  }

  onModuleDestroy(): void {
    this.stop?.();
    clearTimeout(this.timer);
  }

  /** One's own and those that others share, with what the searches find now. */
  async list(person: Person): Promise<SavedRow[]> {
    const stored = await readRows<Stored>(
      this.database,
      {
        ownerId: text,
        lastCount: orNull(number),
        id: text,
        name: text,
        kind: word<Stored['kind']>(),
        address: text,
        owner: text,
        isMine: flag,
        isShared: flag,
        tells: flag,
      },
      `${STORED} WHERE s.owner_id = $1 OR s.is_shared ORDER BY s.kind, lower(s.name), s.created_at`,
      [person.id],
    );
    return Promise.all(
      stored.map(async ({ id, kind, name, address, owner, isMine, isShared, tells }) => ({
        ...{ id, kind, name, address, owner, isMine, isShared, tells },
        count: kind === 'search' ? await this.count(address, person) : null,
      })),
    );
  }

  /** Keeps it; one's own of the same name is replaced. @throws ProblemError QUERY_WRONG */
  async save(request: SaveRequest, person: Person): Promise<SavedRow[]> {
    const { kind, name, address, isShared, tells } = request;
    const found = kind === 'search' ? await this.foundOrThrow(address, person) : null;
    await this.database.transaction(async (manager) => {
      const [before] = await readRows(
        manager,
        { isShared: flag },
        'SELECT is_shared AS "isShared" FROM saved WHERE owner_id = $1 AND kind = $2 AND name = $3 FOR UPDATE',
        [person.id, kind, name],
      );
      await manager.query(
        `INSERT INTO saved (owner_id, kind, name, address, is_shared, tells, last_count, last_found)
         VALUES ($1, $2, $3, $4, $5, $6, $7, $8)
         ON CONFLICT (owner_id, kind, name)
         DO UPDATE SET address = $4, is_shared = $5, tells = $6, last_count = $7, last_found = $8`,
        [
          ...[person.id, kind, name, address, isShared, kind === 'search' && tells],
          ...[found?.count ?? null, found?.ids ?? null],
        ],
      );
      if (!isShared || before?.isShared) return;
      await manager.query(
        `INSERT INTO notice (person_id, says, address, kind) SELECT id, $2, $3, 'searches' FROM person WHERE is_active AND id <> $1`,
        [person.id, `${person.name} shares the ${kind} “${name}”`, address],
      );
      await announce(manager, 'notices');
    });
    return this.list(person);
  }

  /** @throws ProblemError ENTRY_UNKNOWN also for what belongs to somebody else */
  async remove(id: string, person: Person): Promise<SavedRow[]> {
    const removed = await countRows(
      this.database,
      'DELETE FROM saved WHERE id = $1 AND owner_id = $2 RETURNING id',
      [id, person.id],
    );
    if (removed === 0)
      throw new ProblemError(
        'ENTRY_UNKNOWN',
        'There is no such saved search or view of yours. Nothing was changed.',
      );
    return this.list(person);
  }

  /** Tells owners who wish it where the count of a search is not what it was. */
  async tellChanges(): Promise<void> {
    const told = await readRows<Stored & { login: string }>(
      this.database,
      {
        ownerId: text,
        lastCount: orNull(number),
        id: text,
        name: text,
        kind: word<(Stored & { login: string })['kind']>(),
        address: text,
        owner: text,
        isMine: flag,
        isShared: flag,
        tells: flag,
        login: text,
      },
      `SELECT t.*, p.login FROM (${STORED} WHERE s.tells AND s.kind = 'search') t JOIN person p ON p.id = t."ownerId"`,
      [0],
    );
    for (const { id, name, address, ownerId, lastCount } of told) {
      const owner = await this.database.manager.findOneBy(Person, { id: ownerId });
      const found = owner ? await this.found(address, owner) : null;
      if (!found) continue;
      const { count, ids } = found;
      await this.database.transaction(async (manager) => {
        // Whichever server is first tells.
        const [changed] = await readRows(
          manager,
          { before: orNull(listOf(text)) },
          `WITH old AS (SELECT id, last_count, last_found FROM saved WHERE id = $1 FOR UPDATE),
             changed AS (UPDATE saved SET last_count = $2, last_found = $3 FROM old WHERE saved.id = old.id
               AND (old.last_count IS DISTINCT FROM $2 OR old.last_found IS DISTINCT FROM $3) RETURNING old.last_found)
           SELECT last_found::text[] AS before FROM changed`,
          [id, count, ids],
        );
        if (!changed) return;
        const says =
          `Your search “${name}” finds ${count} now; it was ${lastCount ?? 0}. ${await sayChange(manager, changed.before, ids)}`.trim();
        await tellOne(manager, { personId: ownerId, says, address, about: 'searches' });
        await announce(manager, 'notices');
      });
    }
  }

  /** Null where the search means nothing any more. */
  private async found(address: string, person: Person): Promise<Found | null> {
    try {
      return await this.foundOrThrow(address, person);
    } catch (error) {
      if (!(error instanceof ProblemError)) this.logger.warn(String(error));
      return null;
    }
  }

  private async count(address: string, person: Person): Promise<number | null> {
    try {
      return (await this.finder.count(await this.matchOf(address, person))).total;
    } catch (error) {
      if (!(error instanceof ProblemError)) this.logger.warn(String(error));
      return null;
    }
  }

  private async foundOrThrow(address: string, person: Person): Promise<Found> {
    const match = await this.matchOf(address, person);
    const { total } = await this.finder.count(match);
    const ids =
      total > MOST_FOLLOWED
        ? null
        : await this.finder.ids(match, { sort: 'number', order: 'up' }, MOST_FOLLOWED, 0);
    return { count: total, ids };
  }

  private matchOf(address: string, person: Person): Promise<Match> {
    const search = new URL(address, 'http://saved').searchParams;
    const lens = FIND_LENSES.find((known) => known === search.get('lens'));
    return this.matching.of(search.get('words') ?? '', person, search.get('place') ?? undefined, lens);
  }
}

/** Of a search that finds more, it is told how many, not which. */
const MOST_FOLLOWED = 5000;
const NAMED = 5;

interface Found {
  readonly count: number;
  /** In the order of their numbers; null where there are too many to follow. */
  readonly ids: readonly string[] | null;
}

/** `New: FM-1, FM-2. No longer: FM-3.`; nothing where that is not known. */
async function sayChange(
  manager: EntityManager,
  before: readonly string[] | null,
  now: readonly string[] | null,
): Promise<string> {
  if (!before || !now) return '';
  const [old, fresh] = [new Set(before), new Set(now)];
  const came = now.filter((id) => !old.has(id));
  const went = before.filter((id) => !fresh.has(id));
  const numbers = new Map(
    (
      await readRows(
        manager,
        { id: text, number: text },
        'SELECT id, number FROM item WHERE id = ANY($1::bigint[])',
        [[...came.slice(0, NAMED), ...went.slice(0, NAMED)]],
      )
    ).map(({ id, number: one }) => [id, one]),
  );
  const say = (title: string, ids: readonly string[]): string => {
    if (ids.length === 0) return '';
    const named = ids.slice(0, NAMED).flatMap((id) => numbers.get(id) ?? []);
    const more = ids.length - named.length;
    return `${title}: ${named.join(', ')}${more > 0 ? ` and ${more} more` : ''}.`;
  };
  return [say('New', came), say('No longer', went)].filter((part) => part !== '').join(' ');
}
