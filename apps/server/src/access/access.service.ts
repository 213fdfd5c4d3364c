import { createHash, randomBytes } from 'node:crypto';
import { Injectable } from '@nestjs/common';
import { hash, verify } from '@node-rs/argon2';
import type { EntryRow, PersonView, Role, TokenRequest, TokenScope } from '@stem-trace/contract';
import { LRUCache } from 'lru-cache';
import { DataSource, Not, type EntityManager } from 'typeorm';
import { AccessToken } from '../database/entities/access-token.js';
import { Person } from '../database/entities/person.js';
import { flag, orNull, readRows, text, timeText, word } from '../database/read-rows.js';
import { Freshness } from '../feed/freshness.js';
import { record, recordQuietly } from '../trail/record.js';
import { ProblemError } from '../problems/problem.js';
import { COMMAND_LINE } from './first-start.js';
import { SignInLimits, type SignInOrigin } from './sign-in-limits.js';

const DAY_MS = 24 * 60 * 60 * 1000;
const SESSION_MS = DAY_MS / 2;
/** Entries that are kept in memory. */
const MOST_KEPT = 10_000;
/** Reading must not become writing: that a token was used is written at most this often. */
const NOTE_USE_MS = 60_000;

/** Verified against when there is no such login, so that the answer takes as long either way. */
const NOBODY = hash(randomBytes(16).toString('hex'));

export interface SignedIn {
  /** The session's token, to be kept in an httpOnly cookie. */
  readonly token: string;
  readonly expiresAt: Date;
  /** What the browser shows at the next sign-in, likewise. */
  readonly device: string;
  readonly person: PersonView;
}

/** A secret and how it was presented: a browser's session in its cookie, a program's token in the Authorization header. */
export interface Credential {
  readonly token: string;
  readonly kind: AccessToken['kind'];
}

/** Who a token acts for, and how far. */
export interface Entry {
  readonly kind: AccessToken['kind'];
  readonly person: Person;
  readonly scope: TokenScope;
  readonly expiresAt: Date | null;
}

interface KeptEntry {
  readonly mark: number;
  readonly entry: Entry | undefined;
}

/** Who is asking: sign-in with password, sessions, and tokens for programs. */
@Injectable()
export class AccessService {
  private readonly kept = new LRUCache<string, KeptEntry>({ max: MOST_KEPT });
  private readonly usedAt = new LRUCache<string, number>({ max: MOST_KEPT });

  constructor(
    private readonly database: DataSource,
    private readonly limits: SignInLimits,
    private readonly freshness: Freshness,
  ) {}

  /** @throws ProblemError SIGN_IN_FAILED, SIGN_IN_TOO_OFTEN */
  async signIn(login: string, password: string, origin: SignInOrigin): Promise<SignedIn> {
    await this.limits.count(login, origin);
    const person = await this.database.getRepository(Person).findOneBy({ login });
    const matches = await verify(person?.passwordHash ?? (await NOBODY), password);
    if (!person || !matches || !person.isActive) {
      // Not waited for, so that the answer tells nobody by its time whether there is such a name.
      if (person)
        void this.tell(person, `Signing in as ${person.login} failed, from ${origin.address}`).catch(
          () => undefined,
        );
      throw new ProblemError('SIGN_IN_FAILED', 'Wrong name or password. Check both and try again.');
    }
    const device = await this.limits.succeeded(login, person.id, origin);
    const expiresAt = new Date(Date.now() + SESSION_MS);
    const token = await this.issue({ personId: person.id, kind: 'session', name: 'browser', expiresAt });
    await this.tell(person, `${person.name} signed in from ${origin.address}`);
    return { token, expiresAt, device, person: viewOf(person) };
  }

  /**
   * Whether it is the person who acts, not somebody at a browser that was left open.
   *
   * @throws ProblemError SIGN_IN_FAILED, SIGN_IN_TOO_OFTEN
   */
  async confirm({ id, login }: Person, password: string): Promise<void> {
    await this.limits.countConfirming(login);
    const known = await this.database.getRepository(Person).findOneBy({ id, isActive: true });
    if (!known || !(await verify(known.passwordHash, password)))
      throw new ProblemError('SIGN_IN_FAILED', 'The password is wrong. Nothing was changed; try again.');
    await this.limits.confirmed(login);
  }

  private async tell({ id }: Person, says: string): Promise<void> {
    await recordQuietly(this.database.manager, [{ personId: id, kind: 'sign in', itemId: null, says }]);
  }

  /** @returns undefined if the token is unknown, has expired, or is of the other kind */
  async entryOf({ token, kind }: Credential): Promise<Entry | undefined> {
    const tokenHash = hashOf(token);
    const key = tokenHash.toString('base64');
    const mark = this.freshness.mark('access');
    const known = this.kept.get(key);
    const entry = known && known.mark === mark ? known.entry : await this.loadEntry(tokenHash);
    if (mark !== undefined && known?.mark !== mark) this.kept.set(key, { mark, entry });
    // A program's token sent as a cookie must not act as a browser, nor the reverse.
    if (entry?.kind !== kind) return undefined;
    return entry.expiresAt && entry.expiresAt.getTime() < Date.now() ? undefined : entry;
  }

  private async loadEntry(tokenHash: Buffer): Promise<Entry | undefined> {
    const found = await this.database.getRepository(AccessToken).findOne({
      where: { tokenHash },
      relations: { person: true },
    });
    if (!found?.person.isActive) return undefined;
    const { person, kind, scope, expiresAt } = found;
    return { person, kind, scope, expiresAt };
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
    return readRows<EntryRow>(
      this.database,
      {
        id: text,
        login: text,
        kind: word<EntryRow['kind']>(),
        name: text,
        scope: word<EntryRow['scope']>(),
        since: timeText,
        usedAt: orNull(timeText),
        expiresAt: orNull(timeText),
        isThis: flag,
      },
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
      const [entry] = await readRows(
        manager,
        { name: text, kind: text, login: text },
        `DELETE FROM access_token t USING person p WHERE p.id = t.person_id AND t.id = $1 AND (t.person_id = $2 OR $3)
         RETURNING t.name, t.kind, p.login`,
        [id, person.id, person.role === 'administrator'],
      );
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

  /** Notes that a token was used. */
  async noteUse(token: string): Promise<void> {
    const tokenHash = hashOf(token);
    const key = tokenHash.toString('base64');
    if (Date.now() - (this.usedAt.get(key) ?? 0) < NOTE_USE_MS) return;
    this.usedAt.set(key, Date.now());
    await this.database.query('UPDATE access_token SET used_at = now() WHERE token_hash = $1', [tokenHash]);
  }

  /** Whether anybody may sign in. */
  async hasPeople(): Promise<boolean> {
    return this.database.getRepository(Person).existsBy({ isActive: true, login: Not(COMMAND_LINE) });
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

  /** Ends the browser sessions of a person, except the one given. */
  async endOtherSessions(manager: EntityManager, { id }: Person, session: string | undefined): Promise<void> {
    await manager.query(
      `DELETE FROM access_token WHERE person_id = $1 AND kind = 'session' AND token_hash IS DISTINCT FROM $2`,
      [id, session === undefined ? null : hashOf(session)],
    );
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
}

export function viewOf({ login, name, initials, role }: Person): PersonView {
  return { login, name, initials, role };
}

function hashOf(token: string): Buffer {
  return createHash('sha256').update(token).digest();
}
