import type { Readable } from 'node:stream';
import { Injectable } from '@nestjs/common';
import type {
  CarryOutRequest,
  CorrectionRequest,
  IntakeRequest,
  IntakeResult,
  IntakeSheetRow,
  IntakeView,
} from '@stem-trace/contract';
import { DataSource } from 'typeorm';
import { RightsService } from '../access/rights.service.js';
import { BlobStore } from '../blobs/blob-store.js';
import { Intake } from '../database/entities/intake.js';
import type { Person } from '../database/entities/person.js';
import { CatalogueService } from '../items/catalogue.service.js';
import { ProblemError } from '../problems/problem.js';
import { FileReader, LIMITS } from './file-reader.js';
import { IntakePlanner } from './intake-planner.js';
import { IntakeRunner } from './intake-runner.js';
import { expectedCounts, NOTHING, resultOf, rowViews } from './intake-view.js';
import { placeOfWorkingCopy } from './unpacker.js';

/** Intake sheets: files are collected and read, the review is worked out anew at each look, and carried out once. */
@Injectable()
export class IntakeService {
  constructor(
    private readonly database: DataSource,
    private readonly blobs: BlobStore,
    private readonly reader: FileReader,
    private readonly planner: IntakePlanner,
    private readonly runner: IntakeRunner,
    private readonly catalogue: CatalogueService,
    private readonly rights: RightsService,
  ) {}

  /** Begins an intake, or a check-in where a working copy's manifest is given. */
  async create({ manifest, ...request }: IntakeRequest, person: Person): Promise<IntakeView> {
    const place = manifest
      ? await placeOfWorkingCopy(this.catalogue, { manifest, otherwise: request.place, person })
      : request.place;
    // A check-in needs the right where each item lies, which is judged row by row.
    if (!manifest) (await this.rights.of(person)).require('change', place);
    const intake = await this.save(
      { ...request, place, manifest: manifest ?? null, state: 'collecting' },
      person,
    );
    return this.view(intake.id, person);
  }

  /** Begins an intake of an archive; it is unpacked in the background. Where it is a working copy, this is a check-in. */
  async createFromArchive(
    request: Pick<IntakeRequest, 'place' | 'prefix'>,
    content: Readable,
    person: Person,
  ): Promise<IntakeView> {
    const { sha256, size } = await this.blobs.put(content, LIMITS.fileBytes);
    await this.database.query('INSERT INTO blob (sha256, size) VALUES ($1, $2) ON CONFLICT DO NOTHING', [
      sha256,
      size,
    ]);
    const intake = await this.save(
      { ...request, manifest: null, state: 'unpacking', archiveSha256: sha256 },
      person,
    );
    this.runner.unpack(intake.id);
    return this.view(intake.id, person);
  }

  private async save(
    given: Pick<Intake, 'place' | 'prefix' | 'manifest' | 'state'> & { archiveSha256?: string },
    person: Person,
  ): Promise<Intake> {
    const intakes = this.database.getRepository(Intake);
    return intakes.save(
      intakes.create({
        archiveSha256: null,
        ...given,
        overwrite: [],
        letGo: true,
        comment: '',
        corrections: {},
        result: null,
        failure: null,
        createdBy: person.id,
        cancelAsked: false,
        doneCount: 0,
        totalCount: 0,
      }),
    );
  }

  /** One's sheets that are not done with, newest first. */
  async list(person: Person): Promise<IntakeSheetRow[]> {
    return this.database.query(
      `SELECT i.id, i.place, i.state, i.created_at AS "createdAt", i.manifest IS NOT NULL AS "isCheckIn",
              (SELECT count(*)::int FROM intake_file WHERE intake_id = i.id) AS files
       FROM intake i WHERE i.created_by = $1 AND i.state NOT IN ('done', 'cancelled')
       ORDER BY i.created_at DESC LIMIT 50`,
      [person.id],
    );
  }

  /** Keeps one file and reads it. The same path again replaces it. */
  async addFile(id: string, path: string, content: Readable, person: Person): Promise<void> {
    await this.open(id, person);
    await this.reader.refuseMore(id);
    const row = await this.reader.read(path, content);
    await this.database.transaction((manager) => this.reader.keep(manager, id, [row]));
  }

  async correct(
    id: string,
    { corrections, overwrite }: CorrectionRequest,
    person: Person,
  ): Promise<IntakeView> {
    const { overwrite: chosen } = await this.open(id, person);
    // Merged by the database, member by member, so that two corrections at the same moment both count.
    await this.database.query(
      `UPDATE intake SET corrections = corrections || (
         SELECT coalesce(jsonb_object_agg(c.key, coalesce(intake.corrections->c.key, '{}') || c.value), '{}')
         FROM jsonb_each($2::jsonb) c) WHERE id = $1`,
      [id, JSON.stringify(corrections)],
    );
    if (overwrite)
      await this.database
        .getRepository(Intake)
        .update({ id }, { overwrite: [...new Set([...chosen, ...overwrite])] });
    return this.view(id, person);
  }

  /** While something is under way only how far it is; the review when it waits for somebody. */
  async view(id: string, person: Person): Promise<IntakeView> {
    const intake = await this.find(id, person);
    const common = {
      id,
      state: intake.state,
      place: intake.place,
      prefix: intake.prefix,
      workingCopy: intake.manifest ? { item: intake.manifest.item, version: intake.manifest.version } : null,
      comment: intake.comment,
      progress: { done: intake.doneCount, total: intake.totalCount },
      result: intake.result,
      failure: intake.failure,
    };
    if (intake.state !== 'collecting' && intake.state !== 'failed')
      return { ...common, rows: [], expected: intake.result ?? NOTHING };
    const { manager } = this.database;
    const files = await this.planner.filesOf(intake, manager);
    const plan = await this.planner.plan(intake, { files, person }, manager);
    return {
      ...common,
      rows: rowViews(plan, intake.manifest),
      expected: resultOf(intake, { files, plan, written: expectedCounts(plan) }),
    };
  }

  /**
   * Starts carrying out; the answer comes at once, progress and result are in the view. All of it is one
   * transaction. An intake that is done says so again.
   */
  async carryOut(id: string, request: CarryOutRequest, person: Person): Promise<IntakeView> {
    if (await this.start(id, request, person)) void this.runner.run(id, person);
    return this.view(id, person);
  }

  /** Carries out and waits for the end; `at` is the time that the versions get. */
  async carryOutAt(id: string, comment: string, person: Person, at: Date): Promise<IntakeResult> {
    await this.start(id, { comment, letGo: true }, person);
    const result = await this.runner.carryOutAt(id, person, at);
    if (!result) throw new Error(`intake ${id} was not to be carried out`);
    return result;
  }

  private async start(id: string, { comment, letGo }: CarryOutRequest, person: Person): Promise<boolean> {
    const { state } = await this.find(id, person);
    if (state !== 'collecting' && state !== 'failed') return false;
    const started = await this.database
      .getRepository(Intake)
      .update(
        { id, state },
        { state: 'carrying out', comment, letGo, failure: null, cancelAsked: false, doneCount: 0 },
      );
    return started.affected === 1;
  }

  /**
   * Gives up a sheet. What is being carried out stops with nothing written, and the sheet waits again; one that waits is
   * thrown away with what was collected on it.
   */
  async cancel(id: string, person: Person): Promise<IntakeView> {
    const { state } = await this.find(id, person);
    if (state === 'carrying out')
      await this.database.getRepository(Intake).update({ id, state }, { cancelAsked: true });
    else if (state !== 'done') {
      await this.database.transaction(async (manager) => {
        await manager.getRepository(Intake).update({ id, state }, { state: 'cancelled' });
        await manager.query('DELETE FROM intake_file WHERE intake_id = $1', [id]);
      });
    }
    return this.view(id, person);
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
        `This sheet is ${intake.state}. Start a new one for further files.`,
      );
    }
    return intake;
  }
}
