import { Injectable, Logger, type OnApplicationBootstrap, type OnModuleDestroy } from '@nestjs/common';
import type { SavedRow, SaveRequest } from '@stem-trace/contract';
import { DataSource } from 'typeorm';
import { Person } from '../database/entities/person.js';
import { countRows, flag, number, orNull, readRows, text, word } from '../database/read-rows.js';
import { announce, Feed } from '../feed/feed.js';
import { tellOne } from '../trail/record.js';
import { ProblemError } from '../problems/problem.js';
import { FindService } from './find.service.js';
import { Matching } from './matching.js';

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
    const count = kind === 'search' ? await this.countOrThrow(address, person) : null;
    await this.database.query(
      `INSERT INTO saved (owner_id, kind, name, address, is_shared, tells, last_count) VALUES ($1, $2, $3, $4, $5, $6, $7)
       ON CONFLICT (owner_id, kind, name) DO UPDATE SET address = $4, is_shared = $5, tells = $6, last_count = $7`,
      [person.id, kind, name, address, isShared, kind === 'search' && tells, count],
    );
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
      const count = owner ? await this.count(address, owner) : null;
      if (count === null || count === lastCount) continue;
      await this.database.transaction(async (manager) => {
        // Whichever server is first tells.
        const changed = await readRows(
          manager,
          { id: text },
          `WITH changed AS (UPDATE saved SET last_count = $2 WHERE id = $1 AND last_count IS DISTINCT FROM $2 RETURNING id)
           SELECT id FROM changed`,
          [id, count],
        );
        if (changed.length === 0) return;
        const says = `Your search “${name}” finds ${count} now; it was ${lastCount ?? 0}.`;
        await tellOne(manager, { personId: ownerId, says, address });
        await announce(manager, 'notices');
      });
    }
  }

  /** Null where the search means nothing any more. */
  private async count(address: string, person: Person): Promise<number | null> {
    try {
      return await this.countOrThrow(address, person);
    } catch (error) {
      if (!(error instanceof ProblemError)) this.logger.warn(String(error));
      return null;
    }
  }

  private async countOrThrow(address: string, person: Person): Promise<number> {
    const search = new URL(address, 'http://saved').searchParams;
    const match = await this.matching.of(search.get('words') ?? '', person, search.get('place') ?? undefined);
    return (await this.finder.count(match)).total;
  }
}
