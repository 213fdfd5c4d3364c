/** A tree has more rows than were asked for at most; nothing is answered in part. */
export class StructureTooLarge extends Error {
  readonly code = 'STRUCTURE_TOO_LARGE';

  constructor(readonly maxRows: number) {
    super(`the tree has more than ${maxRows} rows; ask for fewer levels`);
    this.name = 'StructureTooLarge';
  }
}
