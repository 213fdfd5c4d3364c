/** What somebody sends of a change, with the items and people that it means. */
import { parseReference, type ChangeInput } from '@stem-trace/contract';
import {
  isChange,
  numberKey,
  type ChangeContents,
  type ChangeLine,
  type TakesEffect,
} from '@stem-trace/core';
import type { EntityManager } from 'typeorm';
import type { Rights } from '../access/rights.service.js';
import type { Person } from '../database/entities/person.js';
import { readRows, text } from '../database/read-rows.js';
import { ProblemError } from '../problems/problem.js';
import type { CatalogueService, DescribedVersion } from '../store/catalogue.service.js';

/**
 * What was sent, with the items that its numbers mean.
 *
 * @param hidden lines that the sender was not shown, which stay
 * @param before what it said until now: what stays is not looked up anew
 */
export async function understood(
  manager: EntityManager,
  { lines, ...others }: ChangeInput,
  {
    catalogue,
    hidden,
    before,
    person,
  }: {
    readonly catalogue: CatalogueService;
    readonly hidden: readonly ChangeLine[];
    readonly before?: ChangeContents;
    readonly person: Person;
  },
): Promise<{ readonly contents: ChangeContents; readonly items: readonly DescribedVersion[] }> {
  await requirePeople(manager, [others.owner, ...others.tasks.map(({ who }) => who)]);
  const items = await catalogue.resolveAll(
    lines.map(({ item }) => item),
    person,
    'see',
    manager,
  );
  const byNumber = new Map(items.map((item) => [numberKey(item.number), item]));
  const said = lines.map(({ item, relation, note, inStock, inWork }): ChangeLine => {
    const found = byNumber.get(numberKey(parseReference(item).number));
    if (!found) throw new ProblemError('ITEM_UNKNOWN', `There is no item ${item} in the store.`);
    refuseRelation(found, relation);
    return { relation, itemId: found.itemId, note, inStock, inWork };
  });
  const takesEffect = await effectOf(others.takesEffect, before?.takesEffect, async (product) =>
    catalogue.resolve(product, person, 'see', manager),
  );
  return { contents: { ...others, takesEffect, lines: [...said, ...hidden] }, items };
}

/** With the product under the number that it has in the store. @throws ProblemError ITEM_UNKNOWN */
async function effectOf(
  effect: TakesEffect,
  before: TakesEffect | undefined,
  find: (product: string) => Promise<{ readonly number: string }>,
): Promise<TakesEffect> {
  if (effect.kind !== 'from serial') return effect;
  const known = before?.kind === 'from serial' ? before.product : undefined;
  // Empty where the writer may not see the product: it stays.
  if (known !== undefined && (effect.product === '' || numberKey(known) === numberKey(effect.product)))
    return { ...effect, product: known };
  return { ...effect, product: (await find(effect.product)).number };
}

/** Lines whose items somebody may not see. */
export async function hiddenLines(
  manager: EntityManager,
  lines: readonly ChangeLine[],
  rights: Rights,
): Promise<ChangeLine[]> {
  const rows = await readRows(
    manager,
    { id: text, placeId: text },
    'SELECT id, place_id AS "placeId" FROM item WHERE id = ANY($1::bigint[])',
    [lines.map(({ itemId }) => itemId)],
  );
  const hidden = new Set(rows.flatMap(({ id, placeId }) => (rights.may('see', placeId) ? [] : id)));
  return lines.filter(({ itemId }) => hidden.has(itemId));
}

/** @throws ProblemError INPUT_INVALID for a request that answers, or what is no request and is answered */
function refuseRelation({ number, kind }: DescribedVersion, relation: ChangeLine['relation']): void {
  if ((relation === 'answers' || relation === 'joins') && kind !== 'request')
    throw new ProblemError('INPUT_INVALID', `${number} is no change request, so that nothing answers it.`);
  if ((relation === 'shows in' || relation === 'affects') && isChange(kind))
    throw new ProblemError(
      'INPUT_INVALID',
      `${number} is a change itself; say what it refers to, or answers.`,
    );
}

/** @throws ProblemError INPUT_INVALID for a login that nobody has */
async function requirePeople(manager: EntityManager, logins: readonly string[]): Promise<void> {
  const wanted = [...new Set(logins.filter((login) => login !== ''))];
  const rows = await readRows(
    manager,
    { login: text },
    'SELECT login FROM person WHERE login = ANY($1::text[])',
    [wanted],
  );
  const known = new Set(rows.map(({ login }) => login));
  const missing = wanted.find((login) => !known.has(login));
  if (missing !== undefined)
    throw new ProblemError(
      'INPUT_INVALID',
      `Nobody here is called ${missing}. Choose one of the people there are.`,
    );
}

/** Ids of people who were given something that they did not have before. */
export async function newlyNamed(
  manager: EntityManager,
  before: ChangeContents,
  after: ChangeContents,
): Promise<string[]> {
  const had = new Set([before.owner, ...before.tasks.map(({ key, who }) => `${key} ${who}`)]);
  const fresh = [
    ...(had.has(after.owner) ? [] : [after.owner]),
    ...after.tasks.flatMap(({ key, who }) => (had.has(`${key} ${who}`) ? [] : who)),
  ].filter((login) => login !== '');
  const rows = await readRows(
    manager,
    { id: text },
    'SELECT id FROM person WHERE is_active AND login = ANY($1::text[])',
    [fresh],
  );
  return rows.map(({ id }) => id);
}
