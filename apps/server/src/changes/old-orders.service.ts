import { effectivityOf, type ItemKind } from '@stem-trace/core';
import type { DataSource } from 'typeorm';
import { id, readRows, text, word } from '../database/read-rows.js';
import { Recurring } from '../queue/recurring.js';
import { LABEL } from '../store/item-row.js';
import type { ChangeFiles } from './change-contents.js';

const LOOK_MS = 600_000;
const AT_A_TIME = 200;

/** Reads when changes take effect that were written before rows said it. */
export class OldOrdersService extends Recurring {
  constructor(
    inBackground: boolean,
    private readonly database: DataSource,
    private readonly files: ChangeFiles,
  ) {
    super(inBackground, 'old orders', LOOK_MS);
  }

  protected work(): Promise<unknown> {
    return this.read();
  }

  /** @returns how many were read; those whose files are missing stay. */
  async read(): Promise<number> {
    let count = 0;
    for (let after = '0', isMore = true; isMore;) {
      const changes = await readRows(
        this.database,
        { itemId: id, number: text, label: text, kind: word<ItemKind>(), sha256: text },
        `SELECT i.id AS "itemId", i.number, ${LABEL} AS label, i.kind, v.sha256 FROM change c JOIN item i ON i.id = c.item_id
         JOIN version v ON v.id = i.newest_version_id JOIN revision r ON r.id = v.revision_id
         WHERE c.spans IS NULL AND c.item_id > $1 ORDER BY c.item_id LIMIT ${AT_A_TIME}`,
        [after],
      );
      for (const change of changes) {
        after = change.itemId;
        const contents = await this.files.read(change).catch(() => undefined);
        if (!contents) continue;
        // Unless somebody has written it anew meanwhile.
        await this.database.query('UPDATE change SET spans = $2 WHERE item_id = $1 AND spans IS NULL', [
          change.itemId,
          effectivityOf(contents.takesEffect) ?? {},
        ]);
        count++;
      }
      isMore = changes.length === AT_A_TIME;
    }
    return count;
  }
}
