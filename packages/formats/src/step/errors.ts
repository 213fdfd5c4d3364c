import { FormatError } from '../errors.js';

/** A STEP file that cannot be understood. */
export class StepError extends FormatError {
  override readonly code = 'STEP_UNREADABLE';
  override readonly name = 'StepError';
}

/** 1-based line of a byte offset. `O(offset)`; only for messages. */
export function lineAt(bytes: Uint8Array, offset: number): number {
  let line = 1;
  const end = Math.min(offset, bytes.length);
  for (let i = 0; i < end; i++) if (bytes[i] === 10) line++;
  return line;
}
