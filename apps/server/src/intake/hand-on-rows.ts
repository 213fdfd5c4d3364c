import {
  addTo,
  matchUses,
  sayDesignators,
  valueAt,
  type Amount,
  type IntakeRow,
  type KnownUse,
} from '@stem-trace/core';
import type { EntityManager } from 'typeorm';
import { isStructure } from '../database/conditions.js';
import { json, orNull, readRows, text } from '../database/read-rows.js';
import type { NewLink } from '../store/store-writer.js';

/** What a BOM said of a use that the new version has no more. */
export interface RowLeft {
  /** The assembly. */
  readonly number: string;
  readonly says: string;
}

export interface HandedOn {
  readonly links: readonly NewLink[];
  readonly left: readonly RowLeft[];
}

interface OldUse extends KnownUse {
  readonly versionId: string;
  /** What the store calls the target; the text of the file for a gap. */
  readonly said: string;
}

/**
 * Gives links of new versions the find numbers, designators and amounts of the same uses in the versions before: a file says
 * little of these, and exporters number occurrences anew.
 *
 * @param rows that become new versions
 * @param linksOf links of a row, as its file has them
 */
export async function handOnRows(
  manager: EntityManager,
  rows: readonly IntakeRow[],
  linksOf: (row: IntakeRow) => readonly NewLink[],
): Promise<HandedOn> {
  const before = await usesBefore(
    manager,
    rows.flatMap(({ status }) => (status.kind === 'newVersion' ? [status.of.newest.id] : [])),
  );
  const links: NewLink[] = [];
  const left: RowLeft[] = [];
  for (const row of rows) {
    const fresh = linksOf(row);
    const old = row.status.kind === 'newVersion' ? (before.get(row.status.of.newest.id) ?? []) : [];
    if (!old.some(hasMore)) {
      links.push(...fresh);
      continue;
    }
    const structure = fresh.filter(({ relation }) => relation === 'component');
    const matched = matchUses(
      old,
      structure.map((link) => ({ target: targetOf(link), find: '', occurrences: link.occurrences })),
    );
    links.push(...fresh.filter(({ relation }) => relation !== 'component'));
    links.push(...structure.map((link, at) => ({ ...link, ...valueAt(matched.uses, at) })));
    const said = new Map(old.map(({ target, said: name }) => [target, name]));
    for (const { target, find, designators } of matched.left)
      left.push({
        number: row.number,
        says: [
          said.get(target) ?? target,
          find === '' ? '' : `find number ${find}`,
          designators.length === 0 ? '' : sayDesignators(designators),
        ]
          .filter(Boolean)
          .join(', '),
      });
  }
  return { links, left };
}

/** Whether anything is said that a file does not say. */
function hasMore({ find, amount, occurrences }: OldUse): boolean {
  return (
    find !== '' || amount !== undefined || occurrences.some(({ designator }) => designator !== undefined)
  );
}

function targetOf({ targetItemId, targetIdInFile }: NewLink): string {
  return targetItemId ?? `gap ${targetIdInFile}`;
}

async function usesBefore(
  manager: EntityManager,
  versions: readonly string[],
): Promise<Map<string, OldUse[]>> {
  const rows = await readRows<Omit<OldUse, 'amount'> & { readonly amount: Amount | null }>(
    manager,
    {
      versionId: text,
      target: text,
      said: text,
      find: text,
      amount: orNull(json<Amount>()),
      occurrences: json(),
    },
    `SELECT l.version_id AS "versionId", coalesce(l.target_item_id::text, 'gap ' || l.target_id_in_file) AS target,
            coalesce(i.number, l.target_id_in_file) AS said, l.find, l.amount, l.occurrences
     FROM link l LEFT JOIN item i ON i.id = l.target_item_id
     WHERE l.version_id = ANY($1::bigint[]) AND ${isStructure()} AND l.relation = 'component' ORDER BY l.version_id, l.position`,
    [versions],
  );
  const uses = new Map<string, OldUse[]>();
  for (const { amount, ...use } of rows)
    addTo(uses, use.versionId, { ...use, ...(amount === null ? {} : { amount }) });
  return uses;
}
