import { Injectable } from '@nestjs/common';
import type { BillEditRequest, BillRowEdit, CustodyAnswer } from '@stem-trace/contract';
import {
  parseAmount,
  parseDesignators,
  pieces,
  isSameAmount,
  type Amount,
  type Occurrence,
} from '@stem-trace/core';
import type { EntityManager } from 'typeorm';
import type { Person } from '../database/entities/person.js';
import { json, number, orNull, readRows, text } from '../database/read-rows.js';
import { announce } from '../feed/feed.js';
import { ProblemError } from '../problems/problem.js';
import { CatalogueService, type DescribedVersion } from '../store/catalogue.service.js';
import { refuseNotHeld, takeFree } from '../store/hold-for-save.js';
import type { RowEdit } from '../store/store-writer.js';
import { lockItems, StoreTurn } from '../store/turn.js';
import { VersionCopier } from '../store/version-copier.js';
import { record } from '../trail/record.js';

const MOST_FIND = 20;

export interface Use {
  readonly position: number;
  readonly number: string;
  readonly find: string;
  readonly amount: Amount | null;
  readonly occurrences: readonly Occurrence[];
}

/** Changes what the BOM of a held assembly says of its rows: a new version with the same file. */
@Injectable()
export class BillEditService {
  constructor(
    private readonly turn: StoreTurn,
    private readonly catalogue: CatalogueService,
    private readonly copier: VersionCopier,
  ) {}

  /** @throws ProblemError INPUT_INVALID for what a row cannot say, NOT_HELD, NOT_ALLOWED */
  async edit(
    { item, version: seen, rows, comment, checkOut }: BillEditRequest,
    person: Person,
  ): Promise<CustodyAnswer> {
    const named = await this.catalogue.resolve(item, person, 'change');
    return this.turn.take(async (manager) => {
      await lockItems(manager, [named.itemId]);
      const taken = checkOut ? await takeFree(manager, this.catalogue, [named.itemId], person, 'BOM') : [];
      await refuseNotHeld(manager, [named], person);
      const newest = await this.catalogue.newest(named.itemId, manager);
      // Rows are told by their position, which means nothing in another version.
      if (newest.label !== seen)
        throw new ProblemError(
          'INPUT_INVALID',
          `${named.number} is at ${newest.label} by now; you edited the rows of ${seen}. Nothing was changed. Open the newest BOM and look at the rows again.`,
        );
      const edits = await this.editsOf(newest, rows, manager);
      const version = await this.copier.copy(manager, newest, {
        comment: comment || 'BOM: find numbers, designators and amounts',
        person,
        links: 'recorded',
        rows: edits,
      });
      await record(manager, [
        {
          personId: person.id,
          kind: 'properties',
          itemId: named.itemId,
          says: `${person.name} changed ${edits.length} ${edits.length === 1 ? 'row' : 'rows'} of the BOM of ${named.number}, as ${version}`,
        },
      ]);
      await manager.query('DELETE FROM hold WHERE item_id = ANY($1::bigint[]) AND person_id = $2', [
        taken,
        person.id,
      ]);
      await announce(manager, 'items', 'holds');
      return { done: [{ number: named.number, version }], refused: [] };
    });
  }

  private async editsOf(
    { id, number: assembly }: DescribedVersion,
    rows: readonly BillRowEdit[],
    manager: EntityManager,
  ): Promise<RowEdit[]> {
    const uses = new Map((await usesOf(manager, id)).map((use) => [use.position, use]));
    const problems: string[] = [];
    const edits = rows.flatMap((row) => {
      const use = uses.get(row.position);
      if (!use) {
        problems.push(`${assembly} has no such row any more`);
        return [];
      }
      const edit = editOf(id, use, row);
      if (typeof edit !== 'string') return [edit];
      problems.push(`${use.number}: ${edit}`);
      return [];
    });
    if (problems.length > 0)
      throw new ProblemError('INPUT_INVALID', `${problems.join('; ')}. Nothing was changed.`, problems);
    return edits;
  }
}

/** @returns a sentence where a row cannot say that */
function editOf(versionId: string, use: Use, row: BillRowEdit): RowEdit | string {
  const find = row.find?.trim() ?? use.find;
  if (find.length > MOST_FIND) return `a find number has at most ${MOST_FIND} signs`;
  let { amount } = use;
  if (row.amount !== undefined) {
    const read = row.amount.trim() === '' ? null : parseAmount(row.amount);
    if (read === undefined) return `“${row.amount}” is no amount, such as 4, 0.4 m or as required`;
    // As many pieces as the file has is what it is without anybody saying it.
    amount = read && isSameAmount(read, pieces(use.occurrences.length)) ? null : read;
  }
  if (row.designators === undefined)
    return { versionId, position: use.position, find, amount, occurrences: use.occurrences };
  const parsed = parseDesignators(row.designators);
  if (parsed.kind === 'problem') return parsed.says;
  if (parsed.designators.length > use.occurrences.length)
    return `${parsed.designators.length} designators for ${use.occurrences.length} places in the file`;
  return { versionId, position: use.position, find, amount, occurrences: named(use, parsed.designators) };
}

/** Occurrences keep a designator that they had, as far as it is still there; the others get the rest in order. */
function named({ occurrences }: Use, designators: readonly string[]): Occurrence[] {
  const wanted = new Set(designators);
  const kept = occurrences.map(({ designator }) =>
    designator !== undefined && wanted.delete(designator) ? designator : undefined,
  );
  const rest = [...wanted];
  return occurrences.map(({ designator: _, ...occurrence }, at) => {
    const designator = kept[at] ?? rest.shift();
    return designator === undefined ? occurrence : { ...occurrence, designator };
  });
}

export async function usesOf(manager: EntityManager, versionId: string): Promise<Use[]> {
  const rows = await readRows<Use>(
    manager,
    {
      position: number,
      number: text,
      find: text,
      amount: orNull(json<Amount>()),
      occurrences: json<Occurrence[]>(),
    },
    `SELECT l.position, coalesce(i.number, l.target_id_in_file) AS number, l.find, l.amount, l.occurrences
     FROM link l LEFT JOIN item i ON i.id = l.target_item_id WHERE l.version_id = $1 AND l.relation = 'component' ORDER BY l.position`,
    [versionId],
  );
  return rows;
}
