import { readFile as readBytes } from 'node:fs/promises';
import { FormatError, readFile, rewriteFile, textsOf } from '@stem-trace/formats';
import type { ReadOutcome, ReadTask } from './reader-pool.js';

/** What systems leave behind in folders; nobody designed it. */
const LEFTOVERS = /(^|\/)(\.[^/]*|Thumbs\.db|desktop\.ini|~\$[^/]*|[^/]*\.(tmp|bak|lock))$/i;

/** Reads one file of any kind. */
export async function readDesignFile({ file, path, handedOut }: ReadTask): Promise<ReadOutcome> {
  if (LEFTOVERS.test(path))
    return { kind: 'passedOver', reason: 'left behind by a program, not a design file' };
  try {
    const stored = await readBytes(file);
    const bytes = handedOut
      ? rewriteFile(stored, handedOut.storedFileName, handedOut.renaming).bytes
      : stored;
    const texts = handedOut ? textsOf(bytes) : undefined;
    return { kind: 'read', reading: await readFile(bytes, path), ...(texts ? { texts } : {}) };
  } catch (error) {
    if (error instanceof FormatError) return { kind: 'problem', line: error.line, reason: error.reason };
    throw error;
  }
}
