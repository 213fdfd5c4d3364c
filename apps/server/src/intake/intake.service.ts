import { Readable } from 'node:stream';
import { Injectable } from '@nestjs/common';
import type {
  CarryOutRequest,
  CorrectionRequest,
  IntakeRequest,
  IntakeResult,
  IntakeSheetRow,
  IntakeView,
} from '@stem-trace/contract';
import { DataSource, type EntityManager } from 'typeorm';
import { RightsService } from '../access/rights.service.js';
import { Intake } from '../database/entities/intake.js';
import type { Person } from '../database/entities/person.js';
import { flag, number, readRows, text, timeText, word } from '../database/read-rows.js';
import { CatalogueService } from '../store/catalogue.service.js';
import { ServerSettings } from '../server-settings.js';
import { ProblemError } from '../problems/problem.js';
import { FileReader } from './file-reader.js';
import type { JsonBytes } from '../serve/json-bytes.js';
import { WorkHost } from '../work/work-host.js';
import { aboutSheet, awaitsReview, findSheet } from './intake-review.js';
import { IntakeRunner } from './intake-runner.js';
import { placeOfWorkingCopy } from './unpacker.js';

/** For an archive, which is on no sheet yet. */
const NO_SHEET = '00000000-0000-0000-0000-000000000000';

/** Intake sheets: files are collected and read, the review is worked out anew at each look, and carried out once. */
@Injectable()
export class IntakeService {
  constructor(
    private readonly database: DataSource,
    private readonly reader: FileReader,
    private readonly work: WorkHost,
    private readonly runner: IntakeRunner,
    private readonly catalogue: CatalogueService,
    private readonly rights: RightsService,
    private readonly settings: ServerSettings,
  ) {}

  /** Begins an intake, or a check-in where a working copy's manifest is given. */
  async create({ manifest, ...request }: IntakeRequest, person: Person): Promise<string> {
    const place = manifest
      ? await placeOfWorkingCopy(this.catalogue, { manifest, otherwise: request.place, person })
      : request.place;
    // A check-in needs the right where each item lies, which is judged row by row.
    if (!manifest) (await this.rights.of(person)).require('change', place);
    const intake = await this.save(
      { ...request, place, manifest: manifest ?? null, state: 'collecting' },
      person,
    );
    return intake.id;
  }

  /** Begins an intake of an archive; it is unpacked in the background. Where it is a working copy, this is a check-in. */
  async createFromArchive(
    request: Pick<IntakeRequest, 'place' | 'prefix'>,
    content: Readable,
    person: Person,
  ): Promise<string> {
    const rights = await this.rights.of(person);
    // A working copy says itself where it goes, and each item is judged where it lies: whether it is one is seen when it is
    // unpacked. Anything else goes to the place.
    const mayBeWorkingCopy = request.place === '/' && rights.mayAnywhere('change');
    if (!mayBeWorkingCopy) rights.require('change', request.place);
    await this.reader.refuseMore({ id: NO_SHEET, createdBy: person.id }, this.settings.quotaBytes);
    const { sha256 } = await this.reader.keepBlob(content);
    const intake = await this.database.transaction(async (manager) => {
      const sheet = { ...request, manifest: null, state: 'unpacking', archiveSha256: sha256 } as const;
      const saved = await this.save(sheet, person, manager);
      await this.runner.send(saved, manager);
      return saved;
    });
    return intake.id;
  }

  /**
   * Begins a check-in in which a file that holds several items is taken apart.
   *
   * @throws ProblemError as `SplitService.split`
   */
  async createFromSplit(item: string, person: Person): Promise<string> {
    const { base64 } = await this.work.ask('fetch split', { item }, person);
    return this.createFromArchive(
      { place: '/', prefix: '' },
      Readable.from(Buffer.from(base64, 'base64')),
      person,
    );
  }

  private async save(
    given: Pick<Intake, 'place' | 'prefix' | 'manifest' | 'state'> & { archiveSha256?: string },
    person: Person,
    manager = this.database.manager,
  ): Promise<Intake> {
    const intakes = manager.getRepository(Intake);
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
      }),
    );
  }

  /** One's sheets that are not done with, newest first. */
  async list(person: Person): Promise<IntakeSheetRow[]> {
    return readRows<IntakeSheetRow>(
      this.database,
      {
        id: text,
        place: text,
        state: word<IntakeSheetRow['state']>(),
        createdAt: timeText,
        isCheckIn: flag,
        files: number,
      },
      `SELECT i.id, i.place, i.state, i.created_at AS "createdAt", i.manifest IS NOT NULL AS "isCheckIn",
              (SELECT count(*)::int FROM intake_file WHERE intake_id = i.id) AS files
       FROM intake i WHERE i.created_by = $1 AND i.state NOT IN ('done', 'cancelled')
       ORDER BY i.created_at DESC LIMIT 50`,
      [person.id],
    );
  }

  /** Keeps one file and reads it. The same path again replaces it. */
  async addFile(id: string, path: string, content: Readable, person: Person): Promise<void> {
    const sheet = await this.open(id, person);
    if (!sheet.manifest) (await this.rights.of(person)).require('change', sheet.place);
    await this.reader.refuseMore(sheet, this.settings.quotaBytes);
    const row = await this.reader.read(path, content);
    await this.reader.keep(this.database.manager, id, [row]);
  }

  async correct(id: string, { corrections, overwrite }: CorrectionRequest, person: Person): Promise<void> {
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
  }

  /** As it is; the review is worked out on a thread where the sheet waits for somebody. */
  async view(id: string, person: Person, asker?: AbortSignal): Promise<IntakeView | JsonBytes> {
    const intake = await findSheet(this.database, id, person);
    return awaitsReview(intake)
      ? this.work.json('intake view', { id }, person, asker)
      : aboutSheet(this.database, intake);
  }

  /**
   * Starts carrying out; the answer comes at once, progress and result are in the view. All of it is one
   * transaction. An intake that is done says so again.
   */
  async carryOut(id: string, request: CarryOutRequest, person: Person): Promise<void> {
    await this.database.transaction(async (manager) => {
      const sheet = await this.start(id, request, person, manager);
      if (sheet) await this.runner.send(sheet, manager);
    });
  }

  /** Carries out and waits for the end; `at` is the time that the versions get. */
  async carryOutAt(id: string, comment: string, person: Person, at: Date): Promise<IntakeResult> {
    await this.start(id, { comment, letGo: true }, person, this.database.manager);
    const carried = await this.runner.carryOutAt(id, person, at);
    if (carried.kind !== 'done') throw new Error(`intake ${id} was not to be carried out`);
    return carried.result;
  }

  /** @returns the sheet as it is now, unless there is nothing to start */
  private async start(
    id: string,
    { comment, letGo }: CarryOutRequest,
    person: Person,
    manager: EntityManager,
  ): Promise<Intake | undefined> {
    const sheet = await findSheet(manager, id, person);
    const { state } = sheet;
    if (state !== 'collecting' && state !== 'failed') return undefined;
    const change = { state: 'carrying out', comment, letGo, failure: null } as const;
    const started = await manager.getRepository(Intake).update({ id, state }, change);
    return started.affected === 1 ? Object.assign(sheet, change) : undefined;
  }

  /**
   * Gives up a sheet. What is being carried out stops with nothing written, and the sheet waits again; one that waits is
   * thrown away with what was collected on it.
   */
  async cancel(id: string, person: Person): Promise<void> {
    const { state } = await findSheet(this.database, id, person);
    if (state === 'carrying out') await this.runner.cancel(id, state);
    else if (state !== 'done') {
      await this.database.transaction(async (manager) => {
        await manager.getRepository(Intake).update({ id, state }, { state: 'cancelled' });
        await manager.query('DELETE FROM intake_file WHERE intake_id = $1', [id]);
      });
      if (state === 'unpacking') await this.runner.cancel(id, state);
    }
  }

  private async open(id: string, person: Person): Promise<Intake> {
    const intake = await findSheet(this.database, id, person);
    if (intake.state !== 'collecting' && intake.state !== 'failed') {
      throw new ProblemError(
        'INTAKE_CLOSED',
        `This sheet is ${intake.state}. Start a new one for further files.`,
      );
    }
    return intake;
  }
}
