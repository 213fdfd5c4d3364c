import { Injectable } from '@nestjs/common';
import type { BinRow } from '@stem-trace/contract';
import { DataSource, type EntityManager } from 'typeorm';
import { RightsService, unknownPlace } from '../access/rights.service.js';
import type { Person } from '../database/entities/person.js';
import { countRows, number, readRows, text, timeText } from '../database/read-rows.js';
import { announce } from '../feed/feed.js';
import { counted, record } from '../trail/record.js';
import { ProblemError } from '../problems/problem.js';
import { StoreTurn } from '../store/turn.js';

/** Reasons that are said in the sentence; the problem's details hold all. */
const SAID = 5;

/** Places that were deleted, with all that lies in them. Nothing is lost: a place comes back as it was. */
@Injectable()
export class BinService {
  constructor(
    private readonly database: DataSource,
    private readonly turn: StoreTurn,
    private readonly rights: RightsService,
  ) {}

  /** What the asker may bring back. */
  async list(person: Person): Promise<BinRow[]> {
    return readRows<BinRow>(
      this.database,
      { path: text, items: number, binnedAt: timeText, binnedBy: text },
      `SELECT p.path, p.binned_at AS "binnedAt", a.name AS "binnedBy",
              (SELECT count(*)::int FROM item i JOIN place q ON q.id = i.place_id
               WHERE q.path = p.path OR starts_with(q.path, p.path || '/')) AS items
       FROM place p JOIN person a ON a.id = p.binned_by
       WHERE p.binned_at IS NOT NULL AND (p.binned_by = $1 OR $2) ORDER BY p.binned_at DESC`,
      [person.id, person.role === 'administrator'],
    );
  }

  /** @throws ProblemError PLACE_IN_USE where something outside uses what lies in it, or somebody holds it */
  async put(path: string, person: Person): Promise<void> {
    if (path === '/')
      throw new ProblemError('INPUT_INVALID', 'The whole store cannot be deleted. Nothing was changed.');
    const rights = await this.rights.of(person);
    rights.requireWithin('change', path);
    await this.turn.take(async (manager) => {
      const places = await readRows(
        manager,
        { path: text },
        `SELECT path FROM place WHERE ${within('path')}`,
        [path],
      );
      if (places.length === 0) throw unknownPlace(path);
      await refuseUsed(manager, path, rights.placesWithout('see'));
      // A place that is only implied by those below it gets a row of its own.
      await manager.query(
        `INSERT INTO place (path, binned_at, binned_by) VALUES ($1, now(), $2)
         ON CONFLICT (path) DO UPDATE SET binned_at = now(), binned_by = $2`,
        [path, person.id],
      );
      await tell(manager, `${person.name} put ${path} into the bin`, person);
    });
  }

  async restore(path: string, person: Person): Promise<void> {
    await this.turn.take(async (manager) => {
      const restored = await countRows(
        manager,
        `UPDATE place SET binned_at = NULL, binned_by = NULL
         WHERE path = $1 AND binned_at IS NOT NULL AND (binned_by = $2 OR $3) RETURNING id`,
        [path, person.id, person.role === 'administrator'],
      );
      if (restored === 0)
        throw new ProblemError('PLACE_UNKNOWN', `${path} is not in your bin. Look at what is in it.`);
      await tell(manager, `${person.name} brought ${path} back from the bin`, person);
    });
  }
}

/** Users that the asker may not see are counted and not named. */
async function refuseUsed(
  manager: EntityManager,
  path: string,
  hiddenPlaces: readonly string[],
): Promise<void> {
  const held = await readRows(
    manager,
    { says: text },
    `SELECT i.number || ' is held by ' || a.name AS says FROM hold h JOIN item i ON i.id = h.item_id
     JOIN person a ON a.id = h.person_id JOIN place p ON p.id = i.place_id WHERE ${within('p.path')}`,
    [path],
  );
  const used = await readRows(
    manager,
    { says: text },
    `SELECT DISTINCT t.number || ' is used in ' ||
            CASE WHEN u.place_id = ANY($2::bigint[]) THEN 'something that you may not see' ELSE u.number END AS says
     FROM item t JOIN place tp ON tp.id = t.place_id JOIN link l ON l.target_item_id = t.id
     JOIN item u ON u.newest_version_id = l.version_id JOIN place up ON up.id = u.place_id
     WHERE ${within('tp.path')} AND NOT ${within('up.path')} AND up.binned_at IS NULL ORDER BY 1`,
    [path, hiddenPlaces],
  );
  const reasons = [...held, ...used].map(({ says }) => says);
  if (reasons.length === 0) return;
  const more = reasons.length - SAID;
  const said = reasons.slice(0, SAID).join('; ');
  throw new ProblemError(
    'PLACE_IN_USE',
    `${path} cannot be deleted: ${said}${more > 0 ? `; and ${counted(more, 'more reason')}` : ''}. Nothing was changed.`,
    reasons,
  );
}

async function tell(manager: EntityManager, says: string, person: Person): Promise<void> {
  await record(manager, [{ personId: person.id, kind: 'place', itemId: null, says }]);
  await announce(manager, 'items', 'notices');
}

function within(column: string): string {
  return `(${column} = $1 OR starts_with(${column}, $1 || '/'))`;
}
