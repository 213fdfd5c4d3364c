/** A working copy on the disk: what was fetched, and what lies there now. */
import { createHash } from 'node:crypto';
import { mkdir, readFile, rename, rm, stat, writeFile } from 'node:fs/promises';
import { dirname, join, resolve, sep } from 'node:path';
import {
  isOfDesign,
  MANIFEST_NAME,
  type FetchManifest,
  type FetchPlanAnswer,
  type LensText,
} from '@stem-trace/contract';
import type { DiskFiles } from '@stem-trace/core';
import { CliError, type Client } from './client.js';
import { filesIn } from './files.js';

/** Remembers sizes and times of files with their hashes, so that only what was written since is read again. */
const SEEN_NAME = '.stem-trace-seen.json';
/** A manifest of an update that has begun and not ended. */
const COMING_NAME = '.stem-trace-coming.json';
/** What the command line itself leaves in a working copy. */
export const OWN_NAMES: ReadonlySet<string> = new Set([MANIFEST_NAME, SEEN_NAME, COMING_NAME]);

/** Times of some file systems are this coarse: what was written so shortly before it was seen may have been written again. */
const COARSE_MS = 2000;
const READ_AT_A_TIME = 16;

interface Seen {
  readonly size: number;
  readonly mtimeMs: number;
  readonly sha256: string;
  readonly seenAt: number;
}

export interface WorkingCopyOnDisk {
  readonly folder: string;
  readonly manifest: FetchManifest;
  /** All design files below it: none of the command line's own, nor issued ones that were fetched. */
  readonly disk: DiskFiles;
}

/** @throws CliError where the folder is no working copy */
export async function readWorkingCopy(folder: string): Promise<WorkingCopyOnDisk> {
  const manifest = await readManifest(folder);
  const paths = (await filesIn(folder)).filter((path) => !OWN_NAMES.has(path) && isOfDesign(path, manifest));
  const disk = await hashesOf(folder, paths);
  return { folder, manifest: await withComing(folder, manifest, disk), disk };
}

export async function readManifest(folder: string): Promise<FetchManifest> {
  const text = await readFile(join(folder, MANIFEST_NAME), 'utf8').catch(() => {
    throw new CliError(
      `${folder} is not a working copy: it has no ${MANIFEST_NAME}. Fetch one, or bring files in with 'intake'.`,
    );
  });
  const manifest = parsed<FetchManifest>(text);
  if (!Array.isArray(manifest?.files))
    throw new CliError(`${join(folder, MANIFEST_NAME)} is not readable. Fetch the working copy again.`);
  return manifest;
}

/** Hashes of files; what has the size and time that it was last seen with is not read. */
async function hashesOf(folder: string, paths: readonly string[]): Promise<Map<string, string>> {
  const file = join(folder, SEEN_NAME);
  const known = parsed<Record<string, Seen>>(await readFile(file, 'utf8').catch(() => '')) ?? {};
  const seen: Record<string, Seen> = {};
  let next = 0;
  let isNew = false;
  const worker = async (): Promise<void> => {
    for (let path = paths[next++]; path !== undefined; path = paths[next++]) {
      const { size, mtimeMs } = await stat(join(folder, path));
      const before = known[path];
      const isCertain =
        before?.size === size && before.mtimeMs === mtimeMs && mtimeMs < before.seenAt - COARSE_MS;
      if (!isCertain) isNew = true;
      seen[path] = isCertain
        ? before
        : { size, mtimeMs, sha256: await hashOf(join(folder, path)), seenAt: Date.now() };
    }
  };
  await Promise.all(Array.from({ length: READ_AT_A_TIME }, worker));
  // Where it cannot be kept, the next look takes longer; nothing else comes of it.
  if (isNew) await writeFile(file, JSON.stringify(seen)).catch(() => undefined);
  return new Map(paths.map((path) => [path, seen[path]?.sha256 ?? '']));
}

async function hashOf(file: string): Promise<string> {
  return createHash('sha256')
    .update(await readFile(file))
    .digest('hex');
}

/** What a broken-off update has written already counts as fetched. */
async function withComing(folder: string, manifest: FetchManifest, disk: DiskFiles): Promise<FetchManifest> {
  const coming = parsed<FetchManifest>(await readFile(join(folder, COMING_NAME), 'utf8').catch(() => ''));
  if (!Array.isArray(coming?.files)) return manifest;
  const written = coming.files.filter(({ path, sha256 }) => disk.get(path) === sha256);
  const numbers = new Set(written.map(({ items }) => items[0]?.number));
  const paths = new Set(written.map(({ path }) => path));
  const files = manifest.files.filter(
    ({ path, items }) => !paths.has(path) && !numbers.has(items[0]?.number),
  );
  return { ...manifest, files: [...files, ...written] };
}

/**
 * Puts files in their places and takes others away. Each file is there whole or not at all, and a broken-off update is gone
 * on with by the next.
 *
 * @throws CliError for a path outside of the folder; nothing is written then
 */
export async function changeWorkingCopy(
  folder: string,
  manifest: FetchManifest,
  { write, remove }: { readonly write: ReadonlyMap<string, Uint8Array>; readonly remove: readonly string[] },
): Promise<void> {
  for (const path of [...write.keys(), ...remove]) placeIn(folder, path);
  const text = `${JSON.stringify(manifest, null, 2)}\n`;
  await replaceFile(join(folder, COMING_NAME), text);
  for (const [path, bytes] of write) await replaceFile(placeIn(folder, path), bytes);
  for (const path of remove) await rm(placeIn(folder, path), { force: true });
  await replaceFile(join(folder, MANIFEST_NAME), text);
  await rm(join(folder, COMING_NAME), { force: true });
}

/** What was checked in is in the store as it lies here: from now on it counts as fetched. */
export async function takeAsFetched(
  plan: FetchPlanAnswer,
  { folder, manifest, disk }: WorkingCopyOnDisk,
  paths: readonly string[],
): Promise<void> {
  const cameIn = new Set(paths);
  const now = new Map(plan.files.map(({ items }) => [items[0]?.number, items]));
  const files = manifest.files.map((file) => {
    const items = now.get(file.items[0]?.number);
    const sha256 = disk.get(file.path);
    if (!cameIn.has(file.path) || !items || sha256 === undefined) return file;
    return {
      ...file,
      sha256,
      stored: sha256,
      items: items.map(({ number, version }) => ({ number, version })),
    };
  });
  await changeWorkingCopy(folder, { ...manifest, files }, { write: new Map(), remove: [] });
}

/** A path of a manifest or an archive, which anybody may have written. @throws CliError */
function placeIn(folder: string, path: string): string {
  const target = resolve(folder, path);
  if (!target.startsWith(resolve(folder) + sep))
    throw new CliError(`'${path}' would lie outside ${folder}; nothing was written.`);
  return target;
}

async function replaceFile(target: string, content: string | Uint8Array): Promise<void> {
  await mkdir(dirname(target), { recursive: true });
  const beside = `${target}.stem-trace-part`;
  await writeFile(beside, content);
  await rename(beside, target);
}

function parsed<T>(text: string): T | undefined {
  try {
    return JSON.parse(text) as T;
  } catch {
    return undefined;
  }
}

/** Under which lens a working copy is compared and updated: what was fetched as recorded follows the newest. */
export function lensOf({ lens }: FetchManifest): LensText {
  const [versions = '', ...rest] = lens.split(' in ');
  return [versions === 'recorded' ? 'newest' : versions, ...rest].join(' in ');
}

/** What the store would hand out in its stead now. */
export function planFor(
  client: Client,
  manifest: FetchManifest,
  drawings: boolean,
): Promise<FetchPlanAnswer> {
  return client.get('/api/fetch/plan', { item: manifest.item, lens: lensOf(manifest), drawings });
}

/** Whether drawings were fetched along: then they are looked for again. */
export function hasDrawings({ drawings, files, root }: FetchManifest): boolean {
  if (drawings !== undefined) return drawings;
  const referred = new Set(files.flatMap(({ references = [] }) => references.map(({ number }) => number)));
  return files.some(({ path, items }) => path !== root && items.every(({ number }) => !referred.has(number)));
}
