import type { Terminal } from '../terminal.js';

/** What a verb answers: the stable JSON form, and lines for a person. */
export interface Answer {
  readonly json: unknown;
  readonly lines: readonly string[];
  /** Something that was asked for was refused: the program fails, though it did the rest. */
  readonly isPartial?: boolean;
}

export interface Verb {
  readonly usage: string;
  readonly about: string;
  run(args: readonly string[], terminal: Terminal): Promise<Answer>;
}

/** Columns side by side, the last one unpadded. */
export function table(rows: readonly (readonly string[])[]): string[] {
  const widths: number[] = [];
  for (const row of rows)
    row.forEach((cell, index) => (widths[index] = Math.max(widths[index] ?? 0, cell.length)));
  return rows.map((row) =>
    row
      .map((cell, index) => (index === row.length - 1 ? cell : cell.padEnd(widths[index] ?? 0)))
      .join('  ')
      .trimEnd(),
  );
}
