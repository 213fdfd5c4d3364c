import { Readable } from 'node:stream';
import type { DataSource, EntityManager } from 'typeorm';
import { ProblemError } from '../problems/problem.js';
import type { BlobStore, StoredBlob } from './blob-store.js';

/**
 * Puts bytes into the store, so that they are not swept before somebody refers to them.
 *
 * @param database the transaction that they belong to, where there is one
 * @throws ProblemError BUSY where the very same bytes, having lain unused for long, are thrown away at this moment; FILE_TOO_LARGE
 */
export async function keepBlob(
  database: DataSource | EntityManager,
  blobs: BlobStore,
  content: Readable | Uint8Array,
  maxBytes?: number,
): Promise<StoredBlob> {
  const stream = content instanceof Uint8Array ? Readable.from([Buffer.from(content)]) : content;
  const stored = await blobs.put(stream, maxBytes);
  await database.query(
    'INSERT INTO blob (sha256, size) VALUES ($1, $2) ON CONFLICT (sha256) DO UPDATE SET stored_at = now()',
    [stored.sha256, stored.size],
  );
  if (!(await blobs.has(stored.sha256)))
    throw new ProblemError('BUSY', 'This file was being thrown away at this moment. Send it again.');
  return stored;
}
