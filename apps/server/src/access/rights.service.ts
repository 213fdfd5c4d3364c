import { Injectable } from '@nestjs/common';
import { rightsAt, type PlaceAccess, type Right } from '@stem-trace/core';
import { DataSource, type EntityManager } from 'typeorm';
import type { Person } from '../database/entities/person.js';
import { flag, json, readRow, readRows, text } from '../database/read-rows.js';
import { Marks } from '../feed/freshness.js';
import { ProblemError } from '../problems/problem.js';

interface Snapshot {
  /** While access is known to be as it was when this was read. */
  mark?: number | undefined;
  readonly version: string;
  readonly places: ReadonlyMap<string, PlaceAccess>;
  readonly ids: ReadonlyMap<string, string>;
  /** By login and role. */
  readonly rights: Map<string, Rights>;
}

/** What one person may do, as the store stood when it was asked for. */
export class Rights {
  private readonly byPlaceId = new Map<string, ReadonlySet<Right>>();
  private readonly refused = new Map<Right, readonly string[]>();

  constructor(
    private readonly person: Pick<Person, 'login' | 'role'>,
    private readonly places: ReadonlyMap<string, PlaceAccess>,
    private readonly ids: ReadonlyMap<string, string>,
  ) {
    for (const [path, id] of ids) this.byPlaceId.set(id, rightsAt(places, path, person));
  }

  at(placeId: string): ReadonlySet<Right> {
    return this.byPlaceId.get(placeId) ?? new Set();
  }

  may(right: Right, placeId: string): boolean {
    return this.at(placeId).has(right);
  }

  /** For a path that may not be a place yet. */
  rightsAt(path: string): ReadonlySet<Right> {
    return rightsAt(this.places, path, this.person);
  }

  mayAt(right: Right, path: string): boolean {
    return this.rightsAt(path).has(right);
  }

  mayAnywhere(right: Right): boolean {
    return [...this.ids.values()].some((id) => this.may(right, id));
  }

  /** Ids of places where a right is missing; most people see most, so this is the shorter list. */
  placesWithout(right: Right): readonly string[] {
    const known = this.refused.get(right);
    if (known) return known;
    const without = [...this.ids.values()].filter((id) => !this.may(right, id));
    this.refused.set(right, without);
    return without;
  }

  /**
   * For a place with everything below it.
   *
   * @throws ProblemError NOT_ALLOWED
   */
  requireWithin(right: Right, path: string): void {
    this.require(right, path);
    const below = [...this.ids].filter(([own]) => own.startsWith(`${path}/`));
    if (below.every(([, id]) => this.may(right, id))) return;
    throw new ProblemError(
      'NOT_ALLOWED',
      `Something below ${path} is not yours to ${right}. Ask somebody who administers it. Nothing was changed.`,
    );
  }

  /** @throws ProblemError NOT_ALLOWED */
  require(right: Right, path: string): void {
    if (this.mayAt(right, path)) return;
    // A place that one may not see is not confirmed to be there.
    if (!this.mayAt('see', path)) throw unknownPlace(path);
    throw new ProblemError(
      'NOT_ALLOWED',
      `You may not ${right} what lies in ${path}. Ask somebody who administers it. Nothing was changed.`,
    );
  }
}

/** Column with a place's own grants. Wants `place` as `p`. */
export const GRANTS = `coalesce((
  SELECT jsonb_agg(jsonb_build_object('rights', g.rights, 'to', CASE WHEN g.role IS NULL
    THEN jsonb_build_object('kind', 'person', 'login', a.login)
    ELSE jsonb_build_object('kind', 'role', 'role', g.role) END) ORDER BY g.role NULLS LAST, a.login)
  FROM place_grant g LEFT JOIN person a ON a.id = g.person_id WHERE g.place_id = p.id), '[]') AS grants`;

export function unknownPlace(path: string): ProblemError {
  return new ProblemError('PLACE_UNKNOWN', `There is no place ${path}. Look at the tree of places.`);
}

/** Works out access; kept until anything about it changes, in whichever server process. */
@Injectable()
export class RightsService {
  private snapshot: Snapshot | undefined;

  constructor(
    private readonly database: DataSource,
    private readonly marks: Marks,
  ) {}

  async of(
    person: Pick<Person, 'login' | 'role'>,
    manager: EntityManager = this.database.manager,
  ): Promise<Rights> {
    const mark = manager.queryRunner?.isTransactionActive ? undefined : this.marks.mark('access');
    if (mark !== undefined && this.snapshot?.mark === mark) return rightsIn(this.snapshot, person);
    const { version } = await readRow(manager, { version: text }, 'SELECT version FROM access_version');
    // Inside a transaction that changed access itself, its own view must not be kept for others.
    const snapshot = this.snapshot?.version === version ? this.snapshot : await load(manager, version);
    if (!manager.queryRunner?.isTransactionActive) {
      snapshot.mark = mark;
      this.snapshot = snapshot;
    }
    return rightsIn(snapshot, person);
  }
}

function rightsIn(snapshot: Snapshot, person: Pick<Person, 'login' | 'role'>): Rights {
  const key = JSON.stringify([person.login, person.role]);
  const rights = snapshot.rights.get(key) ?? new Rights(person, snapshot.places, snapshot.ids);
  snapshot.rights.set(key, rights);
  return rights;
}

async function load(manager: EntityManager, version: string): Promise<Snapshot> {
  const rows = await readRows<PlaceAccess & { id: string }>(
    manager,
    {
      path: text,
      inherits: flag,
      isBinned: flag,
      grants: json<(PlaceAccess & { id: string })['grants']>(),
      id: text,
    },
    `SELECT p.id, p.path, p.inherits, p.binned_at IS NOT NULL AS "isBinned", ${GRANTS} FROM place p`,
  );
  return {
    version,
    places: new Map(
      rows.map(({ path, inherits, isBinned, grants }) => [path, { path, inherits, isBinned, grants }]),
    ),
    ids: new Map(rows.map(({ path, id }) => [path, id])),
    rights: new Map(),
  };
}
