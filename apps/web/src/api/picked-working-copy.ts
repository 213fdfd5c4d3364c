import { isOfDesign, MANIFEST_NAME, type FetchManifest } from '@stem-trace/contract';
import type { PickedFile } from './picked-files.js';

export interface PickedWorkingCopy {
  readonly manifest: FetchManifest;
  /** Files whose content is not what was fetched, and those that are new. */
  readonly changed: readonly PickedFile[];
  readonly unchanged: number;
}

/** What of the picked files is a working copy that comes back; undefined where they are not one. */
export async function readWorkingCopy(picked: readonly PickedFile[]): Promise<PickedWorkingCopy | undefined> {
  const own = picked.find(({ path }) => path === MANIFEST_NAME);
  if (!own) return undefined;
  const manifest = JSON.parse(await own.file.text()) as FetchManifest;
  const files = picked.filter((file) => file !== own && isOfDesign(file.path, manifest));
  const fetched = new Map(manifest.files.map(({ path, sha256 }) => [path, sha256]));
  const hashes = await hashAll(files.map(({ file }) => file));
  const changed = files.filter(({ path }, index) => fetched.get(path) !== hashes[index]);
  return { manifest, changed, unchanged: files.length - changed.length };
}

/** SHA-256 of each file, in hexadecimal, worked out by a web worker. */
export async function hashAll(files: readonly File[]): Promise<string[]> {
  if (files.length === 0) return [];
  const worker = new Worker(new URL('../workers/hash.worker.ts', import.meta.url), { type: 'module' });
  try {
    return await new Promise((done, fail) => {
      const hashes: string[] = [];
      worker.onmessage = ({ data }: MessageEvent<string>) => {
        hashes.push(data);
        if (hashes.length === files.length) done(hashes);
      };
      worker.onerror = (event) => fail(new Error(`A file could not be read: ${event.message}`));
      worker.postMessage(files);
    });
  } finally {
    worker.terminate();
  }
}
