/** What a signature says, as the text that is sealed. */
import { createHash } from 'node:crypto';

export interface Statement {
  /** 1 has no `moves`. */
  readonly format: 1 | 2;
  readonly item: string;
  readonly version: string;
  readonly step: string;
  readonly from: string;
  readonly to: string;
  /** What the signer says by it: `released`. */
  readonly means: string;
  readonly login: string;
  readonly name: string;
  /** UTC. */
  readonly at: string;
  /** Of the signer. */
  readonly zone: string;
  /** How often the revision had moved when it was signed: a signature is void once the revision moves on. */
  readonly moves?: number;
  /** SHA-256 of the lines of what was signed. */
  readonly content: string;
  /** SHA-256 of the statement before; empty for the first of a store. */
  readonly before: string;
  /** Fingerprint of the key that seals it. */
  readonly key: string;
}

/** Members in a fixed order, so that the same statement is the same text. */
export function textOf(statement: Statement): string {
  const { format, item, version, step, from, to, means, login, name, at, zone, moves, content, before, key } =
    statement;
  return JSON.stringify({
    ...{ format, item, version, step, from, to, means },
    ...{ login, name, at, zone, moves, content, before, key },
  });
}

export function digestOfText(text: string): string {
  return createHash('sha256').update(text, 'utf8').digest('hex');
}
