/** Other programs that are told what happens, as the audit trail says it. */
import type { AuditKind } from './audit.js';

export interface WebhookDraft {
  readonly name: string;
  /** Where what happens is posted: `https://host/path`. */
  readonly address: string;
  readonly kinds: readonly AuditKind[];
}

export interface WebhookRow extends WebhookDraft {
  readonly id: string;
  /** Not taken yet, and given up after too many tries. */
  readonly waiting: number;
  readonly givenUp: number;
  /** Why the last try failed; null where it did not. */
  readonly problem: string | null;
}

export interface WebhookMade {
  readonly rows: readonly WebhookRow[];
  /** What it is signed with; told once, when it is made. */
  readonly secret: string;
}

export interface WebhookReference {
  readonly id: string;
}

export interface DeliveryRow {
  readonly id: string;
  /** Of the event; `test` for one that was asked for. */
  readonly kind: string;
  readonly at: string;
  readonly says: string;
  readonly tries: number;
  readonly sentAt: string | null;
  readonly isGivenUp: boolean;
  readonly problem: string | null;
}
