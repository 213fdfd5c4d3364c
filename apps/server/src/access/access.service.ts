import { createHash, randomBytes } from 'node:crypto';
import { Injectable } from '@nestjs/common';
import { hash, verify } from '@node-rs/argon2';
import type { PersonView, Role } from '@stem-trace/contract';
import { DataSource } from 'typeorm';
import { AccessToken } from '../database/entities/access-token.js';
import { Person } from '../database/entities/person.js';
import { ProblemError } from '../problems/problem.js';

const SESSION_MS = 12 * 60 * 60 * 1000;
const MAX_FAILURES = 10;
const FAILURE_WINDOW = '15 minutes';

/** Verified against when there is no such login, so that the answer takes as long either way. */
const NOBODY = hash(randomBytes(16).toString('hex'));

/** Who is asking: sign-in with password, sessions, and tokens for programs. */
@Injectable()
export class AccessService {
  constructor(private readonly database: DataSource) {}

  /** @returns the session's token, to be kept in an httpOnly cookie */
  async signIn(
    login: string,
    password: string,
  ): Promise<{ token: string; expiresAt: Date; person: PersonView }> {
    await this.refuseTooManyFailures(login);
    const person = await this.database.getRepository(Person).findOneBy({ login });
    const matches = await verify(person?.passwordHash ?? (await NOBODY), password);
    if (!person || !matches) {
      await this.database.query('INSERT INTO sign_in_failure (login) VALUES ($1)', [login]);
      throw new ProblemError(
        'SIGN_IN_FAILED',
        'Name and password do not belong together. Check both and try again.',
      );
    }
    await this.database.query('DELETE FROM sign_in_failure WHERE login = $1', [login]);
    const expiresAt = new Date(Date.now() + SESSION_MS);
    const token = await this.issue({ personId: person.id, kind: 'session', name: 'browser', expiresAt });
    return { token, expiresAt, person: viewOf(person) };
  }

  async personOf(token: string): Promise<Person | undefined> {
    const found = await this.database.getRepository(AccessToken).findOne({
      where: { tokenHash: hashOf(token) },
      relations: { person: true },
    });
    if (!found || (found.expiresAt && found.expiresAt.getTime() < Date.now())) return undefined;
    return found.person;
  }

  async hasPeople(): Promise<boolean> {
    return this.database.getRepository(Person).exists();
  }

  async personByLogin(login: string): Promise<Person | null> {
    return this.database.getRepository(Person).findOneBy({ login });
  }

  async issue(token: {
    personId: string;
    kind: 'session' | 'program';
    name: string;
    expiresAt: Date | null;
  }): Promise<string> {
    const secret = `st_${randomBytes(32).toString('base64url')}`;
    await this.database.getRepository(AccessToken).insert({ ...token, tokenHash: hashOf(secret) });
    return secret;
  }

  async end(token: string): Promise<void> {
    await this.database.getRepository(AccessToken).delete({ tokenHash: hashOf(token) });
  }

  /** Makes a person, or gives back the one there is; the password of an existing one stays. */
  async ensurePerson(person: {
    login: string;
    name: string;
    initials: string;
    role: Role;
    password: string;
  }): Promise<Person> {
    const people = this.database.getRepository(Person);
    const known = await people.findOneBy({ login: person.login });
    if (known) return known;
    const { password, ...rest } = person;
    return people.save(people.create({ ...rest, passwordHash: await hash(password) }));
  }

  private async refuseTooManyFailures(login: string): Promise<void> {
    await this.database.query(`DELETE FROM sign_in_failure WHERE at < now() - interval '${FAILURE_WINDOW}'`);
    const [row]: { count: string }[] = await this.database.query(
      'SELECT count(*) FROM sign_in_failure WHERE login = $1',
      [login],
    );
    if (Number(row?.count ?? 0) >= MAX_FAILURES) {
      throw new ProblemError(
        'SIGN_IN_TOO_OFTEN',
        `Signing in as '${login}' failed ${MAX_FAILURES} times. Wait ${FAILURE_WINDOW} and try again.`,
      );
    }
  }
}

export function viewOf({ login, name, initials, role }: Person): PersonView {
  return { login, name, initials, role };
}

function hashOf(token: string): Buffer {
  return createHash('sha256').update(token).digest();
}
