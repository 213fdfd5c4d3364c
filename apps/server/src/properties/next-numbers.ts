/** What the schemes would give next. */
import { numberKey, serialNumber, type NumberScheme } from '@stem-trace/core';
import { isAmong } from '../database/conditions.js';
import { id, number, readRows, text, type Asks } from '../database/read-rows.js';
import { ProblemError } from '../problems/problem.js';

export const SCHEME = { name: text, prefix: text, digits: number, suffix: text, next: id } as const;
export type SchemeRow = NumberScheme & { readonly next: string };

/**
 * The numbers that a scheme will give next, without taking any: for showing what would come, however often somebody looks.
 *
 * @throws ProblemError INPUT_INVALID where there is no such scheme
 */
export async function nextNumbers(manager: Asks, name: string, count: number): Promise<string[]> {
  const [scheme] = await readRows<SchemeRow>(
    manager,
    SCHEME,
    'SELECT name, prefix, digits, suffix, next FROM number_scheme WHERE lower(name) = lower($1)',
    [name],
  );
  if (!scheme) throw noScheme(name);
  const numbers: string[] = [];
  for (let from = Number(scheme.next); numbers.length < count; from += count) {
    const candidates = Array.from({ length: count }, (_, index) => serialNumber(scheme, from + index));
    numbers.push(...(await freeOf(manager, candidates)));
  }
  return numbers.slice(0, count);
}

/** Those that no item has. */
export async function freeOf(manager: Asks, numbers: readonly string[]): Promise<string[]> {
  const taken = await readRows(
    manager,
    { key: text },
    `SELECT number_key AS key FROM item WHERE ${isAmong('number_key', '$1')}`,
    [numbers.map(numberKey)],
  );
  const keys = new Set(taken.map(({ key }) => key));
  return numbers.filter((candidate) => !keys.has(numberKey(candidate)));
}

export function noScheme(name: string): ProblemError {
  return new ProblemError(
    'INPUT_INVALID',
    `There is no number scheme ${name}. Look at the settings for those there are.`,
  );
}
