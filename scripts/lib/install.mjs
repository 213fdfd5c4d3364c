// Installs what is missing: npm packages from the lock file, programs from Debian's packages.
import { existsSync, mkdirSync, readdirSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { Advice, ROOT, run } from './run.mjs';

/** npm packages, when there are none or the lock file is newer than they are. */
export async function ensurePackages() {
  const installed = join(ROOT, 'node_modules/.package-lock.json');
  if (
    existsSync(installed) &&
    statSync(installed).mtimeMs >= statSync(join(ROOT, 'package-lock.json')).mtimeMs
  )
    return;
  console.log('Installing npm packages …');
  await run('npm', ['ci', '--no-audit', '--no-fund', '--loglevel=error']);
}

/** Folder of PostgreSQL's programs; Debian keeps them out of the path. */
export async function ensurePostgres() {
  const find = () => {
    const base = '/usr/lib/postgresql';
    const versions = existsSync(base) ? readdirSync(base).sort((a, b) => Number(b) - Number(a)) : [];
    return versions
      .map((version) => join(base, version, 'bin'))
      .find((bin) => existsSync(join(bin, 'initdb')));
  };
  const found = find();
  if (found) return found;
  // Debian would set up and start a cluster of its own on installing; ours is private, so none is wanted.
  if (isRoot() && !existsSync('/etc/postgresql-common/createcluster.conf')) {
    mkdirSync('/etc/postgresql-common', { recursive: true });
    writeFileSync('/etc/postgresql-common/createcluster.conf', 'create_main_cluster = false\n');
  }
  await installDebian('postgresql', 'PostgreSQL');
  const now = find();
  if (!now) throw new Advice('PostgreSQL was installed, but its programs are not under /usr/lib/postgresql.');
  return now;
}

/** Path of Chromium. */
export async function ensureChromium() {
  const path = '/usr/bin/chromium';
  if (!existsSync(path)) await installDebian('chromium', 'Chromium');
  if (!existsSync(path)) throw new Advice(`Chromium was installed, but is not at ${path}.`);
  return path;
}

/** A program or library of a Debian package, by a path that it brings. */
export async function ensureDebian(path, name, title) {
  if (existsSync(path)) return;
  await installDebian(name, title);
  if (!existsSync(path)) throw new Advice(`${name} was installed, but ${path} is not there.`);
}

export function isRoot() {
  return process.getuid?.() === 0;
}

async function installDebian(name, title) {
  const command = `apt-get update && apt-get install -y --no-install-recommends ${name}`;
  if (!isRoot())
    throw new Advice(
      `${title} is missing and this user may not install it. Run this, then try again:\n  sudo sh -c '${command}'`,
    );
  console.log(`Installing ${title} …`);
  await run('sh', ['-c', command], {
    quiet: true,
    env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' },
  });
}
