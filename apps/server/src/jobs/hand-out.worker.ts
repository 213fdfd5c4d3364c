import { createHash } from 'node:crypto';
import { readFile } from 'node:fs/promises';
import { rewriteFile } from '@stem-trace/formats';
import type { HandedOut, HandOutTask } from './hand-out-pool.js';

/** A stored file under the names that it is to say; with its hash, for both cost time where files are large. */
export default async function handOut({ file, storedFileName, renaming }: HandOutTask): Promise<HandedOut> {
  const { bytes, changed } = rewriteFile(await readFile(file), storedFileName, renaming);
  const sha256 = createHash('sha256').update(bytes).digest('hex');
  return { bytes, sha256, isChanged: changed > 0 };
}
