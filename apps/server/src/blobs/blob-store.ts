import { createHash, randomUUID } from 'node:crypto';
import { createReadStream, createWriteStream } from 'node:fs';
import { mkdir, readFile, rename, rm, stat } from 'node:fs/promises';
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
    const measure = new Transform({
      transform(chunk: Buffer, _encoding, done): void {
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
      await mkdir(join(path, '..'), { recursive: true });
      await rename(temporary, path);
      return { sha256, size };
    } catch (error) {
      await rm(temporary, { force: true });
      throw error;
    }
  }

  async read(sha256: string): Promise<Uint8Array> {
    return readFile(this.pathOf(sha256));
  }

  stream(sha256: string): Readable {
    return createReadStream(this.pathOf(sha256));
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

  pathOf(sha256: string): string {
    if (!/^[0-9a-f]{64}$/.test(sha256)) throw new RangeError(`not a SHA-256: ${sha256}`);
    return join(this.root, sha256.slice(0, 2), sha256);
  }
}
