/** A file that cannot be understood: what is wrong, and where. */
export class FormatError extends Error {
  readonly code: string = 'FILE_UNREADABLE';

  /**
   * @param reason what is wrong, as a sentence part without the place
   * @param line 1-based line in the file, 0 where no line applies
   */
  constructor(
    readonly reason: string,
    readonly line: number,
  ) {
    super(line > 0 ? `line ${line}: ${reason}` : reason);
    this.name = 'FormatError';
  }
}

/** A file whose contents cannot be told, though nothing speaks against keeping it as it is. */
export class KeptWhole extends FormatError {
  override readonly code = 'FILE_KEPT_WHOLE';
  override readonly name = 'KeptWhole';
}
