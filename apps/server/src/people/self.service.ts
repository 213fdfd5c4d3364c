import { Injectable } from '@nestjs/common';
import { hash, verify } from '@node-rs/argon2';
import type { PasswordRequest, Preferences } from '@stem-trace/contract';
import { DataSource } from 'typeorm';
import type { Person } from '../database/entities/person.js';
import { json, readRow, text } from '../database/read-rows.js';
import { record } from '../trail/record.js';
import { ProblemError } from '../problems/problem.js';

const USUAL: Preferences = {
  ...{ theme: 'system', density: 'usual', pictures: 'none', dates: 'said' },
  ...{ mass: 'kg', length: 'mm' },
};

/** What people change about themselves. */
@Injectable()
export class SelfService {
  constructor(private readonly database: DataSource) {}

  async preferences(person: Person): Promise<Preferences> {
    const { preferences } = await readRow(
      this.database,
      { preferences: json<Partial<Preferences>>() },
      'SELECT preferences FROM person WHERE id = $1',
      [person.id],
    );
    return { ...USUAL, ...preferences };
  }

  async setPreferences(preferences: Preferences, person: Person): Promise<Preferences> {
    await this.database.query('UPDATE person SET preferences = $2 WHERE id = $1', [
      person.id,
      JSON.stringify(preferences),
    ]);
    return preferences;
  }

  /**
   * Another password. Sessions and tokens that there are go on: whoever fears for them ends them in the settings.
   *
   * @throws ProblemError SIGN_IN_FAILED where the old one is not right
   */
  async setPassword({ old, password }: PasswordRequest, person: Person): Promise<void> {
    const { known } = await readRow(
      this.database,
      { known: text },
      'SELECT password_hash AS known FROM person WHERE id = $1',
      [person.id],
    );
    if (!(await verify(known, old)))
      throw new ProblemError('INPUT_INVALID', 'The current password is not right. Nothing was changed.');
    const passwordHash = await hash(password);
    await this.database.transaction(async (manager) => {
      await manager.query('UPDATE person SET password_hash = $2 WHERE id = $1', [person.id, passwordHash]);
      await record(manager, [
        { personId: person.id, kind: 'people', itemId: null, says: `${person.name} changed their password` },
      ]);
    });
  }
}
