import type { JobKind, OverlapsQuestion } from '@stem-trace/contract';
import type { JobRef } from './job-progress.js';

/** One part's geometry: all of a file, or a product of it. */
export interface GeometrySource {
  readonly sha256: string;
  readonly productRef: number;
  readonly names: readonly string[];
}

type Nothing = Readonly<Record<string, never>>;

/** What each kind of job needs to know besides its id. */
export interface JobInputs {
  /** The id is the sheet's. */
  intake: Nothing;
  unpack: Nothing;
  proof: { readonly item: string };
  overlaps: { readonly question: OverlapsQuestion };
  /** The id of a wish sheet. */
  wish: { readonly sheet: string };
  mesh: GeometrySource;
  shape: GeometrySource;
  likeness: Nothing;
  'roll-up': Nothing;
  issue: Nothing;
  planning: Nothing;
  mail: Nothing;
  webhook: Nothing;
}

/** What is sent: the input, and what people are told of it. */
export interface JobOrder<K extends JobKind> {
  readonly input: JobInputs[K];
  /** What it works on, in words. */
  readonly about: string;
  /** Who asked for it; null where the store does it by itself. */
  readonly personId: string | null;
}

export interface Job<K extends JobKind> extends JobRef, JobOrder<K> {
  readonly kind: K;
}

/** How a kind of job is done. */
export interface Lane<K extends JobKind> {
  /** How many a server does at a time. */
  readonly atOnce: number;
  /** @returns what those who wait are given; JSON. What it throws as ProblemError is told them, the rest is our fault. */
  readonly work: (job: Job<K>) => Promise<unknown>;
  /** For good: with a problem, or after too many servers ended at it. */
  readonly failed?: (id: string, failure: string) => Promise<void>;
  readonly cancelled?: (id: string) => Promise<void>;
  /** Before it is done once more because somebody asked for that. */
  readonly restarted?: (id: string) => Promise<void>;
}
