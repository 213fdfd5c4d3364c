import { open, readFile } from 'node:fs/promises';
import { stemOf } from '@stem-trace/core';
import { readStep, StepError } from '@stem-trace/formats';
import type { ReadOutcome, ReadTask } from './reader-pool.js';

const STEP_ENDING = /\.(stp|step|p21)$/i;
const STEP_BEGINNING = 'ISO-10303-21';

/** Reads one file, whatever its ending, if it is a STEP file. */
export default async function readDesignFile({ file, path }: ReadTask): Promise<ReadOutcome> {
  if (!STEP_ENDING.test(path) && !(await beginning(file)).includes(STEP_BEGINNING)) {
    return { kind: 'passedOver', reason: 'not a STEP file; other kinds cannot be taken in yet' };
  }
  try {
    return { kind: 'read', reading: readStep(await readFile(file), stemOf(path)) };
  } catch (error) {
    if (error instanceof StepError) return { kind: 'problem', line: error.line, reason: error.reason };
    throw error;
  }
}

async function beginning(file: string): Promise<string> {
  const handle = await open(file);
  try {
    const { bytesRead, buffer } = await handle.read(Buffer.alloc(256), 0, 256, 0);
    return buffer.subarray(0, bytesRead).toString('latin1');
  } finally {
    await handle.close();
  }
}
