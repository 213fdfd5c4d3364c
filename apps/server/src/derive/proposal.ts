/** Names for the copies of a variant, before anybody has said what they should be. */
import {
  parseReference,
  PLAIN_DERIVATION,
  type DeriveProposal,
  type DeriveRequest,
} from '@stem-trace/contract';
import {
  applyRules,
  countsBehind,
  numberKey,
  rulesLike,
  validateNumber,
  type NameRule,
} from '@stem-trace/core';
import { isHiddenNumber } from '../store/names.js';
import { seenRequest } from './seen-request.js';
import { isAmong } from '../database/conditions.js';
import { flag, json, readRow, readRows, text, type Asks } from '../database/read-rows.js';
import type { DescribedVersion } from '../store/catalogue.service.js';

/** What is asked for as rules; programs may give replacements and a prefix instead. */
export function rulesOf({
  replace,
  prefix,
  rules,
}: Partial<Pick<DeriveRequest, 'replace' | 'prefix' | 'rules'>>): NameRule[] {
  return [
    ...(replace ?? []).map(({ from, to }): NameRule => ({
      kind: 'replace',
      of: 'both',
      where: 'anywhere',
      from,
      to,
    })),
    ...(prefix ? [{ kind: 'put', of: 'numbers', at: 'start', text: prefix } as const] : []),
    ...(rules ?? []),
  ];
}

export interface ProposalRequest {
  readonly origin: DescribedVersion;
  /** Of all that is copied. */
  readonly numbers: readonly string[];
  /** Places whose items the asker does not see: what was derived there is none of their business. */
  readonly hidden: readonly string[];
}

export async function proposeNames(manager: Asks, request: ProposalRequest): Promise<DeriveProposal> {
  const before = await lastDerivation(manager, request);
  return {
    ...(await namesLike(manager, request, before)),
    last: await lastDecisions(manager, request, before),
  };
}

type Last = Awaited<ReturnType<typeof lastDerivation>>;

/** What was decided then, without names, properties and place, which are of that variant alone. */
async function lastDecisions(
  manager: Asks,
  { hidden }: ProposalRequest,
  last: Last,
): Promise<DeriveProposal['last']> {
  if (!last) return null;
  // The variant derived before may be of an origin that the asker may not see.
  const { number } = parseReference(last.request.item ?? '');
  if (await isHiddenNumber(manager, number, hidden)) return null;
  const { copy, alsoCopy, share, omit, swap, uses, added, configuration } = {
    ...PLAIN_DERIVATION,
    ...last.request,
  };
  const decided = { copy, alsoCopy, share, omit, swap, uses, added, configuration };
  const request = { ...PLAIN_DERIVATION, ...decided, item: last.request.item ?? '' };
  return { variant: last.variant, request: await seenRequest(manager, request, hidden) };
}

async function namesLike(
  manager: Asks,
  request: ProposalRequest,
  last: Last,
): Promise<Omit<DeriveProposal, 'last'>> {
  const like = await firstFree(manager, request.numbers, rulesLike(rulesOf(last?.request ?? {})));
  if (last && like) return { says: `Like ${last.variant}, derived before.`, rules: like, scheme: '' };
  const scheme = await schemeOf(manager, request.origin.number);
  if (scheme !== undefined) return { says: `The next free numbers of ${scheme}.`, rules: [], scheme };
  const counted = await countedNames(manager, request.numbers);
  return counted
    ? { says: 'The first number that is free.', rules: counted, scheme: '' }
    : {
        says: 'Nothing that is free could be proposed: change one number, and the others follow.',
        rules: [],
        scheme: '',
      };
}

/** Rules that put a count behind each number, the first that nobody has; undefined where none was found. */
export function countedNames(
  manager: Asks,
  numbers: readonly string[],
): Promise<readonly NameRule[] | undefined> {
  return firstFree(manager, numbers, countsBehind());
}

/** The first rules that give each number another that nobody has. */
async function firstFree(
  manager: Asks,
  numbers: readonly string[],
  proposed: Iterable<readonly NameRule[]>,
): Promise<readonly NameRule[] | undefined> {
  const given = new Set(numbers.map(numberKey));
  for (const rules of proposed) {
    const made = numbers.map((number) => applyRules(number, rules, 'numbers'));
    const keys = new Set(made.map(numberKey));
    const isWrong = made.some(
      (number) => validateNumber(number) !== undefined || given.has(numberKey(number)),
    );
    if (isWrong || keys.size < made.length) continue;
    const { isTaken } = await readRow(
      manager,
      { isTaken: flag },
      `SELECT EXISTS (SELECT FROM item WHERE ${isAmong('number_key', '$1')}) AS "isTaken"`,
      [[...keys]],
    );
    if (!isTaken) return rules;
  }
  return undefined;
}

/** The last that was derived of an item's stem, from whichever of its members. */
async function lastDerivation(
  manager: Asks,
  { origin, hidden }: ProposalRequest,
): Promise<{ readonly variant: string; readonly request: Partial<DeriveRequest> } | undefined> {
  const [row] = await readRows(
    manager,
    { variant: text, request: json<Partial<DeriveRequest>>() },
    `WITH RECURSIVE stem AS (
       SELECT $1::bigint AS item_id
       UNION
       SELECT near.item_id FROM stem JOIN LATERAL (
         SELECT o.item_id FROM version v JOIN version o ON o.id = v.origin_version_id WHERE v.item_id = stem.item_id
         UNION ALL
         SELECT v.item_id FROM version o JOIN version v ON v.origin_version_id = o.id WHERE o.item_id = stem.item_id
       ) near ON true
     )
     SELECT variant.number AS variant, d.request FROM stem
     JOIN version v ON v.item_id = stem.item_id JOIN derivation d ON d.origin_version_id = v.id
     JOIN item variant ON variant.derivation_id = d.id
     JOIN version made ON made.item_id = variant.id AND made.origin_version_id = v.id
     WHERE d.request IS NOT NULL AND variant.place_id <> ALL($2::bigint[]) ORDER BY d.id DESC LIMIT 1`,
    [origin.itemId, hidden],
  );
  return row;
}

/** The scheme whose numbers look like this one; the one that says most of it, where several do. */
export async function schemeOf(manager: Asks, number: string): Promise<string | undefined> {
  const [row] = await readRows(
    manager,
    { name: text },
    `SELECT name FROM number_scheme
     WHERE kind IS NULL AND starts_with($1, prefix) AND right($1, length(suffix)) = suffix
       AND length($1) >= length(prefix) + digits + length(suffix)
       AND substr($1, length(prefix) + 1, length($1) - length(prefix) - length(suffix)) ~ '^[0-9]+$'
     ORDER BY length(prefix) + length(suffix) DESC, id LIMIT 1`,
    [number],
  );
  return row?.name;
}
