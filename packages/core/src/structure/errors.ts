/** The answer would be larger than anybody could use. */
export class StructureTooLarge extends Error {
  readonly code = 'STRUCTURE_TOO_LARGE';

  /** @param counted how large it would be, where that is known */
  constructor(
    readonly limit: number,
    readonly counted?: number,
  ) {
    super(
      counted === undefined
        ? `This structure has more than ${say(limit)} rows. Ask for fewer levels, or for a part of it.`
        : `This structure has ${sayMany(counted)} rows when it is laid out, more than ${say(limit)}. Ask for fewer levels, or for a part of it.`,
    );
    this.name = 'StructureTooLarge';
  }
}

function say(count: number): string {
  return count.toLocaleString('en-GB');
}

function sayMany(count: number): string {
  return count > 1e15 ? `about 10^${Math.floor(Math.log10(Math.min(count, Number.MAX_VALUE)))}` : say(count);
}
