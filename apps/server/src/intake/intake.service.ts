import type { Readable } from 'node:stream';
import { Injectable, Logger, type OnModuleInit } from '@nestjs/common';
import type {
  CarryOutRequest,
  CorrectionRequest,
  FetchManifest,
  IntakeRequest,
  IntakeResult,
  IntakeRowView,
  IntakeView,
} from '@stem-trace/contract';
import {
  guardPlan,
  missingFrom,
  type IntakeFile,
  type IntakePlan,
  type IntakeRow,
  type WorkingCopy,
} from '@stem-trace/core';
import { DataSource, type EntityManager } from 'typeorm';
import { RightsService } from '../access/rights.service.js';
import { BlobStore } from '../blobs/blob-store.js';
import { Intake, IntakeFileRow } from '../database/entities/intake.js';
import type { Person } from '../database/entities/person.js';
import { ReaderPool } from '../jobs/reader-pool.js';
import { ProblemError } from '../problems/problem.js';
import { takeTurn } from '../store/store-writer.js';
import { holdsOf } from '../custody/holds.js';
import { announce } from '../feed/feed.js';
import { counted, record } from '../notices/record.js';
import { CatalogueService } from '../items/catalogue.service.js';
import { planAgainstStore } from './intake-store.js';
import { writeIntake, type IntakeWritten } from './intake-writer.js';

const MARK_TRIES = 120;
const MARK_AGAIN_MS = 1000;

/** Intake sheets: files are collected and read, the review is worked out anew at each look, and carried out once. */
@Injectable()
export class IntakeService implements OnModuleInit {
  private readonly logger = new Logger('intake');
  private readonly progress = new Map<string, { done: number; total: number }>();

  constructor(
    private readonly database: DataSource,
    private readonly blobs: BlobStore,
    private readonly readers: ReaderPool,
    private readonly catalogue: CatalogueService,
    private readonly rights: RightsService,
  ) {}

  /** What was being carried out when the server stopped was rolled back with its transaction; it can be tried again. */
  async onModuleInit(): Promise<void> {
    await this.database.query(`UPDATE intake SET state = 'collecting' WHERE state = 'carrying out'`);
  }

  /** Begins an intake, or a check-in where a working copy's manifest is given. */
  async create({ manifest, ...request }: IntakeRequest, person: Person): Promise<IntakeView> {
    const intakes = this.database.getRepository(Intake);
    const place = manifest ? await this.placeOfWorkingCopy(manifest, request.place, person) : request.place;
    // A check-in needs the right where each item lies, which is judged row by row.
    if (!manifest) (await this.rights.of(person)).require('change', place);
    const intake = await intakes.save(
      intakes.create({
        ...request,
        place,
        manifest: manifest ?? null,
        overwrite: [],
        letGo: true,
        comment: '',
        state: 'collecting',
        corrections: {},
        result: null,
        failure: null,
        createdBy: person.id,
      }),
    );
    return this.view(intake.id, person);
  }

  /** A working copy lies as its places do, from the one that all have in common. */
  private async placeOfWorkingCopy(
    manifest: FetchManifest,
    otherwise: string,
    person: Person,
  ): Promise<string> {
    const root = await this.catalogue.resolve(manifest.item, person).catch(() => undefined);
    const folder = manifest.root.includes('/')
      ? `/${manifest.root.slice(0, manifest.root.lastIndexOf('/'))}`
      : '';
    if (!root?.place.endsWith(folder)) return otherwise;
    return root.place.slice(0, root.place.length - folder.length) || '/';
  }

  /** Keeps one file and reads it. The same path again replaces it. */
  async addFile(id: string, path: string, content: Readable, person: Person): Promise<void> {
    await this.open(id, person);
    const { sha256, size } = await this.blobs.put(content);
    const outcome = await this.readers.read({ file: this.blobs.pathOf(sha256), path });
    await this.database.transaction(async (manager) => {
      await manager.query('INSERT INTO blob (sha256, size) VALUES ($1, $2) ON CONFLICT DO NOTHING', [
        sha256,
        size,
      ]);
      await manager.getRepository(IntakeFileRow).save({
        intakeId: id,
        path,
        sha256,
        size: String(size),
        reading: outcome.kind === 'read' ? outcome.reading : null,
        problem: outcome.kind === 'problem' ? { line: outcome.line, reason: outcome.reason } : null,
        passedOver: outcome.kind === 'passedOver' ? outcome.reason : null,
      });
    });
  }

  async correct(
    id: string,
    { corrections, overwrite }: CorrectionRequest,
    person: Person,
  ): Promise<IntakeView> {
    const intake = await this.open(id, person);
    await this.database.getRepository(Intake).update(
      { id },
      {
        corrections: { ...intake.corrections, ...corrections },
        ...(overwrite ? { overwrite: [...overwrite] } : {}),
      },
    );
    return this.view(id, person);
  }

  async view(id: string, person: Person): Promise<IntakeView> {
    const intake = await this.find(id, person);
    const files = await this.filesOf(intake, this.database.manager);
    const plan =
      intake.state === 'done' ? undefined : await this.plan(intake, { files, person }, this.database.manager);
    const numbers = new Map(plan?.rows.map((row) => [row.key, row.number]));
    const rows = plan?.rows.map((row) => rowView(row, numbers)) ?? [];
    return {
      id,
      state: intake.state,
      place: intake.place,
      prefix: intake.prefix,
      workingCopy: intake.manifest ? { item: intake.manifest.item, version: intake.manifest.version } : null,
      comment: intake.comment,
      progress: this.progress.get(id) ?? { done: 0, total: rows.length },
      rows,
      expected: intake.result ?? resultOf(intake, { files, plan, written: expectedCounts(plan) }),
      result: intake.result,
      failure: intake.failure,
    };
  }

  /**
   * Starts carrying out; the answer comes at once, progress and result are in the view. All of it is one
   * transaction. An intake that is done says so again.
   */
  async carryOut(id: string, { comment, letGo }: CarryOutRequest, person: Person): Promise<IntakeView> {
    const intake = await this.find(id, person);
    if (intake.state === 'done' || intake.state === 'carrying out') return this.view(id, person);
    const started = await this.database
      .getRepository(Intake)
      .update({ id, state: intake.state }, { state: 'carrying out', comment, letGo, failure: null });
    if (started.affected === 1) void this.run(id, comment, person);
    return this.view(id, person);
  }

  /** Carries out and waits for the end; `at` is the time that the versions get. */
  async carryOutAt(id: string, comment: string, person: Person, at: Date): Promise<IntakeResult> {
    return this.database.transaction((manager) => this.write(manager, { id, comment, person, at }));
  }

  private async run(id: string, comment: string, person: Person): Promise<void> {
    try {
      const result = await this.carryOutAt(id, comment, person, new Date());
      this.logger.log(
        `intake ${id}: ${result.items} items, ${result.versions} versions, ${result.links} links`,
      );
    } catch (error) {
      const failure =
        error instanceof ProblemError
          ? error.message
          : 'Something went wrong on our side. Nothing was changed; try again.';
      if (!(error instanceof ProblemError)) this.logger.error(error instanceof Error ? error.stack : error);
      await this.markFailed(id, failure);
    } finally {
      this.progress.delete(id);
    }
  }

  /** The database may be what failed, so this is tried until it can be said; nobody waits for it. */
  private async markFailed(id: string, failure: string): Promise<void> {
    for (let tries = 0; tries < MARK_TRIES; tries++) {
      try {
        await this.database
          .getRepository(Intake)
          .update({ id, state: 'carrying out' }, { state: 'failed', failure });
        return;
      } catch (error) {
        this.logger.warn(`intake ${id} could not be marked as failed yet: ${String(error)}`);
        await new Promise((done) => setTimeout(done, MARK_AGAIN_MS));
      }
    }
  }

  private async write(
    manager: EntityManager,
    { id, comment, person, at }: { id: string; comment: string; person: Person; at: Date },
  ): Promise<IntakeResult> {
    await takeTurn(manager);
    const intake = await manager.getRepository(Intake).findOneByOrFail({ id });
    const files = await this.filesOf(intake, manager);
    const plan = await this.plan(intake, { files, person }, manager);
    const total = plan.rows.length;
    const written = await writeIntake(manager, {
      plan,
      place: intake.place,
      comment,
      authorId: person.id,
      at,
      files: new Map(files.map((file) => [file.path, file])),
      onProgress: (done) => this.progress.set(id, { done, total }),
    });
    await this.finish(manager, { intake, plan, person, comment, at });
    const result = resultOf(intake, { files, plan, written });
    await manager.getRepository(Intake).update({ id }, { state: 'done', result });
    return result;
  }

  /** Trail, notices and holds of what came in. */
  private async finish(
    manager: EntityManager,
    {
      intake,
      plan,
      person,
      comment,
      at,
    }: { intake: Intake; plan: IntakePlan; person: Person; comment: string; at: Date },
  ): Promise<void> {
    const changed = plan.rows.flatMap(({ status }) => (status.kind === 'newVersion' ? [status.of] : []));
    const kind = intake.manifest ? 'check in' : 'intake';
    const about = comment === '' ? '' : `: ${comment}`;
    await record(manager, [
      ...changed.map(
        (item) =>
          ({
            personId: person.id,
            kind,
            itemId: item.id,
            says: `${person.name} checked in ${item.number}${about}`,
            at,
          }) as const,
      ),
      {
        personId: person.id,
        kind,
        itemId: null,
        says: `${person.name} brought in ${counted(plan.rows.length, 'item')}${about}`,
        detail: { intake: intake.id },
        at,
      },
    ]);
    if (intake.manifest && intake.letGo) {
      await manager.query('DELETE FROM hold WHERE person_id = $1 AND item_id = ANY($2::bigint[])', [
        person.id,
        changed.map(({ id }) => id),
      ]);
    }
    await announce(manager, 'items', 'holds', 'notices');
  }

  private async plan(
    intake: Intake,
    { files, person }: { files: readonly IntakeFile[]; person: Person },
    manager: EntityManager,
  ): Promise<IntakePlan> {
    const rights = await this.rights.of(person, manager);
    const plan = await planAgainstStore(manager, rights, {
      files,
      place: intake.place,
      prefix: intake.prefix,
      corrections: new Map(Object.entries(intake.corrections)),
    });
    const holds = await holdsOf(
      manager,
      plan.rows.flatMap(({ status }) => (status.kind === 'newVersion' ? [status.of.id] : [])),
    );
    return guardPlan(plan, {
      place: intake.place,
      custody: {
        holderOf: (item) => holds.get(item)?.name,
        isMine: (item) => holds.get(item)?.personId === person.id,
        mayChange: ({ place }) => rights.mayAt('change', place),
        mayBringInto: (place) => rights.mayAt('change', place),
      },
      ...(intake.manifest ? { workingCopy: workingCopyOf(intake.manifest) } : {}),
      overwrite: new Set(intake.overwrite),
    });
  }

  private async filesOf({ id, manifest }: Intake, manager: EntityManager): Promise<IntakeFile[]> {
    const fetched = new Map(manifest?.files.map((file) => [file.path, file.sha256]));
    const rows = await manager
      .getRepository(IntakeFileRow)
      .find({ where: { intakeId: id }, order: { path: 'ASC' } });
    return rows.map(({ path, sha256, reading, problem, passedOver }) => ({
      path,
      sha256,
      ...(fetched.get(path) === sha256 ? { asFetched: true } : {}),
      ...(reading ? { reading } : {}),
      ...(problem ? { problem } : {}),
      ...(passedOver === null ? {} : { passedOver }),
    }));
  }

  private async find(id: string, person: Person): Promise<Intake> {
    const valid = /^[0-9a-f-]{36}$/.test(id);
    const intake = valid
      ? await this.database.getRepository(Intake).findOneBy({ id, createdBy: person.id })
      : null;
    if (!intake)
      throw new ProblemError('INTAKE_UNKNOWN', 'There is no such intake sheet of yours. Start a new one.');
    return intake;
  }

  private async open(id: string, person: Person): Promise<Intake> {
    const intake = await this.find(id, person);
    if (intake.state !== 'collecting' && intake.state !== 'failed') {
      throw new ProblemError(
        'INTAKE_CLOSED',
        'This intake is carried out already. Start a new one for further files.',
      );
    }
    return intake;
  }
}

function expectedCounts(plan: IntakePlan | undefined): IntakeWritten {
  const writing =
    plan?.rows.filter((row) => row.status.kind === 'new' || row.status.kind === 'newVersion') ?? [];
  return {
    items: writing.filter((row) => row.status.kind === 'new').length,
    versions: writing.length,
    links: writing.reduce((sum, row) => sum + row.links.length, 0),
    filled: 0,
  };
}

function resultOf(
  { manifest }: Intake,
  {
    files,
    plan,
    written,
  }: { files: readonly IntakeFile[]; plan: IntakePlan | undefined; written: IntakeWritten },
): IntakeResult {
  return {
    files: files.filter((file) => file.passedOver === undefined).length,
    ...written,
    gaps: plan?.gaps ?? [],
    problems: plan?.problems ?? [],
    passedOver: plan?.passedOver ?? [],
    refused:
      plan?.rows.flatMap(({ path, number, status }) =>
        status.kind === 'refused' ? [{ file: path, number, reason: status.reason }] : [],
      ) ?? [],
    missing: manifest
      ? missingFrom(
          workingCopyOf(manifest),
          files.map(({ path }) => path),
        )
      : [],
  };
}

function workingCopyOf(manifest: FetchManifest): WorkingCopy {
  return { files: new Map(manifest.files.map(({ path, sha256, items }) => [path, { sha256, items }])) };
}

const STATUS_TEXT: Readonly<Record<IntakeRow['status']['kind'], IntakeRowView['status']>> = {
  new: 'new',
  newVersion: 'new version',
  unchanged: 'unchanged',
  leftOut: 'left out',
  sameAs: 'same file',
  problem: 'problem',
  refused: 'refused',
};

function belongsTo(row: IntakeRow, numbers: ReadonlyMap<string, string>): string | null {
  const link = row.links.find(({ relation }) => relation === 'depicts' || relation === 'describes');
  if (link?.target.kind === 'row') return numbers.get(link.target.key) ?? null;
  return link?.target.kind === 'item' ? link.target.item.number : null;
}

function rowView(row: IntakeRow, numbers: ReadonlyMap<string, string>): IntakeRowView {
  const { status } = row;
  const gaps = row.links.filter((link) => link.target.kind === 'gap').length;
  return {
    key: row.key,
    path: row.path,
    number: row.number,
    name: row.name,
    kind: row.product.kind,
    carrier: numbers.get(row.carrier ?? '') ?? null,
    status: STATUS_TEXT[status.kind],
    canOverwrite: status.kind === 'refused' && status.canOverwrite,
    existing: 'of' in status ? status.of.newest.label : null,
    belongsTo: belongsTo(row, numbers),
    references: { resolved: row.links.length - gaps, gaps },
    notes: [...('reason' in status ? [status.reason] : []), ...row.notes],
  };
}
