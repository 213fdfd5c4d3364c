import type { BillRelease, FileAnswer, PlanningState } from '@stem-trace/contract';
import { numberKey, type BuildBill } from '@stem-trace/core';
import type { OnApplicationBootstrap, OnModuleDestroy } from '@nestjs/common';
import { DataSource, type EntityManager } from 'typeorm';
import type { BlobStore } from '../blobs/blob-store.js';
import { keepBlob } from '../blobs/keep-blob.js';
import { isReleased } from '../database/conditions.js';
import type { Person } from '../database/entities/person.js';
import {
  countRows,
  flag,
  json,
  number,
  orNull,
  readRows,
  text,
  time,
  timeText,
} from '../database/read-rows.js';
import { announce, Feed } from '../feed/feed.js';
import { ProblemError } from '../problems/problem.js';
import { JobQueue } from '../queue/job-queue.js';
import { StandingJob } from '../queue/standing-job.js';
import { CatalogueService, type DescribedVersion } from '../store/catalogue.service.js';
import { LABEL } from '../store/item-row.js';
import type { BillContents } from './bill-contents.js';
import { billWorkbook, billXml } from './issued-files.js';
import { waitAfter } from '../queue/wait-after.js';
import { sendToPlanning } from './planning.js';

const ISSUE_JOB = '00000000-0000-4000-8000-000000000003';
const REST_MS = 200;
/** What waits for planning to be there again is looked at so often. */
const LOOK_MS = 2000;

interface IssuedFile {
  readonly name: string;
  readonly size: number;
  readonly sha256: string;
}

interface OpenRelease {
  readonly id: string;
  readonly versionId: string;
  readonly by: string;
  readonly at: Date;
  readonly notes: string;
  readonly hasFiles: boolean;
  readonly tries: number;
}

/** Releases of bills: their files, made once the step is taken, and what planning was sent. */
export class ReleasesService implements OnApplicationBootstrap, OnModuleDestroy {
  private readonly job: StandingJob<'issue'> | undefined;
  /** Empty where there is no planning system. */
  private readonly planningAddress: string;

  constructor(
    { planningAddress, inBackground }: { readonly planningAddress: string; readonly inBackground: boolean },
    private readonly database: DataSource,
    private readonly catalogue: CatalogueService,
    private readonly blobs: BlobStore,
    private readonly contents: BillContents,
    feed: Feed,
    queue: JobQueue,
  ) {
    this.planningAddress = planningAddress;
    if (!inBackground) return;
    this.job = new StandingJob(
      {
        ...{ kind: 'issue', id: ISSUE_JOB, about: 'Files of released bills, and planning', after: 'items' },
        restMs: REST_MS,
        lookMs: LOOK_MS,
        isWanted: async () => (await this.dueCount()) > 0,
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

  /** Inside the transaction of the step that releases. */
  async begin(
    manager: EntityManager,
    bills: readonly DescribedVersion[],
    { id }: Person,
    notes: string,
  ): Promise<void> {
    for (const bill of bills)
      await manager.query(
        'INSERT INTO bill_release (item_id, version_id, person_id, notes) VALUES ($1, $2, $3, $4)',
        [bill.itemId, bill.id, id, notes],
      );
  }

  /** Newest first. */
  async list(reference: string, person: Person): Promise<BillRelease[]> {
    const { itemId } = await this.catalogue.resolve(reference, person);
    const rows = await readRows(
      this.database,
      {
        ...{ version: text, at: timeText, by: text, notes: text, isSuperseded: flag },
        ...{ files: orNull(json<IssuedFile[]>()), problem: orNull(text), tries: number },
        ...{ sentAt: orNull(timeText), planningProblem: orNull(text) },
      },
      `SELECT ${LABEL} AS version, b.released_at AS at, p.name AS by, b.notes, EXISTS (SELECT FROM bill_release later WHERE later.item_id = b.item_id AND later.id > b.id) AS "isSuperseded", b.files,
              b.files_problem AS problem, b.planning_tries AS tries, b.planning_sent_at AS "sentAt",
              b.planning_problem AS "planningProblem"
       FROM bill_release b JOIN version v ON v.id = b.version_id JOIN revision r ON r.id = v.revision_id
       JOIN person p ON p.id = b.person_id WHERE b.item_id = $1 ORDER BY b.id DESC`,
      [itemId],
    );
    return rows.map(({ files, tries, sentAt, planningProblem, ...row }) => ({
      ...row,
      isSuperseded: row.isSuperseded === true,
      files: (files ?? []).map(({ name, size }) => ({ name, size })),
      planning: { state: this.stateOf(sentAt), tries, sentAt, problem: planningProblem },
    }));
  }

  private stateOf(sentAt: string | null): PlanningState['state'] {
    if (sentAt !== null) return 'sent';
    return this.planningAddress === '' ? 'off' : 'waiting';
  }

  /** @throws ProblemError NOT_FOUND, NOT_ALLOWED */
  async file(reference: string, name: string, person: Person): Promise<FileAnswer> {
    const version = await this.catalogue.resolve(reference, person, 'fetch');
    const [row] = await readRows(
      this.database,
      { files: orNull(json<IssuedFile[]>()) },
      'SELECT files FROM bill_release WHERE version_id = $1',
      [version.id],
    );
    const file = row?.files?.find((each) => each.name === name);
    if (!file)
      throw new ProblemError(
        'NOT_FOUND',
        `The release of ${version.number} ${version.label} has no file ${name}. Look at its releases for those it has.`,
      );
    const media = name.endsWith('.xml') ? 'application/xml' : XLSX;
    return { name, media, base64: Buffer.from(await this.blobs.read(file.sha256)).toString('base64') };
  }

  /** Planning may be there again, which nothing tells. */
  private async dueCount(): Promise<number> {
    return countRows(this.database, `SELECT FROM bill_release WHERE ${this.due} LIMIT 1`);
  }

  /** Files that are not made, and what planning does not have, once its time has come. */
  private get due(): string {
    const wait = '(planning_next <= now())';
    return this.planningAddress === ''
      ? `files IS NULL AND ${wait}`
      : `(files IS NULL OR planning_sent_at IS NULL) AND ${wait}`;
  }

  private async catchUp(): Promise<void> {
    for (;;) {
      const [open] = await readRows<OpenRelease>(
        this.database,
        {
          ...{ id: text, versionId: text, by: text, notes: text, tries: number },
          ...{ at: time, hasFiles: flag },
        },
        `SELECT b.id::text, b.version_id::text AS "versionId", p.name AS by, b.released_at AS at, b.notes,
                b.files IS NOT NULL AS "hasFiles", b.planning_tries AS tries
         FROM bill_release b JOIN person p ON p.id = b.person_id WHERE ${this.due} ORDER BY b.id LIMIT 1`,
      );
      if (!open) return;
      await this.issue(open);
      await announce(this.database, 'items');
    }
  }

  private async issue(open: OpenRelease): Promise<void> {
    const version = (await this.catalogue.describe([open.versionId])).get(open.versionId);
    if (!version) throw new Error(`version ${open.versionId} of a release is not there`);
    const bill = await this.contents.read(version);
    const xml = billXml(bill, version, open.at);
    try {
      if (!open.hasFiles) await this.makeFiles(open, { version, bill, xml });
    } catch (error) {
      await this.later(open, 'files_problem', error);
      return;
    }
    if (this.planningAddress === '') return;
    try {
      await sendToPlanning(this.planningAddress, `bill-release-${open.id}`, xml);
    } catch (error) {
      await this.later(open, 'planning_problem', error);
      return;
    }
    await this.database.query(
      `UPDATE bill_release SET planning_sent_at = now(), planning_tries = planning_tries + 1, planning_problem = NULL
       WHERE id = $1`,
      [open.id],
    );
  }

  private async later(
    { id, tries }: OpenRelease,
    column: 'files_problem' | 'planning_problem',
    error: unknown,
  ): Promise<void> {
    await this.database.query(
      `UPDATE bill_release SET ${column} = $2, planning_tries = planning_tries + 1,
              planning_next = now() + make_interval(secs => $3) WHERE id = $1`,
      [id, error instanceof Error ? error.message : String(error), waitAfter(tries + 1)],
    );
  }

  private async makeFiles(
    open: OpenRelease,
    {
      version,
      bill,
      xml,
    }: { readonly version: DescribedVersion; readonly bill: BuildBill; readonly xml: string },
  ): Promise<void> {
    const base = `${version.number} ${version.label}`.replace('/', '-');
    const files: IssuedFile[] = [];
    for (const [at, template] of bill.outputs.entries()) {
      const bytes = template === '' ? undefined : await this.templateOf(template);
      const name = at === 0 ? `${base}.xlsx` : `${base} ${at + 1}.xlsx`;
      files.push(await this.keep(name, await billWorkbook(bill, version, open, bytes)));
    }
    files.push(await this.keep(`${base}.xml`, new TextEncoder().encode(xml)));
    await this.database.query('UPDATE bill_release SET files = $2, files_problem = NULL WHERE id = $1', [
      open.id,
      JSON.stringify(files),
    ]);
  }

  /** The newest released version of a template, or the newest. */
  private async templateOf(template: string): Promise<Uint8Array> {
    const [row] = await readRows(
      this.database,
      { sha256: text },
      `SELECT v.sha256 FROM item i JOIN version v ON v.item_id = i.id JOIN revision r ON r.id = v.revision_id
       WHERE i.number_key = $1 ORDER BY (${isReleased()}) DESC, v.ordinal DESC LIMIT 1`,
      [numberKey(template)],
    );
    if (!row) throw new Error(`There is no template ${template} in the store.`);
    return this.blobs.read(row.sha256);
  }

  private async keep(name: string, bytes: Uint8Array): Promise<IssuedFile> {
    const { sha256, size } = await keepBlob(this.database, this.blobs, bytes);
    return { name, size, sha256 };
  }
}

const XLSX = 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet';
