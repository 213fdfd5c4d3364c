import { Injectable } from '@nestjs/common';
import { hash } from '@node-rs/argon2';
import type { PasswordRequest, Preferences } from '@stem-trace/contract';
import { DataSource } from 'typeorm';
import { AccessService } from '../access/access.service.js';
import type { Person } from '../database/entities/person.js';
import { json, readRow } from '../database/read-rows.js';
import { record } from '../trail/record.js';

const USUAL: Preferences = {
  ...{ theme: 'system', density: 'usual', pictures: 'none', dates: 'said' },
  ...{ mass: 'kg', length: 'mm' },
};

/** What people change about themselves. */
@Injectable()
export class SelfService {
  constructor(
    private readonly database: DataSource,
    private readonly access: AccessService,
  ) {}

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
   * Changes the caller's password and ends their other browser sessions. Tokens of programs stay valid; they end under Settings.
   *
   * @param session token of the session that stays
   * @throws ProblemError SIGN_IN_FAILED if the current password is wrong, SIGN_IN_TOO_OFTEN after many wrong ones
   */
  async setPassword(
    { old, password }: PasswordRequest,
    person: Person,
    session: string | undefined,
  ): Promise<void> {
    await this.access.confirm(person, old);
    const passwordHash = await hash(password);
    await this.database.transaction(async (manager) => {
      await manager.query('UPDATE person SET password_hash = $2 WHERE id = $1', [person.id, passwordHash]);
      await this.access.endOtherSessions(manager, person, session);
      await record(manager, [
        { personId: person.id, kind: 'people', itemId: null, says: `${person.name} changed their password` },
      ]);
    });
  }
}
