import type { Readable } from 'node:stream';
import { Injectable, Logger, type OnModuleInit } from '@nestjs/common';
import type {
  CorrectionRequest,
  IntakeRequest,
  IntakeResult,
  IntakeRowView,
  IntakeView,
} from '@stem-trace/contract';
import { type IntakeFile, type IntakePlan, type IntakeRow } from '@stem-trace/core';
import { DataSource, type EntityManager } from 'typeorm';
import { BlobStore } from '../blobs/blob-store.js';
import { Intake, IntakeFileRow } from '../database/entities/intake.js';
import type { Person } from '../database/entities/person.js';
import { ReaderPool } from '../jobs/reader-pool.js';
import { ProblemError } from '../problems/problem.js';
import { takeTurn } from '../store/store-writer.js';
import { planAgainstStore } from './intake-store.js';
import { writeIntake, type IntakeWritten } from './intake-writer.js';

/** Intake sheets: files are collected and read, the review is worked out anew at each look, and carried out once. */
@Injectable()
export class IntakeService implements OnModuleInit {
  private readonly logger = new Logger('intake');
  private readonly progress = new Map<string, { done: number; total: number }>();

  constructor(
    private readonly database: DataSource,
    private readonly blobs: BlobStore,
    private readonly readers: ReaderPool,
  ) {}

  /** What was being carried out when the server stopped was rolled back with its transaction; it can be tried again. */
  async onModuleInit(): Promise<void> {
    await this.database.query(`UPDATE intake SET state = 'collecting' WHERE state = 'carrying out'`);
  }

  async create(request: IntakeRequest, person: Person): Promise<IntakeView> {
    const intakes = this.database.getRepository(Intake);
    const intake = await intakes.save(
      intakes.create({
        ...request,
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

  async correct(id: string, { corrections }: CorrectionRequest, person: Person): Promise<IntakeView> {
    const intake = await this.open(id, person);
    await this.database
      .getRepository(Intake)
      .update({ id }, { corrections: { ...intake.corrections, ...corrections } });
    return this.view(id, person);
  }

  async view(id: string, person: Person): Promise<IntakeView> {
    const intake = await this.find(id, person);
    const files = await this.filesOf(id, this.database.manager);
    const plan = intake.state === 'done' ? undefined : await this.plan(intake, files, this.database.manager);
    const numbers = new Map(plan?.rows.map((row) => [row.key, row.number]));
    const rows = plan?.rows.map((row) => rowView(row, numbers)) ?? [];
    return {
      id,
      state: intake.state,
      place: intake.place,
      prefix: intake.prefix,
      comment: intake.comment,
      progress: this.progress.get(id) ?? { done: 0, total: rows.length },
      rows,
      expected: intake.result ?? resultOf(files, plan, expectedCounts(plan)),
      result: intake.result,
      failure: intake.failure,
    };
  }

  /**
   * Starts carrying out; the answer comes at once, progress and result are in the view. All of it is one
   * transaction. An intake that is done says so again.
   */
  async carryOut(id: string, comment: string, person: Person): Promise<IntakeView> {
    const intake = await this.find(id, person);
    if (intake.state === 'done' || intake.state === 'carrying out') return this.view(id, person);
    const started = await this.database
      .getRepository(Intake)
      .update({ id, state: intake.state }, { state: 'carrying out', comment, failure: null });
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
      await this.database.getRepository(Intake).update({ id }, { state: 'failed', failure });
    } finally {
      this.progress.delete(id);
    }
  }

  private async write(
    manager: EntityManager,
    { id, comment, person, at }: { id: string; comment: string; person: Person; at: Date },
  ): Promise<IntakeResult> {
    await takeTurn(manager);
    const intake = await manager.getRepository(Intake).findOneByOrFail({ id });
    const files = await this.filesOf(id, manager);
    const plan = await this.plan(intake, files, manager);
    const total = plan.rows.length;
    const written = await writeIntake(manager, {
      plan,
      place: intake.place,
      comment,
      authorId: person.id,
      at,
      shaOf: new Map(files.map((file) => [file.path, file.sha256])),
      schemaOf: new Map(files.map((file) => [file.path, file.reading?.schema ?? ''])),
      onProgress: (done) => this.progress.set(id, { done, total }),
    });
    const result = resultOf(files, plan, written);
    await manager.getRepository(Intake).update({ id }, { state: 'done', result });
    return result;
  }

  private async plan(
    intake: Intake,
    files: readonly IntakeFile[],
    manager: EntityManager,
  ): Promise<IntakePlan> {
    return planAgainstStore(manager, {
      files,
      place: intake.place,
      prefix: intake.prefix,
      corrections: new Map(Object.entries(intake.corrections)),
    });
  }

  private async filesOf(id: string, manager: EntityManager): Promise<IntakeFile[]> {
    const rows = await manager
      .getRepository(IntakeFileRow)
      .find({ where: { intakeId: id }, order: { path: 'ASC' } });
    return rows.map(({ path, sha256, reading, problem, passedOver }) => ({
      path,
      sha256,
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
  files: readonly IntakeFile[],
  plan: IntakePlan | undefined,
  written: IntakeWritten,
): IntakeResult {
  return {
    files: files.filter((file) => file.passedOver === undefined).length,
    ...written,
    gaps: plan?.gaps ?? [],
    problems: plan?.problems ?? [],
    passedOver: plan?.passedOver ?? [],
  };
}

const STATUS_TEXT: Readonly<Record<IntakeRow['status']['kind'], IntakeRowView['status']>> = {
  new: 'new',
  newVersion: 'new version',
  unchanged: 'unchanged',
  leftOut: 'left out',
  sameAs: 'same file',
  problem: 'problem',
};

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
    existing: status.kind === 'newVersion' || status.kind === 'unchanged' ? status.of.newest.label : null,
    references: { resolved: row.links.length - gaps, gaps },
    notes: [...(status.kind === 'problem' ? [status.reason] : []), ...row.notes],
  };
}
