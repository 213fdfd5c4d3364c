import { veiledNumbers, withoutNumbers } from '../trail/mentions.js';
import { Injectable } from '@nestjs/common';
import type { NoticesAnswer } from '@stem-trace/contract';
import { DataSource } from 'typeorm';
import { RightsService, unknownPlace } from '../access/rights.service.js';
import type { Person } from '../database/entities/person.js';
import { listOf, flag, number, orNull, readRow, readRows, text, timeText } from '../database/read-rows.js';
import { announce } from '../feed/feed.js';
import { CatalogueService } from '../store/catalogue.service.js';

const SHOWN = 200;

/** What a person is told, and what they watch. */
@Injectable()
export class NoticesService {
  constructor(
    private readonly database: DataSource,
    private readonly catalogue: CatalogueService,
    private readonly rights: RightsService,
  ) {}

  async list(person: Person): Promise<NoticesAnswer> {
    const hidden = (await this.rights.of(person)).placesWithout('see');
    const rows = await readRows<NoticesAnswer['rows'][number] & { veiled: readonly string[] }>(
      this.database,
      {
        id: text,
        at: timeText,
        says: text,
        number: orNull(text),
        address: orNull(text),
        read: flag,
        asks: orNull(text),
        veiled: listOf(text),
      },
      `SELECT n.id, n.at, n.says, i.number, n.address, n.read_at IS NOT NULL AS read, q.id AS asks, ${veiledNumbers('n.mentions', '$3')} AS veiled
       FROM notice n LEFT JOIN item i ON i.id = n.item_id
       LEFT JOIN hold_request q ON q.id = n.hold_request_id AND q.answered_at IS NULL
         AND EXISTS (SELECT FROM hold h WHERE h.item_id = q.item_id AND h.person_id = q.holder_id)
       WHERE n.person_id = $1 AND (i.id IS NULL OR i.place_id <> ALL($3::bigint[])) ORDER BY n.id DESC LIMIT $2`,
      [person.id, SHOWN, hidden],
    );
    const { unread } = await readRow(
      this.database,
      { unread: number },
      `SELECT count(*)::int AS unread FROM notice n LEFT JOIN item i ON i.id = n.item_id
       WHERE n.person_id = $1 AND n.read_at IS NULL AND (i.id IS NULL OR i.place_id <> ALL($2::bigint[]))`,
      [person.id, hidden],
    );
    return {
      unread,
      rows: rows.map(({ veiled, ...row }) => ({ ...row, says: withoutNumbers(row.says, veiled) })),
    };
  }

  async readAll(person: Person): Promise<void> {
    await this.database.transaction(async (manager) => {
      await manager.query('UPDATE notice SET read_at = now() WHERE person_id = $1 AND read_at IS NULL', [
        person.id,
      ]);
      await announce(manager, 'notices');
    });
  }

  /** To be told what happens to anything in a place or below it. */
  async watchPlace(path: string, watch: boolean, person: Person): Promise<void> {
    const [place] = await readRows(this.database, { id: text }, 'SELECT id FROM place WHERE path = $1', [
      path,
    ]);
    if (!place || !(await this.rights.of(person)).may('see', place.id)) throw unknownPlace(path);
    await this.database.query(
      watch
        ? 'INSERT INTO place_watch (person_id, place_id) VALUES ($1, $2) ON CONFLICT DO NOTHING'
        : 'DELETE FROM place_watch WHERE person_id = $1 AND place_id = $2',
      [person.id, place.id],
    );
  }

  async watch(item: string, watch: boolean, person: Person): Promise<void> {
    const { itemId } = await this.catalogue.resolve(item, person);
    await this.database.query(
      watch
        ? 'INSERT INTO watch (person_id, item_id) VALUES ($1, $2) ON CONFLICT DO NOTHING'
        : 'DELETE FROM watch WHERE person_id = $1 AND item_id = $2',
      [person.id, itemId],
    );
  }
}
