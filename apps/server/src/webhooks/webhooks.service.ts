import { randomBytes } from 'node:crypto';
import type { DeliveryRow, WebhookDraft, WebhookMade, WebhookRow } from '@stem-trace/contract';
import type { OnApplicationBootstrap, OnModuleDestroy } from '@nestjs/common';
import { DataSource } from 'typeorm';
import type { Person } from '../database/entities/person.js';
import {
  countRows,
  flag,
  iso,
  json,
  listOf,
  number,
  orNull,
  readRow,
  readRows,
  text,
  timeText,
  word,
} from '../database/read-rows.js';
import { announce, type Feed } from '../feed/feed.js';
import { ProblemError } from '../problems/problem.js';
import type { JobQueue } from '../queue/job-queue.js';
import { StandingJob } from '../queue/standing-job.js';
import { waitAfter } from '../queue/wait-after.js';
import { record } from '../trail/record.js';
import { handOver } from './hand-over.js';

const WEBHOOK_JOB = 'e0a3f6ae-7a54-4c1d-8b1f-2f4f0f5d7f10';
const REST_MS = 500;
const LOOK_MS = 10_000;
/** With the waits between them, about three hours. */
const MOST_TRIES = 25;
/** Of one program, side by side with others. */
const AT_ONCE = 4;
const MOST_LOGGED = 200;
const SECRET_BYTES = 32;

interface Open {
  readonly id: string;
  readonly address: string;
  readonly secret: string;
  readonly tries: number;
  readonly kind: string;
  readonly body: Readonly<Record<string, unknown>>;
}

const OPEN = 'sent_at IS NULL AND given_up_at IS NULL';

/** What is sent: the event as the trail says it. A test has no event. */
const BODY = `jsonb_build_object('id', d.id::text, 'kind', coalesce(e.kind, 'test'), 'at', ${iso('coalesce(e.at, d.at)')},
  'person', CASE WHEN p.id IS NOT NULL THEN jsonb_build_object('login', p.login, 'name', p.name) END, 'item', i.number,
  'says', coalesce(e.detail->>'says', 'A test of this webhook'), 'detail', coalesce(e.detail - 'says', '{}'::jsonb))`;
const OF_DELIVERY = `FROM webhook_delivery d JOIN webhook w ON w.id = d.webhook_id LEFT JOIN event e ON e.id = d.event_id
  LEFT JOIN person p ON p.id = e.person_id LEFT JOIN item i ON i.id = e.item_id`;

/** Programs that are told what happens: kept, tried, and told until they take it. */
export class WebhooksService implements OnApplicationBootstrap, OnModuleDestroy {
  private readonly job: StandingJob<'webhook'> | undefined;

  constructor(
    inBackground: boolean,
    private readonly database: DataSource,
    feed: Feed,
    queue: JobQueue,
  ) {
    if (!inBackground) return;
    this.job = new StandingJob(
      {
        ...{ kind: 'webhook', id: WEBHOOK_JOB, about: 'What other programs are told', after: 'notices' },
        restMs: REST_MS,
        lookMs: LOOK_MS,
        isWanted: async () => (await this.due()) > 0,
        work: () => this.catchUp(),
      },
      queue,
      feed,
    );
  }

  onApplicationBootstrap(): void {
    this.job?.begin();
  }

  onModuleDestroy(): void {
    this.job?.end();
  }

  private async due(): Promise<number> {
    return countRows(
      this.database,
      `SELECT FROM webhook_delivery WHERE ${OPEN} AND next_at <= now() LIMIT 1`,
    );
  }

  async list(): Promise<WebhookRow[]> {
    return readRows<WebhookRow>(
      this.database,
      {
        ...{ id: text, name: text, address: text, kinds: listOf(word<WebhookRow['kinds'][number]>()) },
        ...{ waiting: number, givenUp: number, problem: orNull(text) },
      },
      `SELECT w.id, w.name, w.address, w.kinds, count(d.id) FILTER (WHERE d.sent_at IS NULL AND d.given_up_at IS NULL)::int AS waiting,
              count(d.given_up_at)::int AS "givenUp",
              (SELECT l.problem FROM webhook_delivery l WHERE l.webhook_id = w.id AND l.tries > 0 ORDER BY l.id DESC LIMIT 1) AS problem
       FROM webhook w LEFT JOIN webhook_delivery d ON d.webhook_id = w.id WHERE w.ended_at IS NULL GROUP BY w.id ORDER BY lower(w.name), w.id`,
    );
  }

  async create({ name, address, kinds }: WebhookDraft, person: Person): Promise<WebhookMade> {
    const secret = randomBytes(SECRET_BYTES).toString('base64url');
    await this.database.transaction(async (manager) => {
      await record(manager, [
        {
          ...{ personId: person.id, kind: 'setting' as const, itemId: null },
          says: `${person.name} has ${name} told of ${kinds.join(', ')}, at ${address}`,
        },
      ]);
      await manager.query('INSERT INTO webhook (name, address, kinds, secret) VALUES ($1, $2, $3, $4)', [
        ...[name, address, kinds, secret],
      ]);
      await announce(manager, 'notices');
    });
    return { rows: await this.list(), secret };
  }

  /** What it was sent stays in the log; what waits is given up. @throws ProblemError ENTRY_UNKNOWN */
  async remove(id: string, person: Person): Promise<WebhookRow[]> {
    await this.database.transaction(async (manager) => {
      const [ended] = await readRows(
        manager,
        { name: text },
        'UPDATE webhook SET ended_at = now() WHERE id = $1 AND ended_at IS NULL RETURNING name',
        [id],
      );
      if (!ended) throw unknown();
      await manager.query(
        `UPDATE webhook_delivery SET given_up_at = now(), problem = 'It is told nothing more.' WHERE webhook_id = $1 AND ${OPEN}`,
        [id],
      );
      await record(manager, [
        {
          ...{ personId: person.id, kind: 'setting' as const, itemId: null },
          says: `${person.name} has ${ended.name} told nothing more`,
        },
      ]);
    });
    return this.list();
  }

  /** Newest first. @throws ProblemError ENTRY_UNKNOWN */
  async log(id: string, only?: string): Promise<DeliveryRow[]> {
    await readKnown(this.database, id);
    return readRows<DeliveryRow>(
      this.database,
      {
        ...{ id: text, kind: text, at: timeText, says: text, tries: number },
        ...{ sentAt: orNull(timeText), isGivenUp: flag, problem: orNull(text) },
      },
      `SELECT d.id, coalesce(e.kind, 'test') AS kind, coalesce(e.at, d.at) AS at, coalesce(e.detail->>'says', 'A test of this webhook') AS says,
              d.tries, d.sent_at AS "sentAt", d.given_up_at IS NOT NULL AS "isGivenUp", d.problem ${OF_DELIVERY}
       WHERE d.webhook_id = $1 AND ($2::bigint IS NULL OR d.id = $2) ORDER BY d.id DESC LIMIT ${MOST_LOGGED}`,
      [id, only ?? null],
    );
  }

  /** Sends one at once, and says what came of it; it is not tried again. @throws ProblemError ENTRY_UNKNOWN */
  async test(id: string): Promise<DeliveryRow> {
    await readKnown(this.database, id);
    // Tried here, and by nobody else.
    const { delivery } = await readRow(
      this.database,
      { delivery: text },
      `INSERT INTO webhook_delivery (webhook_id, next_at) VALUES ($1, 'infinity') RETURNING id AS delivery`,
      [id],
    );
    const [open] = await this.open('d.id = $1', [delivery]);
    if (open) await this.send({ ...open, tries: MOST_TRIES });
    const [row] = await this.log(id, delivery);
    if (!row) throw new Error('a test that was sent is not in the log');
    return row;
  }

  async catchUp(): Promise<void> {
    for (;;) {
      const some = await this.open(`${OPEN} AND d.next_at <= now()`, []);
      if (some.length === 0) return;
      await Promise.all(some.map((each) => this.send(each)));
    }
  }

  private async open(condition: string, values: unknown[]): Promise<Open[]> {
    return readRows<Open>(
      this.database,
      { id: text, address: text, secret: text, tries: number, kind: text, body: json<Open['body']>() },
      `SELECT d.id, w.address, w.secret, d.tries, coalesce(e.kind, 'test') AS kind, ${BODY} AS body ${OF_DELIVERY}
       WHERE ${condition} ORDER BY d.id LIMIT ${AT_ONCE}`,
      values,
    );
  }

  private async send({ id, address, secret, tries, kind, body }: Open): Promise<void> {
    try {
      const time = Math.floor(Date.now() / 1000);
      await handOver(address, secret, { id, kind, body: JSON.stringify(body), time });
    } catch (error) {
      const problem = (error instanceof Error ? error.message : String(error)).slice(0, 500);
      const isLast = tries + 1 >= MOST_TRIES;
      await this.database.query(
        `UPDATE webhook_delivery SET tries = tries + 1, problem = $2, next_at = now() + make_interval(secs => $3),
                given_up_at = CASE WHEN $4 THEN now() END WHERE id = $1`,
        [id, problem, waitAfter(tries + 1), isLast],
      );
      return;
    }
    await this.database.query(
      'UPDATE webhook_delivery SET tries = tries + 1, problem = NULL, sent_at = now() WHERE id = $1',
      [id],
    );
  }
}

/** @throws ProblemError ENTRY_UNKNOWN */
async function readKnown(database: DataSource, id: string): Promise<void> {
  if ((await countRows(database, 'SELECT FROM webhook WHERE id = $1 AND ended_at IS NULL', [id])) === 0)
    throw unknown();
}

function unknown(): ProblemError {
  return new ProblemError('ENTRY_UNKNOWN', 'There is no such webhook. Nothing was changed.');
}
