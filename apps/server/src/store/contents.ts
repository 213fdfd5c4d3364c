/** What a version says, line by line: that which is signed, and held against what is there later. */
import { createHash } from 'node:crypto';
import type { EntityManager } from 'typeorm';
import { json, number, orNull, readRows, text } from '../database/read-rows.js';
import { LABEL } from './item-row.js';

/** Lines of a version's own, by version id. A line reads as it is said to a person where it is found to have changed. */
export type VersionLines = ReadonlyMap<string, readonly string[]>;

export function digestOf(lines: readonly string[]): string {
  return createHash('sha256').update(lines.join('\n'), 'utf8').digest('hex');
}

/**
 * @param gaps positions of links that led nowhere when it was signed, by version: a gap that was filled since is no change
 * @returns in an order of their own, for any versions; `O(rows)`
 */
export async function linesOf(
  manager: EntityManager,
  versionIds: readonly string[],
  gaps: ReadonlyMap<string, ReadonlySet<number>> = new Map(),
): Promise<VersionLines> {
  const versions = await readRows(
    manager,
    {
      id: text,
      item: text,
      kind: text,
      label: text,
      sha256: text,
      ref: text,
      properties: json<readonly Readonly<Record<string, unknown>>[]>(),
    },
    `SELECT v.id, i.number AS item, i.kind, ${LABEL} AS label, v.sha256, v.product_ref AS ref,
            coalesce(v.facts->'properties', '[]') AS properties
     FROM version v JOIN item i ON i.id = v.item_id JOIN revision r ON r.id = v.revision_id WHERE v.id = ANY($1::bigint[])`,
    [versionIds],
  );
  const links = await linksOf(manager, versionIds, gaps);
  return new Map(
    versions.map(({ id, item, kind, label, sha256, ref, properties }) => [
      id,
      [
        `${kind} ${item}`,
        `version ${label}`,
        `file ${sha256} #${ref}`,
        ...properties.map((property) => `property ${stable(property)}`).sort(),
        ...(links.get(id) ?? []),
      ],
    ]),
  );
}

async function linksOf(
  manager: EntityManager,
  versionIds: readonly string[],
  gaps: ReadonlyMap<string, ReadonlySet<number>>,
): Promise<Map<string, string[]>> {
  const rows = await readRows(
    manager,
    {
      id: text,
      position: number,
      relation: text,
      target: orNull(text),
      name: text,
      quantity: text,
      more: json<Readonly<Record<string, unknown>>>(),
    },
    `SELECT l.version_id AS id, l.position, l.relation, t.number || ' ' || ${LABEL} AS target, l.target_name_in_file AS name,
            l.quantity::text AS quantity,
            jsonb_build_object('carried', l.carried, 'find', l.find, 'configurations', l.configurations, 'amount', l.amount,
              'occurrences', encode(sha256(convert_to(l.occurrences::text, 'UTF8')), 'hex')) AS more
     FROM link l LEFT JOIN item t ON t.id = l.target_item_id LEFT JOIN version v ON v.id = l.target_version_id
       LEFT JOIN revision r ON r.id = v.revision_id
     WHERE l.version_id = ANY($1::bigint[]) ORDER BY l.version_id, l.position`,
    [versionIds],
  );
  const lines = new Map<string, string[]>();
  for (const { id, position, relation, target, name, quantity, more } of rows) {
    const isGap = target === null || gaps.get(id)?.has(position) === true;
    const to = isGap ? `a gap named ${JSON.stringify(name)}` : target;
    const own = lines.get(id) ?? [];
    own.push(`link ${position} ${relation} to ${to} ×${quantity} ${stable(more)}`);
    lines.set(id, own);
  }
  return lines;
}

/** JSON with its members in order, so that the same says the same. */
function stable(value: unknown): string {
  return JSON.stringify(value, (_, inner: unknown) =>
    typeof inner === 'object' && inner !== null && !Array.isArray(inner)
      ? Object.fromEntries(Object.entries(inner).sort(([a], [b]) => (a < b ? -1 : 1)))
      : inner,
  );
}

/** Positions of links that lines say led nowhere. */
export function gapsIn(lines: readonly string[]): ReadonlySet<number> {
  return new Set(
    lines.flatMap((line) => {
      const found = /^link (\d+) [a-z ]+ to a gap named /.exec(line);
      return found ? Number(found[1]) : [];
    }),
  );
}
