import { Injectable } from '@nestjs/common';
import type { PlaceAccessRequest, PlaceAccessView } from '@stem-trace/contract';
import { upwards, type Grant } from '@stem-trace/core';
import { DataSource, type EntityManager } from 'typeorm';
import { GRANTS, RightsService, unknownPlace } from '../access/rights.service.js';
import type { Person } from '../database/entities/person.js';
import { countRows, flag, json, readRows, text } from '../database/read-rows.js';
import { announce } from '../feed/feed.js';
import { record } from '../trail/record.js';
import { ProblemError } from '../problems/problem.js';

/** Who may do what in a place: looked at by those who see it, changed by those who administer it. */
@Injectable()
export class PlaceAccessService {
  constructor(
    private readonly database: DataSource,
    private readonly rights: RightsService,
  ) {}

  async view(place: string, person: Person): Promise<PlaceAccessView> {
    const rights = await this.rights.of(person);
    if (!rights.mayAt('see', place)) throw unknownPlace(place);
    const rows = await readRows(
      this.database,
      { path: text, inherits: flag, grants: json<Grant[]>() },
      `SELECT p.path, p.inherits, ${GRANTS} FROM place p WHERE p.path = ANY($1::text[]) ORDER BY length(p.path) DESC`,
      [[...upwards(place)]],
    );
    const own = rows.find(({ path }) => path === place);
    return {
      place,
      inherits: own?.inherits ?? true,
      grants: own?.grants ?? [],
      fromAbove: own?.inherits === false ? [] : grantedAbove(rows.filter(({ path }) => path !== place)),
      mine: [...rights.rightsAt(place)],
    };
  }

  /** @throws ProblemError NOT_ALLOWED, PLACE_UNKNOWN, PERSON_UNKNOWN */
  async change(request: PlaceAccessRequest, person: Person): Promise<PlaceAccessView> {
    (await this.rights.of(person)).require('administer', request.place);
    await this.database.transaction(async (manager) => {
      const [place] = await readRows(
        manager,
        { id: text },
        'SELECT id FROM place WHERE path = $1 FOR UPDATE',
        [request.place],
      );
      if (!place) throw unknownPlace(request.place);
      await manager.query('UPDATE place SET inherits = $2 WHERE id = $1', [place.id, request.inherits]);
      await manager.query('DELETE FROM place_grant WHERE place_id = $1', [place.id]);
      await insertGrants(manager, place.id, request.grants);
      // Nobody shuts themselves out by mistake: whoever administers a place still does afterwards.
      const after = await this.rights.of(person, manager);
      if (!after.mayAt('administer', request.place)) {
        throw new ProblemError(
          'INPUT_INVALID',
          'You would lose your own access to the place. Nothing was changed; keep a grant for yourself.',
        );
      }
      await record(manager, [
        {
          personId: person.id,
          kind: 'access',
          itemId: null,
          says: `${person.name} changed the access to ${request.place}`,
          detail: { place: request.place, inherits: request.inherits, grants: request.grants },
        },
      ]);
      await announce(manager, 'items', 'holds', 'notices');
    });
    return this.view(request.place, person);
  }
}

/** Grants of the places above, nearest first, up to the one that cuts off what is above it. */
function grantedAbove(
  above: readonly { readonly path: string; readonly inherits: boolean; readonly grants: readonly Grant[] }[],
): PlaceAccessView['fromAbove'] {
  const cut = above.findIndex(({ inherits }) => !inherits);
  return above
    .slice(0, cut < 0 ? above.length : cut + 1)
    .flatMap(({ path, grants }) => (grants.length > 0 ? [{ place: path, grants }] : []));
}

async function insertGrants(
  manager: EntityManager,
  placeId: string,
  grants: readonly Grant[],
): Promise<void> {
  for (const { to, rights } of grants) {
    const inserted = await countRows(
      manager,
      to.kind === 'role'
        ? 'INSERT INTO place_grant (place_id, role, rights) VALUES ($1, $2, $3) RETURNING place_id'
        : `INSERT INTO place_grant (place_id, person_id, rights)
           SELECT $1, id, $3 FROM person WHERE login = $2 RETURNING place_id`,
      [placeId, to.kind === 'role' ? to.role : to.login, rights],
    );
    if (inserted === 0 && to.kind === 'person')
      throw new ProblemError('PERSON_UNKNOWN', `There is nobody called '${to.login}'. Nothing was changed.`);
  }
}
