import { readFile } from 'node:fs/promises';
import { flowOf, FormatError, KeptWhole, tablesOf } from '@stem-trace/formats';
import type { DocumentReport, DocumentTask } from './document-pool.js';
import { offer } from './process.js';

offer(async ({ file, format }: DocumentTask): Promise<DocumentReport> => {
  const bytes = await readFile(file);
  try {
    const answer =
      format === 'workbook'
        ? { kind: 'tables', tables: await tablesOf(bytes) }
        : { kind: 'text', ...(await flowOf(bytes)) };
    return { kind: 'read', answer: JSON.stringify(answer) };
  } catch (error) {
    if (error instanceof KeptWhole || error instanceof FormatError)
      return { kind: 'problem', reason: error.message };
    throw error;
  }
});
