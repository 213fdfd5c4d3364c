import { numberKey, validateNumber, type ItemKind, type Right } from '@stem-trace/core';
import type { EntityManager } from 'typeorm';
import { RightsService } from '../access/rights.service.js';
import type { Person } from '../database/entities/person.js';
import { readRows, text } from '../database/read-rows.js';
import { insertRows } from '../database/rows.js';
import { ProblemError } from '../problems/problem.js';
import { searchText, type VersionFacts } from './facts.js';
import { ITEM_COLUMNS, placeIds } from './store-writer.js';

export interface NewItem {
  readonly number: string;
  readonly name: string;
  readonly kind: ItemKind;
  /** Path of its place, which is made where it is missing. */
  readonly place: string;
  readonly fileName: string;
  readonly facts: VersionFacts;
  /** What is asked for at the place; to change it where absent. */
  readonly needs?: Right;
}

/** @throws ProblemError INPUT_INVALID for a number that is none */
export function requireNumber(number: string): void {
  const invalid = validateNumber(number);
  if (invalid) throw new ProblemError('INPUT_INVALID', `Number “${number}”: ${invalid}. Choose another.`);
}

/**
 * Makes an item that the store writes itself, without a version yet.
 *
 * @returns its id
 * @throws ProblemError NOT_ALLOWED at the place; INPUT_INVALID where the number is taken
 */
export async function insertNewItem(
  manager: EntityManager,
  rights: RightsService,
  { number, name, kind, place, fileName, facts, needs = 'change' }: NewItem,
  person: Person,
): Promise<string> {
  const placeId = (await placeIds(manager, [place])).get(place) ?? '';
  if (!(await rights.of(person, manager)).may(needs, placeId))
    throw new ProblemError(
      'NOT_ALLOWED',
      `You may not put anything into ${place}. Choose a place where you may, or ask somebody who administers it.`,
    );
  const taken = await readRows(manager, { id: text }, 'SELECT id FROM item WHERE number_key = $1', [
    numberKey(number),
  ]);
  if (taken.length > 0)
    throw new ProblemError('INPUT_INVALID', `Number “${number}” is taken. Choose another.`);
  const [itemId = ''] = await insertRows(manager, 'item', ITEM_COLUMNS, [
    {
      ...{ number, number_key: numberKey(number), name, kind, place_id: placeId, file_name: fileName },
      ...{ search_text: searchText(number, name, facts), body_text: '' },
    },
  ]);
  return itemId;
}
