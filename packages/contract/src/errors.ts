/**
 * Codes of problems (RFC 9457, member `code`). A code is for programs and stays; the sentence beside it is for
 * people and may be reworded.
 */
export const PROBLEM_CODES = [
  'INPUT_INVALID',
  'QUERY_WRONG',
  'SIGN_IN_FAILED',
  'SIGN_IN_TOO_OFTEN',
  'NOT_SIGNED_IN',
  'NOT_ALLOWED',
  'ITEM_UNKNOWN',
  'VERSION_UNKNOWN',
  'INTAKE_UNKNOWN',
  'INTAKE_CLOSED',
  'INTAKE_NOTHING_TO_DO',
  'INTAKE_CYCLE',
  'INTAKE_TOO_LARGE',
  'ARCHIVE_REFUSED',
  'FILE_TOO_LARGE',
  'NO_GEOMETRY',
  'NO_TEXT',
  'PLACE_TAKEN',
  'PLACE_UNKNOWN',
  'PLACE_IN_USE',
  'PERSON_UNKNOWN',
  'PERSON_TAKEN',
  'ENTRY_UNKNOWN',
  'NOT_HELD',
  'STEP_REFUSED',
  'DERIVATION_CLASH',
  'DERIVATION_UNPROVED',
  'KEY_USED',
  'STRUCTURE_TOO_LARGE',
  'TOO_COSTLY',
  'BUSY',
  'DATABASE_AWAY',
  'STORAGE_FULL',
  'FILE_DAMAGED',
  'JOB_UNKNOWN',
  'JOB_CANCELLED',
  'NOT_FOUND',
  'INTERNAL',
] as const;

export type ProblemCode = (typeof PROBLEM_CODES)[number];

/** The one error shape, `application/problem+json`. */
export interface Problem {
  readonly type: string;
  readonly title: string;
  readonly status: number;
  readonly code: ProblemCode;
  /** What happened, to what, and what to do. */
  readonly detail: string;
  readonly details?: readonly string[];
  /** Of a search that cannot be read: where in its text, from and to. */
  readonly at?: { readonly from: number; readonly to: number };
}
