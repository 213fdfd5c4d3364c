/** A STEP file that cannot be understood: what is wrong, and where. */
export class StepError extends Error {
  readonly code = 'STEP_UNREADABLE';

  /**
   * @param reason what is wrong, as a sentence part without the place
   * @param line 1-based line in the file, 0 where no line applies
   */
  constructor(
    readonly reason: string,
    readonly line: number,
  ) {
    super(line > 0 ? `line ${line}: ${reason}` : reason);
    this.name = 'StepError';
  }
}

/** 1-based line of a byte offset. `O(offset)`; only for messages. */
export function lineAt(bytes: Uint8Array, offset: number): number {
  let line = 1;
  const end = Math.min(offset, bytes.length);
  for (let i = 0; i < end; i++) if (bytes[i] === 10) line++;
  return line;
}
