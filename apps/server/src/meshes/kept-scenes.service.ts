import { Injectable } from '@nestjs/common';
import type {
  ChangeSceneRequest,
  KeepSceneRequest,
  KeptScene,
  KeptSceneRow,
  KeptScenesAnswer,
  SceneKept,
  SceneLook,
} from '@stem-trace/contract';
import { DataSource, type EntityManager } from 'typeorm';
import type { Person } from '../database/entities/person.js';
import {
  flag,
  json,
  number,
  readRow,
  readRows,
  text,
  timeText,
  type Columns,
} from '../database/read-rows.js';
import { announce } from '../feed/feed.js';
import { ProblemError } from '../problems/problem.js';
import { CatalogueService } from '../store/catalogue.service.js';

/** More of one item than anybody could choose from; a script that runs wild ends here. */
const MOST_OF_ITEM = 500;

const ROW: Columns<KeptSceneRow> = {
  ...{
    id: text,
    name: text,
    by: text,
    initials: text,
    isMine: flag,
    at: timeText,
    version: text,
    note: text,
  },
};
const SELECTED = `s.id, s.name, p.name AS "by", p.initials, p.id = $2 AS "isMine", s.at, r.code || '/' || v.seq AS version,
  s.look->>'note' AS note`;
const FROM = `scene s JOIN person p ON p.id = s.person_id JOIN version v ON v.id = s.version_id
  JOIN revision r ON r.id = v.revision_id`;

/** Looks at items that people keep under a name; whoever may see the item sees them. */
@Injectable()
export class KeptScenesService {
  constructor(
    private readonly database: DataSource,
    private readonly catalogue: CatalogueService,
  ) {}

  /** Of all versions of an item, the newest first. */
  async list(item: string, person: Person): Promise<KeptScenesAnswer> {
    const { itemId } = await this.catalogue.resolve(item, person);
    const rows = await readRows(
      this.database,
      ROW,
      `SELECT ${SELECTED} FROM ${FROM} WHERE s.item_id = $1 ORDER BY s.id DESC`,
      [itemId, person.id],
    );
    return { rows };
  }

  /** @throws ProblemError ENTRY_UNKNOWN, also where its item may not be seen */
  async open(id: string, person: Person): Promise<KeptScene> {
    const [found] = await readRows<KeptScene>(
      this.database,
      { ...ROW, number: text, look: json<SceneLook>() },
      `SELECT ${SELECTED}, s.look, (SELECT i.number FROM item i WHERE i.id = s.item_id) AS number FROM ${FROM} WHERE s.id = $1`,
      [id, person.id],
    );
    if (!found) throw unknownScene();
    await this.mustSee(found.number, person);
    return found;
  }

  async keep({ item, name, look }: KeepSceneRequest, person: Person, at = new Date()): Promise<SceneKept> {
    const { id: versionId, itemId, number: of } = await this.catalogue.resolve(item, person);
    return this.database.transaction(async (manager) => {
      const { count } = await readRow(
        manager,
        { count: number },
        'SELECT count(*)::int AS count FROM scene WHERE item_id = $1',
        [itemId],
      );
      if (count >= MOST_OF_ITEM)
        throw new ProblemError(
          'TOO_COSTLY',
          `There are ${MOST_OF_ITEM} scenes of ${of} already. Take away what nobody needs any more.`,
        );
      const kept = await readRow(
        manager,
        { id: text },
        'INSERT INTO scene (item_id, version_id, name, look, person_id, at) VALUES ($1, $2, $3, $4, $5, $6) RETURNING id',
        [itemId, versionId, name, JSON.stringify(look), person.id, at],
      );
      await announce(manager, 'scenes');
      return kept;
    });
  }

  /** @throws ProblemError ENTRY_UNKNOWN; STEP_REFUSED for another's scene */
  async change({ id, name, look }: ChangeSceneRequest, person: Person): Promise<void> {
    await this.database.transaction(async (manager) => {
      await this.own(manager, id, person);
      await manager.query('UPDATE scene SET name = $2, look = $3 WHERE id = $1', [
        id,
        name,
        JSON.stringify(look),
      ]);
      await announce(manager, 'scenes');
    });
  }

  /** @throws ProblemError as `change` */
  async remove(id: string, person: Person): Promise<void> {
    await this.database.transaction(async (manager) => {
      await this.own(manager, id, person);
      await manager.query('DELETE FROM scene WHERE id = $1', [id]);
      await announce(manager, 'scenes');
    });
  }

  private async own(manager: EntityManager, id: string, person: Person): Promise<void> {
    const [found] = await readRows(
      manager,
      { personId: text, number: text },
      `SELECT s.person_id AS "personId", i.number FROM scene s JOIN item i ON i.id = s.item_id WHERE s.id = $1 FOR UPDATE OF s`,
      [id],
    );
    if (!found) throw unknownScene();
    await this.mustSee(found.number, person, manager);
    if (found.personId !== person.id)
      throw new ProblemError('STEP_REFUSED', 'Somebody else kept this scene. Keep one of your own instead.');
  }

  /** Whoever may not see the item is not told that there is a scene. */
  private async mustSee(item: string, person: Person, manager?: EntityManager): Promise<void> {
    await this.catalogue.resolve(item, person, 'see', manager).catch((error: unknown) => {
      throw error instanceof ProblemError ? unknownScene() : error;
    });
  }
}

function unknownScene(): ProblemError {
  return new ProblemError('ENTRY_UNKNOWN', 'There is no such scene any more. Look at the item anew.');
}
