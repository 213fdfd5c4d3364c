import { createHash } from 'node:crypto';
import { chmod, mkdtemp, readdir, rm, writeFile } from 'node:fs/promises';
import { buffer } from 'node:stream/consumers';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { BlobStore } from './blob-store.js';

let folder: string;
let blobs: BlobStore;
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'stem-trace-blobs-'));
  blobs = new BlobStore(folder);
});
afterAll(() => rm(folder, { recursive: true, force: true }));

const filesIn = async (): Promise<string[]> => {
  const entries = await readdir(folder, { recursive: true, withFileTypes: true });
  return entries.filter((entry) => entry.isFile()).map(({ name }) => name);
};

describe('the blob store', () => {
  it('gives back what was put in, under its hash, once', async () => {
    await fc.assert(
      fc.asyncProperty(fc.uint8Array({ maxLength: 2000 }), async (bytes) => {
        const expected = createHash('sha256').update(bytes).digest('hex');
        const [one, again] = await Promise.all([
          blobs.put(Readable.from([bytes])),
          blobs.put(Readable.from([bytes])),
        ]);
        expect(one).toEqual({ sha256: expected, size: bytes.length });
        expect(again).toEqual(one);
        expect(new Uint8Array(await blobs.read(expected))).toEqual(bytes);
        expect(await blobs.has(expected)).toBe(true);
      }),
      { numRuns: 30 },
    );
    expect(new Set(await filesIn()).size).toBe((await filesIn()).length);
  });

  it('hands out nothing whole that was changed on the disk', async () => {
    const { sha256 } = await blobs.put(Readable.from([Buffer.alloc(300_000, 'a')]));
    expect((await buffer(blobs.stream(sha256))).length).toBe(300_000);
    await chmod(blobs.pathOf(sha256), 0o600);
    await writeFile(blobs.pathOf(sha256), Buffer.alloc(300_000, 'b'));
    await expect(blobs.read(sha256)).rejects.toMatchObject({ code: 'FILE_DAMAGED' });
    await expect(buffer(blobs.stream(sha256))).rejects.toMatchObject({ code: 'FILE_DAMAGED' });
    await rm(blobs.pathOf(sha256));
    await expect(buffer(blobs.stream(sha256))).rejects.toMatchObject({ code: 'ENOENT' });
  });

  it('keeps nothing of a file that is too large', async () => {
    const before = await filesIn();
    await expect(
      blobs.put(Readable.from([Buffer.alloc(600), Buffer.alloc(600)]), 1000),
    ).rejects.toMatchObject({
      code: 'FILE_TOO_LARGE',
    });
    expect(await filesIn()).toEqual(before);
  });

  it('keeps nothing of a file whose sender went away', async () => {
    const before = await filesIn();
    const cut = new Readable({
      read() {
        this.push(Buffer.alloc(100));
        this.destroy(new Error('gone'));
      },
    });
    await expect(blobs.put(cut)).rejects.toThrow('gone');
    expect(await filesIn()).toEqual(before);
  });

  it('takes only hashes for names', () => {
    for (const name of ['../../etc/passwd', 'A'.repeat(64), '', 'x', `${'a'.repeat(64)}/..`]) {
      expect(() => blobs.pathOf(name)).toThrow(RangeError);
    }
  });

  it('says whether it has something', async () => {
    expect(await blobs.has('0'.repeat(64))).toBe(false);
    await expect(blobs.read('0'.repeat(64))).rejects.toThrow(/ENOENT/);
  });
});
