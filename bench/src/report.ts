export interface BenchResult {
  readonly title: string;
  readonly rivalName: string;
  /** What is wanted, in words. */
  readonly goal: string;
  /** Further figures, in sentences. */
  readonly notes?: readonly string[];
  /** Times in milliseconds; a row without a rival shows only how fast it is. */
  readonly rows: readonly {
    readonly what: string;
    readonly ours: number;
    readonly rival?: number;
    readonly bytes?: number;
  }[];
}

/** A result as a Markdown section. */
export function toMarkdown({ title, rivalName, goal, notes = [], rows }: BenchResult): string {
  const lines = rows.map(({ what, ours, rival, bytes }) =>
    [
      what,
      ms(ours),
      bytes === undefined ? '' : `${(bytes / 1000 / ours).toFixed(0)} MB/s`,
      rival === undefined ? '–' : ms(rival),
      rival === undefined
        ? '–'
        : `${rival / ours < 10 ? (rival / ours).toFixed(2) : (rival / ours).toFixed(0)}×`,
    ].join(' | '),
  );
  return [
    `## ${title}`,
    [`Rival: ${rivalName}. Goal: ${goal}.`, ...notes].join(' '),
    [
      '| what | Stem Trace | rate | rival | ratio |',
      '| --- | --: | --: | --: | --: |',
      ...lines.map((line) => `| ${line} |`),
    ].join('\n'),
  ].join('\n\n');
}

function ms(value: number): string {
  return `${value < 10 ? value.toFixed(2) : value.toFixed(0)} ms`;
}
