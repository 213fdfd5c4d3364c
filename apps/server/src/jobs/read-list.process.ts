import { readFile } from 'node:fs/promises';
import { FormatError, readList } from '@stem-trace/formats';
import type { ListReport, ListTask } from './list-pool.js';
import { offer } from './process.js';

offer(async ({ file, name }: ListTask): Promise<ListReport> => {
  try {
    return {
      kind: 'read',
      reading: JSON.stringify(await readList(await readFile(file), name), withoutNulls),
    };
  } catch (error) {
    if (error instanceof FormatError) return { kind: 'problem', line: error.line, reason: error.reason };
    throw error;
  }
});

/** A text of the database holds no null character. */
function withoutNulls(_: string, value: unknown): unknown {
  return typeof value === 'string' ? value.replaceAll('\u0000', '\uFFFD') : value;
}
