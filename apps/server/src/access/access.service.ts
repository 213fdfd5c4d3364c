import { createHash, randomBytes } from 'node:crypto';
import { Injectable } from '@nestjs/common';
import { hash, verify } from '@node-rs/argon2';
import type { EntryRow, PersonView, Role, TokenRequest, TokenScope } from '@stem-trace/contract';
import { DataSource } from 'typeorm';
import { AccessToken } from '../database/entities/access-token.js';
import { Person } from '../database/entities/person.js';
import { record } from '../notices/record.js';
import { ProblemError } from '../problems/problem.js';

const DAY_MS = 24 * 60 * 60 * 1000;
const SESSION_MS = DAY_MS / 2;
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
    if (!person || !matches || !person.isActive) {
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

  /** Who a token acts for, and how far. */
  async entryOf(token: string): Promise<{ person: Person; scope: TokenScope } | undefined> {
    const found = await this.database.getRepository(AccessToken).findOne({
      where: { tokenHash: hashOf(token) },
      relations: { person: true },
    });
    if (!found?.person.isActive) return undefined;
    if (found.expiresAt && found.expiresAt.getTime() < Date.now()) return undefined;
    return { person: found.person, scope: found.scope };
  }

  /** A token for a program that acts for a person. */
  async issueFor(person: Person, { name, scope, days }: TokenRequest): Promise<string> {
    const expiresAt = days === null ? null : new Date(Date.now() + days * DAY_MS);
    const token = await this.issue({ personId: person.id, kind: 'program', name, scope, expiresAt });
    const reach = scope === 'read' ? 'to read' : 'for everything';
    await record(this.database.manager, [
      {
        personId: person.id,
        kind: 'token',
        itemId: null,
        says: `${person.name} made the token '${name}', ${reach}, ${days === null ? 'without end' : `for ${days} days`}`,
      },
    ]);
    return token;
  }

  /** Browsers and programs that come in as a person, or as anybody. */
  async entries(person: Person | undefined, token: string | undefined): Promise<EntryRow[]> {
    return this.database.query(
      `SELECT t.id, p.login, t.kind, t.name, t.scope, t.created_at AS since, t.used_at AS "usedAt",
              t.expires_at AS "expiresAt", coalesce(t.token_hash = $2, false) AS "isThis"
       FROM access_token t JOIN person p ON p.id = t.person_id
       WHERE ($1::bigint IS NULL OR t.person_id = $1) AND (t.expires_at IS NULL OR t.expires_at > now())
       ORDER BY p.login, t.created_at DESC`,
      [person?.id ?? null, token === undefined ? null : hashOf(token)],
    );
  }

  /** Ends one's own entry; an administrator anybody's. @throws ProblemError ENTRY_UNKNOWN */
  async endEntry(id: string, person: Person): Promise<void> {
    await this.database.transaction(async (manager) => {
      const [ended]: [{ name: string; kind: string; login: string }[], number] = await manager.query(
        `DELETE FROM access_token t USING person p WHERE p.id = t.person_id AND t.id = $1 AND (t.person_id = $2 OR $3)
         RETURNING t.name, t.kind, p.login`,
        [id, person.id, person.role === 'administrator'],
      );
      const [entry] = ended;
      if (!entry)
        throw new ProblemError(
          'ENTRY_UNKNOWN',
          'There is no such session or token of yours. Look at the list again.',
        );
      await record(manager, [
        {
          personId: person.id,
          kind: 'token',
          itemId: null,
          says: `${person.name} ended the ${entry.kind} '${entry.name}' of ${entry.login}`,
        },
      ]);
    });
  }

  /** Notes that a token was used, at most once a minute, so that reading does not become writing. */
  async noteUse(token: string): Promise<void> {
    await this.database.query(
      `UPDATE access_token SET used_at = now()
       WHERE token_hash = $1 AND (used_at IS NULL OR used_at < now() - interval '1 minute')`,
      [hashOf(token)],
    );
  }

  /** Whether anybody may sign in. */
  async hasPeople(): Promise<boolean> {
    return this.database.getRepository(Person).existsBy({ isActive: true });
  }

  async personByLogin(login: string): Promise<Person | null> {
    return this.database.getRepository(Person).findOneBy({ login });
  }

  async issue(token: {
    personId: string;
    kind: 'session' | 'program';
    name: string;
    expiresAt: Date | null;
    scope?: TokenScope;
  }): Promise<string> {
    const secret = `st_${randomBytes(32).toString('base64url')}`;
    await this.database
      .getRepository(AccessToken)
      .insert({ scope: 'all', ...token, tokenHash: hashOf(secret) });
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
    return people.save(people.create({ ...rest, isActive: true, passwordHash: await hash(password) }));
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
