import { randomBytes } from 'node:crypto';
import { mkdir, readFile, rename, writeFile } from 'node:fs/promises';
import { dirname } from 'node:path';
import type { AccessService } from './access.service.js';

interface CliFile {
  readonly url: string;
  readonly token: string;
}

/** Login of the administrator whom the first start makes. */
export const ADMINISTRATOR = 'admin';

/** Makes an administrator in a store without people; the password is said once and kept nowhere. */
export async function ensureAdministrator(access: AccessService, say: (line: string) => void): Promise<void> {
  if (await access.hasPeople()) return;
  const password = randomBytes(9).toString('base64url');
  await access.ensurePerson({
    login: ADMINISTRATOR,
    name: 'Administrator',
    initials: 'AD',
    role: 'administrator',
    password,
  });
  say(`\n  Sign in as ${ADMINISTRATOR} with the password ${password} (it is not shown again).`);
}

/** Login of those who work on the machine that the server runs on, by the command line. */
export const COMMAND_LINE = 'command-line';
const TOKEN_MS = 30 * 24 * 60 * 60 * 1000;
/** A token that ends sooner than this is replaced at the next start. */
const RENEW_MS = TOKEN_MS / 2;

/**
 * Leaves address and token where the command line finds them, readable by the owner only. The token acts for somebody who
 * designs and administers nothing, and it ends; a sign-in by name (`stem signin`) leaves another one there.
 */
export async function provideTokenFor(access: AccessService, file: string, url: string): Promise<void> {
  const known = await readFile(file, 'utf8').then(
    (text) => JSON.parse(text) as CliFile,
    () => undefined,
  );
  const entry = known?.token ? await access.entryOf({ token: known.token, kind: 'program' }) : undefined;
  const endsMs = entry?.expiresAt?.getTime() ?? 0;
  const token = known && endsMs > Date.now() + RENEW_MS ? known.token : await makeToken(access);
  await mkdir(dirname(file), { recursive: true });
  await writeFile(`${file}.new`, `${JSON.stringify({ url, token } satisfies CliFile)}\n`, { mode: 0o600 });
  await rename(`${file}.new`, file);
}

async function makeToken(access: AccessService): Promise<string> {
  const person = await access.ensurePerson({
    login: COMMAND_LINE,
    name: 'Command line',
    initials: 'CL',
    role: 'engineer',
    // Nobody knows it, so that nobody signs in with it.
    password: randomBytes(32).toString('base64url'),
  });
  return access.issue({
    personId: person.id,
    kind: 'program',
    name: 'command line',
    expiresAt: new Date(Date.now() + TOKEN_MS),
  });
}
