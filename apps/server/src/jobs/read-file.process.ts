import { readDesignFile } from './read-file.js';
import { offer } from './process.js';
import type { FileReport, ReadTask } from './reader-pool.js';

offer(async (task: ReadTask): Promise<FileReport> => {
  const outcome = await readDesignFile(task);
  if (outcome.kind !== 'read') return outcome;
  // As text, so that a reading of many megabytes is neither copied member by member nor parsed by the server.
  return { kind: 'read', reading: JSON.stringify(outcome.reading, withoutNulls) };
});

/** A text of the database holds no null character; a file may claim one anywhere. */
function withoutNulls(_: string, value: unknown): unknown {
  return typeof value === 'string' ? value.replaceAll('\u0000', '\uFFFD') : value;
}
