import { veiledNumbers, withoutNumbers } from '../trail/mentions.js';
import { createHash } from 'node:crypto';
import type { OnApplicationBootstrap, OnModuleDestroy } from '@nestjs/common';
import { createTransport } from 'nodemailer';
import { DataSource } from 'typeorm';
import { RightsService } from '../access/rights.service.js';
import { Person } from '../database/entities/person.js';
import { listOf, countRows, orNull, readRows, text } from '../database/read-rows.js';
import type { Feed } from '../feed/feed.js';
import type { JobQueue } from '../queue/job-queue.js';
import { StandingJob } from '../queue/standing-job.js';
import { waitAfter } from '../queue/wait-after.js';
import { mailText } from './mail-text.js';

export interface MailOptions {
  /** As `smtp://host:25`; empty for no mail. */
  readonly address: string;
  readonly from: string;
  readonly publicAddress: string;
  readonly inBackground: boolean;
}

const MAIL_JOB = '5d0b6e53-2c0e-4d0a-9a4f-6b1d3a6d9c41';
/** What happens together is told together. */
const REST_MS = 500;
/** Daily mails become due, and a mail server comes back, without anybody telling. */
const LOOK_MS = 60_000;
const SMTP_MS = 15_000;
/** Of one mail; more go with the next. */
const MOST = 1000;
/** When daily mails go out, at the site. */
const DAILY_HOUR = 6;

interface Pending {
  readonly id: string;
  readonly says: string;
  readonly veiled: readonly string[];
  readonly number: string | null;
  readonly address: string | null;
  readonly placeId: string | null;
}

/** Hands over by SMTP what people want to be told by mail: once, again where the mail server does not take it. */
export class MailService implements OnApplicationBootstrap, OnModuleDestroy {
  private readonly job: StandingJob<'mail'> | undefined;

  constructor(
    private readonly options: MailOptions,
    private readonly database: DataSource,
    private readonly rights: RightsService,
    feed: Feed,
    queue: JobQueue,
  ) {
    if (options.address === '' || !options.inBackground) return;
    this.job = new StandingJob(
      {
        ...{ kind: 'mail', id: MAIL_JOB, about: 'Notices by mail', after: 'notices' },
        restMs: REST_MS,
        lookMs: LOOK_MS,
        isWanted: async () => (await countRows(this.database, `${DUE} LIMIT 1`)) > 0,
        work: () => this.catchUp(),
      },
      queue,
      feed,
    );
  }

  get isSent(): boolean {
    return this.options.address !== '';
  }

  onApplicationBootstrap(): void {
    this.job?.begin();
  }

  onModuleDestroy(): void {
    this.job?.end();
  }

  /** One person after another, until nothing is due. */
  async catchUp(): Promise<void> {
    for (;;) {
      const [due] = await readRows(this.database, { person: text }, `${DUE} ORDER BY n.id LIMIT 1`);
      if (!due) return;
      const person = await this.database.manager.findOneByOrFail(Person, { id: due.person });
      await this.send(person);
    }
  }

  private async send(person: Person): Promise<void> {
    const hidden = new Set((await this.rights.of(person)).placesWithout('see'));
    const all = await readRows<Pending>(
      this.database,
      {
        id: text,
        says: text,
        number: orNull(text),
        address: orNull(text),
        placeId: orNull(text),
        veiled: listOf(text),
      },
      `SELECT n.id, n.says, i.number, n.address, i.place_id AS "placeId", ${veiledNumbers('n.mentions', '$2')} AS veiled FROM notice n LEFT JOIN item i ON i.id = n.item_id
       WHERE n.id IN (SELECT due.id FROM (${DUE_ROWS}) due WHERE due.person_id = $1) ORDER BY n.id LIMIT ${MOST}`,
      [person.id, [...hidden]],
    );
    // What somebody may not see by now is not told by mail either.
    const told = all.filter(({ placeId }) => placeId === null || !hidden.has(placeId));
    const [row] = await readRows(this.database, { mail: text }, 'SELECT mail FROM person WHERE id = $1', [
      person.id,
    ]);
    const ids = all.map(({ id }) => id);
    try {
      if (told.length > 0) await this.handOver(row?.mail ?? '', told, person.name);
    } catch (error) {
      await this.later(person, ids, error instanceof Error ? error.message : String(error));
      return;
    }
    await this.database.transaction(async (manager) => {
      await manager.query('UPDATE notice SET mailed_at = now() WHERE id = ANY($1::bigint[])', [ids]);
      await manager.query(
        'UPDATE person SET mail_problem = NULL WHERE id = $1 AND mail_problem IS NOT NULL',
        [person.id],
      );
    });
  }

  private async handOver(to: string, told: readonly Pending[], name: string): Promise<void> {
    const { address, from, publicAddress } = this.options;
    const { subject, text: body } = mailText(
      told.map(({ says, veiled, number, address: where }) => ({
        says: withoutNumbers(says, veiled),
        address: where ?? (number === null ? '/desk' : `/trace?item=${encodeURIComponent(number)}`),
      })),
      { name, publicAddress },
    );
    const transport = createTransport({
      ...{ url: address, connectionTimeout: SMTP_MS, greetingTimeout: SMTP_MS, socketTimeout: SMTP_MS },
      ...{ disableFileAccess: true, disableUrlAccess: true },
    });
    // The same notices are the same mail, should this server end before it can note that it was sent.
    const id = createHash('sha256')
      .update(told.map((each) => each.id).join(' '))
      .digest('hex')
      .slice(0, 32);
    try {
      await transport.sendMail({ from, to, subject, text: body, messageId: `<${id}@stem-trace>` });
    } finally {
      transport.close();
    }
  }

  private async later(person: Person, ids: readonly string[], problem: string): Promise<void> {
    await this.database.transaction(async (manager) => {
      const [tried] = await readRows(
        manager,
        { tries: text },
        'SELECT max(mail_tries)::text AS tries FROM notice WHERE id = ANY($1::bigint[])',
        [ids],
      );
      await manager.query(
        `UPDATE notice SET mail_tries = mail_tries + 1, mail_next = now() + make_interval(secs => $2) WHERE id = ANY($1::bigint[])`,
        [ids, waitAfter(Number(tried?.tries ?? 0) + 1)],
      );
      await manager.query('UPDATE person SET mail_problem = $2 WHERE id = $1', [
        person.id,
        problem.slice(0, 500),
      ]);
    });
  }
}

/** Notices whose time has come: at once, or those of before the last hour of daily mails. */
const DUE_ROWS = `
  SELECT n.id, n.person_id FROM notice n JOIN person p ON p.id = n.person_id
  WHERE n.way <> 'desk' AND n.mailed_at IS NULL AND n.mail_next <= now() AND p.is_active AND p.mail <> ''
    AND (n.way = 'at once' OR n.at < (date_trunc('day', now() AT TIME ZONE site_zone() - interval '${DAILY_HOUR} hours')
      + interval '${DAILY_HOUR} hours') AT TIME ZONE site_zone())`;
const DUE = `SELECT n.person_id::text AS person FROM (${DUE_ROWS}) n`;
