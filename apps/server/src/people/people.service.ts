import { Injectable } from '@nestjs/common';
import { hash } from '@node-rs/argon2';
import type { NewPerson, PersonChange, PersonRow } from '@stem-trace/contract';
import { DataSource, type EntityManager } from 'typeorm';
import { Person } from '../database/entities/person.js';
import { record } from '../trail/record.js';
import { ProblemError } from '../problems/problem.js';

/** Who there is. Everybody knows the others' names; an administrator makes and changes people. */
@Injectable()
export class PeopleService {
  constructor(private readonly database: DataSource) {}

  async list(): Promise<PersonRow[]> {
    const people = await this.database.getRepository(Person).find({ order: { name: 'ASC' } });
    return people.map(rowOf);
  }

  /** @throws ProblemError NOT_ALLOWED, PERSON_TAKEN */
  async create({ password, ...about }: NewPerson, by: Person): Promise<PersonRow> {
    refuseOthers(by);
    const passwordHash = await hash(password);
    return this.database.transaction(async (manager) => {
      const people = manager.getRepository(Person);
      if (await people.existsBy({ login: about.login })) {
        throw new ProblemError(
          'PERSON_TAKEN',
          `There is a '${about.login}' already. Choose another name to sign in with.`,
        );
      }
      const made = await people.save(people.create({ ...about, passwordHash, isActive: true }));
      await tell(manager, `${by.name} made ${made.name} known as ${made.login}, ${made.role}`, by);
      return rowOf(made);
    });
  }

  /** @throws ProblemError NOT_ALLOWED, PERSON_UNKNOWN, INPUT_INVALID where no administrator would be left */
  async change({ login, password, ...about }: PersonChange, by: Person): Promise<PersonRow> {
    refuseOthers(by);
    const secret = password === undefined ? {} : { passwordHash: await hash(password) };
    return this.database.transaction(async (manager) => {
      const people = manager.getRepository(Person);
      // All administrators are locked, so that two of them cannot unseat each other at the same moment.
      await manager.query(`SELECT 1 FROM person WHERE role = 'administrator' FOR UPDATE`);
      const known = await people.findOneBy({ login });
      if (!known)
        throw new ProblemError('PERSON_UNKNOWN', `There is nobody called '${login}'. Nothing was changed.`);
      const changed = await people.save({ ...known, ...about, ...secret });
      if (!(await people.existsBy({ role: 'administrator', isActive: true })))
        throw new ProblemError('INPUT_INVALID', 'Somebody has to administer the store. Nothing was changed.');
      if (password !== undefined || about.isActive === false)
        await manager.query('DELETE FROM access_token WHERE person_id = $1', [known.id]);
      const said = [...sayChange(about), ...(password === undefined ? [] : ['a new password'])].join(', ');
      await tell(manager, `${by.name} changed ${known.name}: ${said}`, by);
      return rowOf(changed);
    });
  }
}

function refuseOthers({ role }: Person): void {
  if (role !== 'administrator')
    throw new ProblemError('NOT_ALLOWED', 'Only an administrator may change people. Nothing was changed.');
}

async function tell(manager: EntityManager, says: string, by: Person): Promise<void> {
  await record(manager, [{ personId: by.id, kind: 'people', itemId: null, says }]);
}

function sayChange({ isActive, ...about }: Omit<PersonChange, 'login' | 'password'>): string[] {
  const said = Object.entries(about).map(([member, value]) => `${member} ${value}`);
  return isActive === undefined ? said : [...said, isActive ? 'may sign in' : 'may not sign in any more'];
}

function rowOf({ login, name, initials, role, isActive }: Person): PersonRow {
  return { login, name, initials, role, isActive };
}
