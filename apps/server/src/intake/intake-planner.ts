import { Injectable } from '@nestjs/common';
import { guardPlan, type IntakeFile, type IntakePlan } from '@stem-trace/core';
import type { EntityManager } from 'typeorm';
import { RightsService } from '../access/rights.service.js';
import { orNull, readRows, text } from '../database/read-rows.js';
import { holdsOf, type StoredHold } from '../store/holds.js';
import { IntakeFileRow, type Intake } from '../database/entities/intake.js';
import type { Person } from '../database/entities/person.js';
import { SettingsService } from '../settings/settings.service.js';
import { lockItems } from '../store/turn.js';
import { planAgainstStore } from './intake-store.js';
import { workingCopyOf } from './intake-view.js';
import { stateBook } from '../database/state-book.js';

export interface PlanInput {
  readonly files: readonly IntakeFile[];
  readonly person: Person;
}

/** Works out what a sheet would do: for the review, and again inside the transaction that carries it out. */
@Injectable()
export class IntakePlanner {
  constructor(
    private readonly rights: RightsService,
    private readonly settings: SettingsService,
  ) {}

  async filesOf({ id, manifest }: Intake, manager: EntityManager): Promise<IntakeFile[]> {
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

  async plan(intake: Intake, input: PlanInput, manager: EntityManager): Promise<IntakePlan> {
    return (await this.work(intake, input, manager)).plan;
  }

  /**
   * As `plan`, to be carried out in the same transaction: nobody takes, lets go or steps what gets a new version until it
   * ends. Custody does not wait for the store's turn, so it is looked at again once it can no longer change.
   */
  async planToWrite(intake: Intake, input: PlanInput, manager: EntityManager): Promise<IntakePlan> {
    for (;;) {
      const { plan, holds } = await this.work(intake, input, manager);
      const changing = plan.rows.flatMap(({ status }) => (status.kind === 'newVersion' ? [status.of] : []));
      await lockItems(
        manager,
        changing.map(({ id }) => id),
      );
      const now = await readRows(
        manager,
        { id: text, state: text, holder: orNull(text) },
        `SELECT i.id, i.state, h.person_id AS holder FROM item i LEFT JOIN hold h ON h.item_id = i.id
         WHERE i.id = ANY($1::bigint[])`,
        [changing.map(({ id }) => id)],
      );
      const states = new Map(changing.map(({ id, state }) => [id, state]));
      const isAsPlanned = now.every(
        ({ id, state, holder }) => states.get(id) === state && (holds.get(id)?.personId ?? null) === holder,
      );
      if (isAsPlanned) return plan;
    }
  }

  private async work(
    intake: Intake,
    { files, person }: PlanInput,
    manager: EntityManager,
  ): Promise<{ plan: IntakePlan; holds: ReadonlyMap<string, StoredHold> }> {
    const rights = await this.rights.of(person, manager);
    const plan = await planAgainstStore(manager, rights, {
      files,
      place: intake.place,
      prefix: intake.prefix,
      corrections: new Map(Object.entries(intake.corrections)),
      overwrite: new Set(intake.overwrite),
      ...(intake.manifest ? { workingCopy: workingCopyOf(intake.manifest) } : {}),
      titleBlock: await this.settings.titleBlock(manager),
    });
    const holds = await holdsOf(
      manager,
      plan.rows.flatMap(({ status }) =>
        status.kind === 'newVersion' ? [status.of.id, ...(status.of.carrier ? [status.of.carrier] : [])] : [],
      ),
    );
    const guarded = guardPlan(plan, {
      states: await stateBook(manager),
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
    return { plan: guarded, holds };
  }
}
