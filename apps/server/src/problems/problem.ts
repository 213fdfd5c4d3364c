import type { Problem, ProblemCode } from '@stem-trace/contract';

const STATUS: Readonly<Record<ProblemCode, number>> = {
  INPUT_INVALID: 400,
  QUERY_WRONG: 400,
  SIGN_IN_FAILED: 401,
  SIGN_IN_TOO_OFTEN: 429,
  NOT_SIGNED_IN: 401,
  NOT_ALLOWED: 403,
  ITEM_UNKNOWN: 404,
  VERSION_UNKNOWN: 404,
  INTAKE_UNKNOWN: 404,
  INTAKE_CLOSED: 409,
  INTAKE_NOTHING_TO_DO: 409,
  INTAKE_CYCLE: 409,
  INTAKE_TOO_LARGE: 413,
  ARCHIVE_REFUSED: 422,
  FILE_TOO_LARGE: 413,
  NO_GEOMETRY: 404,
  NO_TEXT: 404,
  PLACE_TAKEN: 409,
  PLACE_UNKNOWN: 404,
  PLACE_IN_USE: 409,
  PERSON_UNKNOWN: 404,
  PERSON_TAKEN: 409,
  ENTRY_UNKNOWN: 404,
  NOT_HELD: 409,
  STEP_REFUSED: 409,
  DERIVATION_CLASH: 409,
  DERIVATION_UNPROVED: 500,
  KEY_USED: 409,
  STRUCTURE_TOO_LARGE: 413,
  TOO_COSTLY: 422,
  BUSY: 503,
  DATABASE_AWAY: 503,
  STORAGE_FULL: 507,
  FILE_DAMAGED: 500,
  JOB_UNKNOWN: 404,
  JOB_CANCELLED: 409,
  NOT_FOUND: 404,
  INTERNAL: 500,
};

/** A failure that the caller is told about, as problem details (RFC 9457). */
export class ProblemError extends Error {
  readonly status: number;

  constructor(
    readonly code: ProblemCode,
    message: string,
    readonly details?: readonly string[],
    readonly at?: Problem['at'],
  ) {
    super(message);
    this.name = 'ProblemError';
    this.status = STATUS[code];
  }

  toProblem(): Problem {
    return {
      type: `urn:stem-trace:problem:${this.code.toLowerCase().replaceAll('_', '-')}`,
      title: this.code.toLowerCase().replaceAll('_', ' '),
      status: this.status,
      code: this.code,
      detail: this.message,
      ...(this.details ? { details: this.details } : {}),
      ...(this.at ? { at: this.at } : {}),
    };
  }
}
