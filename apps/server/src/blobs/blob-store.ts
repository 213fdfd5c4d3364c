import { createHash, randomUUID } from 'node:crypto';
import { createReadStream, createWriteStream } from 'node:fs';
import { mkdir, open, readdir, readFile, rename, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { Transform, type Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { ProblemError } from '../problems/problem.js';

export interface StoredBlob {
  readonly sha256: string;
  readonly size: number;
}

/** Largest file taken in, 2 GiB. */
export const MAX_FILE_BYTES = 2 * 1024 ** 3;

const STANDSTILL_MS = 120_000;

function damaged(sha256: string): ProblemError {
  return new ProblemError(
    'FILE_DAMAGED',
    `The stored file ${sha256.slice(0, 12)} was changed on the disk and is not handed out. Tell the administrator to restore it from a backup; stem verify lists all such files.`,
  );
}

function stoodStill(): ProblemError {
  return new ProblemError(
    'INPUT_INVALID',
    `Nothing more came in for ${STANDSTILL_MS / 1000} s. Nothing was kept; send the file again.`,
  );
}

/**
 * Files on disk, named by the SHA-256 of their content and never changed. A file is written beside the others
 * under a name of its own and put in place by a rename, so that a name either has the whole content or is not there.
 */
export class BlobStore {
  constructor(private readonly root: string) {}

  /** Where the blobs lie; what can be made from them may be kept beside them. */
  get folder(): string {
    return this.root;
  }

  /**
   * @throws ProblemError FILE_TOO_LARGE beyond `maxBytes`; nothing is kept then
   */
  async put(content: Readable, maxBytes = MAX_FILE_BYTES): Promise<StoredBlob> {
    // It may fail before it is read: that is told by the reading, and must not go unheard until then.
    content.on('error', () => undefined);
    const incoming = join(this.root, 'incoming');
    await mkdir(incoming, { recursive: true });
    const temporary = join(incoming, randomUUID());
    const hash = createHash('sha256');
    let size = 0;
    // An upload may take hours, but not stand still.
    const standstill = setTimeout(() => content.destroy(stoodStill()), STANDSTILL_MS);
    const measure = new Transform({
      transform(chunk: Buffer, _encoding, done): void {
        standstill.refresh();
        size += chunk.length;
        hash.update(chunk);
        if (size > maxBytes)
          done(
            new ProblemError('FILE_TOO_LARGE', `A file may have at most ${maxBytes} bytes. It was not kept.`),
          );
        else done(null, chunk);
      },
    });
    try {
      await pipeline(content, measure, createWriteStream(temporary, { flush: true }));
      const sha256 = hash.digest('hex');
      const path = this.pathOf(sha256);
      const folder = join(path, '..');
      const isNew = (await mkdir(folder, { recursive: true })) !== undefined;
      await rename(temporary, path);
      // A name is only there for good once its folder is written too, and a folder once the one above it is.
      await syncFolder(folder);
      if (isNew) await syncFolder(this.root);
      return { sha256, size };
    } catch (error) {
      await rm(temporary, { force: true });
      throw error;
    } finally {
      clearTimeout(standstill);
    }
  }

  /** @throws ProblemError FILE_DAMAGED if the bytes are not those that were stored */
  async read(sha256: string): Promise<Uint8Array> {
    const bytes = await readFile(this.pathOf(sha256));
    if (createHash('sha256').update(bytes).digest('hex') !== sha256) throw damaged(sha256);
    return bytes;
  }

  /** Hashes while it is read: damaged content fails before its last bytes are handed out. */
  stream(sha256: string): Readable {
    const hash = createHash('sha256');
    let held: Buffer | undefined;
    const checked = new Transform({
      transform(chunk: Buffer, _encoding, done): void {
        hash.update(chunk);
        const before = held;
        held = chunk;
        done(null, before);
      },
      flush(done): void {
        if (hash.digest('hex') === sha256) done(null, held);
        else done(damaged(sha256));
      },
    });
    // Errors of either stream reach whoever reads.
    pipeline(createReadStream(this.pathOf(sha256)), checked).catch(() => undefined);
    return checked;
  }

  async sizeOf(sha256: string): Promise<number> {
    return (await stat(this.pathOf(sha256))).size;
  }

  async has(sha256: string): Promise<boolean> {
    return stat(this.pathOf(sha256)).then(
      () => true,
      () => false,
    );
  }

  /** Throws away what nobody refers to any more. */
  async remove(sha256: string): Promise<void> {
    await rm(this.pathOf(sha256), { force: true });
  }

  /** Throws away what uploads left that never came to their end. */
  async removeUnfinished(olderThan: Date): Promise<void> {
    const incoming = join(this.root, 'incoming');
    for (const name of await readdir(incoming).catch(() => [])) {
      const about = await stat(join(incoming, name)).catch(() => undefined);
      if (about && about.mtime < olderThan) await rm(join(incoming, name), { force: true });
    }
  }

  pathOf(sha256: string): string {
    if (!/^[0-9a-f]{64}$/.test(sha256)) throw new RangeError(`not a SHA-256: ${sha256}`);
    return join(this.root, sha256.slice(0, 2), sha256);
  }
}

async function syncFolder(path: string): Promise<void> {
  const folder = await open(path, 'r');
  await folder.sync().finally(() => folder.close());
}
