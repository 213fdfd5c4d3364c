/** What a signature says, as the text that is sealed. */
import { createHash } from 'node:crypto';

export interface Statement {
  /** How a statement is made. */
  readonly format: 1;
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
  /** SHA-256 of the lines of what was signed. */
  readonly content: string;
  /** SHA-256 of the statement before; empty for the first of a store. */
  readonly before: string;
  /** Fingerprint of the key that seals it. */
  readonly key: string;
}

/** Members in a fixed order, so that the same statement is the same text. */
export function textOf(statement: Statement): string {
  const { format, item, version, step, from, to, means, login, name, at, zone, content, before, key } =
    statement;
  return JSON.stringify({
    ...{ format, item, version, step, from, to, means },
    ...{ login, name, at, zone, content, before, key },
  });
}

export function digestOfText(text: string): string {
  return createHash('sha256').update(text, 'utf8').digest('hex');
}
