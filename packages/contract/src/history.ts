/** What happened to an item, between its versions too. */
import type { AuditKind } from './audit.js';

export interface HistoryRequest {
  readonly item: string;
  /** Also what happened to all that its newest version is made of. */
  readonly below: boolean;
  readonly kind?: AuditKind;
  /** Only what is older than this event. */
  readonly before?: string;
}

export interface HistoryRow {
  readonly id: string;
  readonly at: string;
  readonly person: string;
  readonly kind: AuditKind;
  /** Of the item that it happened to. */
  readonly number: string;
  readonly says: string;
}

export interface HistoryAnswer {
  /** Newest first. */
  readonly rows: readonly HistoryRow[];
  /** Whether there are older ones. */
  readonly more: boolean;
}
