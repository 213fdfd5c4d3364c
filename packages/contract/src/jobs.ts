/** Work that goes on while nobody waits for it: done once, by whichever server, and begun anew where a server ended. */
import type { Proof } from '@stem-trace/core';

export const JOB_KINDS = [
  'intake',
  'unpack',
  'proof',
  'overlaps',
  'wish',
  'mesh',
  'shape',
  'likeness',
  'roll-up',
  'issue',
  'planning',
  'mail',
  'webhook',
] as const;
export type JobKind = (typeof JOB_KINDS)[number];

export type JobState = 'waiting' | 'running' | 'done' | 'failed' | 'cancelled';

export interface JobView {
  readonly kind: JobKind;
  readonly id: string;
  /** What it works on, in words. */
  readonly about: string;
  /** Who asked for it; null where the store does it by itself. */
  readonly by: string | null;
  readonly state: JobState;
  /** Of `total` steps, where they are counted; `total` is 0 before that is known. */
  readonly progress: { readonly done: number; readonly total: number };
  /** How often it was begun. */
  readonly tries: number;
  readonly askedAt: string;
  readonly endedAt: string | null;
  /** Why it failed, where it did. */
  readonly failure: string | null;
}

/** A proof that was asked for: how far it is, and what it found once it is done. */
export interface ProofAnswer {
  readonly job: JobView;
  readonly proof: Proof | null;
}
