import { createHash, randomBytes } from 'node:crypto';
import { Injectable } from '@nestjs/common';
import { DataSource } from 'typeorm';
import { number, readRows, text } from '../database/read-rows.js';
import { ProblemError } from '../problems/problem.js';

/** Where a sign-in comes from. */
export interface SignInOrigin {
  readonly address: string;
  /** What a browser was given at an earlier sign-in. */
  readonly device?: string;
}

const WINDOW_MINUTES = 15;
const DEVICE_DAYS = 180;
/** Attempts within the window. */
const MOST = { pair: 10, address: 100, device: 10 } as const;

/**
 * Counts attempts to sign in, before the password is looked at, so that any number at once is counted too. A name is
 * counted together with the address that it is tried from, so that nobody is locked out by attempts from elsewhere; and a
 * browser in which somebody has signed in before is counted by itself, so that not even a neighbour at the same address
 * locks them out of it.
 */
@Injectable()
export class SignInLimits {
  constructor(private readonly database: DataSource) {}

  /** @throws ProblemError SIGN_IN_TOO_OFTEN */
  async count(login: string, { address, device }: SignInOrigin): Promise<void> {
    const known = device === undefined ? undefined : await this.knownDevice(login, device);
    const counted: (readonly [key: string, most: number])[] = known
      ? [[`device ${known}`, MOST.device]]
      : [
          [pairKey(login, address), MOST.pair],
          [`address ${address}`, MOST.address],
        ];
    if (await this.isWithin(counted)) return;
    throw new ProblemError(
      'SIGN_IN_TOO_OFTEN',
      `There were too many attempts to sign in as '${login}' from here. Wait ${WINDOW_MINUTES} minutes and try again.`,
    );
  }

  /**
   * Counts attempts to confirm a password inside a session: to sign, or to change the password. Guessing at a session that
   * somebody left open is limited like guessing at sign-in.
   *
   * @throws ProblemError SIGN_IN_TOO_OFTEN
   */
  async countConfirming(login: string): Promise<void> {
    if (await this.isWithin([[confirmingKey(login), MOST.pair]])) return;
    throw new ProblemError(
      'SIGN_IN_TOO_OFTEN',
      `There were too many attempts with a wrong password. Wait ${WINDOW_MINUTES} minutes and try again. Nothing was changed.`,
    );
  }

  async confirmed(login: string): Promise<void> {
    await this.database.query('DELETE FROM sign_in_attempt WHERE key = $1', [confirmingKey(login)]);
  }

  private async isWithin(counted: readonly (readonly [key: string, most: number])[]): Promise<boolean> {
    const rows = await readRows(
      this.database,
      { key: text, points: number },
      `INSERT INTO sign_in_attempt AS a (key, points, until)
       SELECT key, 1, now() + interval '${WINDOW_MINUTES} minutes' FROM unnest($1::text[]) AS key
       ON CONFLICT (key) DO UPDATE SET
         points = CASE WHEN a.until < now() THEN 1 ELSE a.points + 1 END,
         until = CASE WHEN a.until < now() THEN excluded.until ELSE a.until END
       RETURNING key, points`,
      [counted.map(([key]) => key)],
    );
    const points = new Map(rows.map((row) => [row.key, row.points]));
    return counted.every(([key, most]) => (points.get(key) ?? 0) <= most);
  }

  /**
   * Forgets the attempts of one who got in.
   *
   * @returns what the browser shows at the next sign-in
   */
  async succeeded(login: string, personId: string, { address, device }: SignInOrigin): Promise<string> {
    const known = device === undefined ? undefined : await this.knownDevice(login, device);
    await this.database.query('DELETE FROM sign_in_attempt WHERE key = ANY($1::text[]) OR until < now()', [
      [pairKey(login, address), ...(known === undefined ? [] : [`device ${known}`])],
    ]);
    if (device !== undefined && known !== undefined) return device;
    const secret = randomBytes(24).toString('base64url');
    await this.database.query(
      `WITH old AS (DELETE FROM sign_in_device WHERE until < now())
       INSERT INTO sign_in_device (token_hash, person_id, until) VALUES ($1, $2, now() + interval '${DEVICE_DAYS} days')`,
      [hashOf(secret), personId],
    );
    return secret;
  }

  /** The key of a device in which the person with this name has signed in before. */
  private async knownDevice(login: string, device: string): Promise<string | undefined> {
    const [row] = await readRows(
      this.database,
      { id: text },
      `SELECT encode(d.token_hash, 'hex') AS id FROM sign_in_device d JOIN person p ON p.id = d.person_id
       WHERE d.token_hash = $1 AND p.login = $2 AND d.until > now()`,
      [hashOf(device), login],
    );
    return row?.id;
  }
}

/** Names may hold anything, an address does not hold a space. */
function pairKey(login: string, address: string): string {
  return `pair ${address} ${login}`;
}

function confirmingKey(login: string): string {
  return `confirming ${login}`;
}

function hashOf(secret: string): Buffer {
  return createHash('sha256').update(secret).digest();
}
