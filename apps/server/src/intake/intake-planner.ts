import { Injectable } from '@nestjs/common';
import { guardPlan, type IntakeFile, type IntakePlan } from '@stem-trace/core';
import type { EntityManager } from 'typeorm';
import { RightsService } from '../access/rights.service.js';
import { holdsOf } from '../custody/holds.js';
import { IntakeFileRow, type Intake } from '../database/entities/intake.js';
import type { Person } from '../database/entities/person.js';
import { SettingsService } from '../settings/settings.service.js';
import { planAgainstStore } from './intake-store.js';
import { workingCopyOf } from './intake-view.js';

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

  async plan(
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
      overwrite: new Set(intake.overwrite),
      ...(intake.manifest ? { workingCopy: workingCopyOf(intake.manifest) } : {}),
      titleBlock: await this.settings.titleBlock(manager),
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
}
