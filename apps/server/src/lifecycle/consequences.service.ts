import { Injectable } from '@nestjs/common';
import { valuesSet, type DiagramStep } from '@stem-trace/core';
import type { EntityManager } from 'typeorm';
import { Person } from '../database/entities/person.js';
import { indexProperties } from '../database/property-index.js';
import { readRow, text } from '../database/read-rows.js';
import { ProblemError } from '../problems/problem.js';
import type { DescribedVersion } from '../store/catalogue.service.js';
import { VersionCopier } from '../store/version-copier.js';
import { recordQuietly } from '../trail/record.js';
import type { StepTarget } from './step-ground.js';

/** A step that was taken. */
export interface Taken {
  readonly target: StepTarget;
  readonly step: DiagramStep;
}

interface By {
  readonly person: Person;
  readonly reason: string;
  readonly at: Date;
  /** At the site. */
  readonly day: string;
}

export function revises({ then }: DiagramStep): boolean {
  return then.some(({ kind }) => kind === 'revise');
}

/** What steps bring about in the items that took them, besides the new state: properties that are set, revisions that are opened. */
@Injectable()
export class ConsequencesService {
  constructor(private readonly copier: VersionCopier) {}

  /** In the caller's turn, which is also that of writers where a revision is opened. @throws ProblemError STEP_REFUSED */
  async carryOut(manager: EntityManager, taken: readonly Taken[], by: By): Promise<void> {
    await setValues(manager, taken, by);
    for (const { target, step } of taken) if (revises(step)) await this.revise(manager, target.item, by);
  }

  /**
   * The next revision begins with what is locked now, and nobody holds it. It goes on being the work of whoever made that: who
   * released it has made nothing of it.
   */
  private async revise(
    manager: EntityManager,
    item: DescribedVersion,
    { person, reason, at }: By,
  ): Promise<void> {
    if (item.carrierVersion !== null)
      throw new ProblemError(
        'STEP_REFUSED',
        `${item.number} lives in the file of another, and its next revision is opened with that. Take the step with what holds it. Nothing was changed.`,
      );
    const { author } = await readRow(
      manager,
      { author: text },
      'SELECT author_id AS author FROM version WHERE id = $1',
      [item.id],
    );
    const version = await this.copier.copy(manager, item, {
      ...{ comment: `Opened from ${item.label}`, links: 'recorded', at },
      person: await manager.findOneByOrFail(Person, { id: author }),
    });
    await recordQuietly(manager, [
      {
        ...{ personId: person.id, kind: 'revise', itemId: item.itemId, at },
        says: `${person.name} opened ${version} of ${item.number} from ${item.label}`,
        detail: { reason },
      },
    ]);
  }
}

async function setValues(
  manager: EntityManager,
  taken: readonly Taken[],
  { person, reason, day }: By,
): Promise<void> {
  const set = taken.flatMap(({ target, step }) => {
    const values = valuesSet(step, { person: person.name, reason, day });
    return values.length === 0 ? [] : [{ target, values }];
  });
  if (set.length === 0) return;
  // What was set before under another name stays.
  await manager.query(
    `UPDATE revision r SET set_values = (
       SELECT coalesce(jsonb_agg(p ORDER BY at), '[]') FROM jsonb_array_elements(r.set_values) WITH ORDINALITY AS n(p, at)
       WHERE lower(p->>'name') <> ALL (SELECT lower(q->>'name') FROM jsonb_array_elements(s.values) q)) || s.values
     FROM jsonb_to_recordset($1::jsonb) AS s(id bigint, values jsonb) WHERE r.id = s.id`,
    [JSON.stringify(set.map(({ target, values }) => ({ id: target.at.revisionId, values })))],
  );
  await indexProperties(
    manager,
    set.map(({ target }) => target.item.id),
  );
}
