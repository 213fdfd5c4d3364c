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

/**
 * Leaves address and token where the command line finds them, readable by the owner only. A token that still
 * works is kept. It acts for the administrator whom the first start made.
 */
export async function provideTokenFor(access: AccessService, file: string, url: string): Promise<void> {
  const administrator = await access.personByLogin(ADMINISTRATOR);
  if (!administrator) return;
  const known = await readFile(file, 'utf8').then(
    (text) => JSON.parse(text) as CliFile,
    () => undefined,
  );
  const works = known?.token ? await access.entryOf(known.token) : undefined;
  const token =
    known && works
      ? known.token
      : await access.issue({
          personId: administrator.id,
          kind: 'program',
          name: 'command line',
          expiresAt: null,
        });
  await mkdir(dirname(file), { recursive: true });
  await writeFile(`${file}.new`, `${JSON.stringify({ url, token } satisfies CliFile)}\n`, { mode: 0o600 });
  await rename(`${file}.new`, file);
}
