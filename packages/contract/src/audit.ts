/** What the audit trail tells apart. */
export const AUDIT_KINDS = [
  'check out',
  'let go',
  'hold broken',
  'hold reason',
  'hold asked',
  'check in',
  'intake',
  'step',
  'signature',
  'lifecycle',
  'check',
  'revise',
  'bring back',
  'catch up',
  'derive',
  'fetch',
  'move',
  'place',
  'access',
  'people',
  'token',
  'setting',
  'properties',
  'align',
  'bill',
  'change',
  'recipe',
  'mark-up',
  'export',
  'sign in',
] as const;
export type AuditKind = (typeof AUDIT_KINDS)[number];

export interface AuditQuery {
  readonly item?: string;
  /** Login. */
  readonly person?: string;
  readonly kind?: AuditKind;
  /** First and last day, UTC, both included. */
  readonly since?: string;
  readonly until?: string;
}

export interface AuditRow {
  readonly id: string;
  readonly at: string;
  readonly person: string;
  readonly kind: AuditKind;
  readonly number: string | null;
  readonly says: string;
}

export interface AuditAnswer {
  /** Newest first. */
  readonly rows: readonly AuditRow[];
  /** Whether there are older ones. */
  readonly more: boolean;
}
