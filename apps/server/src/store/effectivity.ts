/** From when until when uses count, as those who look may be told of it. */
import { addTo, checkEffectivity, numberKey, productsIn, renamed, type Effectivity } from '@stem-trace/core';
import type { EntityManager } from 'typeorm';
import type { Rights } from '../access/rights.service.js';
import { json, orAbsent, orNull, readRows, text } from '../database/read-rows.js';

/** What a product is called that may not be seen. */
const NOT_VISIBLE = 'a product that you may not see';

/** What stands for an effectivity where some of the products are hidden. */
export type TellEffectivity = (effectivity: Effectivity | undefined) => Effectivity | undefined;

/** @param told all that is going to be told; one query where any of it speaks of products, none else */
export async function effectivityTeller(
  manager: Pick<EntityManager, 'query'>,
  told: readonly { readonly effectivity?: Effectivity }[],
  rights: Rights,
): Promise<TellEffectivity> {
  const keys = new Set(
    told.flatMap(({ effectivity }) => (effectivity ? productsIn(effectivity).map(numberKey) : [])),
  );
  if (keys.size === 0) return (effectivity) => effectivity;
  const rows = await readRows(
    manager,
    { key: text },
    'SELECT number_key AS key FROM item WHERE number_key = ANY($1::text[]) AND place_id <> ALL($2::bigint[])',
    [[...keys], rights.placesWithout('see')],
  );
  const seen = new Set(rows.map(({ key }) => key));
  // Each by a name of its own: limits of different products must not be taken for limits of one.
  const hidden = [...keys].filter((key) => !seen.has(key)).sort();
  const nameOf = new Map(
    hidden.map((key, at) => [key, at === 0 ? NOT_VISIBLE : `${NOT_VISIBLE} (${at + 1})`]),
  );
  return (effectivity) =>
    effectivity && renamed(effectivity, (product) => nameOf.get(numberKey(product)) ?? product);
}

/** What is called in place of the number of what may not be seen. */
const HIDDEN_USE = 'something that you may not see';

/**
 * What overlaps in time, or leaves a hole, among what follows one another under the find numbers of versions.
 *
 * @returns by version, each as the end of a sentence; versions without any are absent
 */
export async function effectivityFaults(
  manager: Pick<EntityManager, 'query'>,
  versionIds: readonly string[],
  rights: Rights,
): Promise<ReadonlyMap<string, string[]>> {
  const rows = await readRows(
    manager,
    {
      version: text,
      find: text,
      number: text,
      placeId: orNull(text),
      effectivity: orAbsent(json<Effectivity>()),
    },
    `SELECT l.version_id AS version, l.find, coalesce(i.number, l.target_name_in_file) AS number, i.place_id AS "placeId",
            e.spans AS effectivity
     FROM link l LEFT JOIN item i ON i.id = l.target_item_id LEFT JOIN effectivity e ON e.link_id = l.id
     WHERE l.relation = 'component' AND l.find <> ''
       AND l.version_id IN (SELECT version_id FROM effectivity WHERE version_id = ANY($1::bigint[]))
     ORDER BY l.version_id, l.position`,
    [versionIds],
  );
  if (rows.length === 0) return new Map();
  const tell = await effectivityTeller(manager, rows, rights);
  const placed = rows.map(({ version, find, number, placeId, effectivity }) => {
    const isSeen = placeId === null || rights.may('see', placeId);
    const told = tell(effectivity);
    return {
      ...{ version, find, place: `${version} ${find}`, named: isSeen ? number : HIDDEN_USE },
      ...(told ? { effectivity: told } : {}),
    };
  });
  const faults = new Map<string, string[]>();
  for (const { at, says } of checkEffectivity(placed))
    addTo(faults, at.version, `find number ${at.find}: ${says}`);
  return faults;
}
