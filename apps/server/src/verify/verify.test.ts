/** Each rule of the verification is broken on purpose, past the guards, and must be found. */
import type { VerifyAnswer } from '@stem-trace/contract';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { readExchangeSet } from '../../../../packages/formats/src/testing/exchange-files.js';
import { TestStore } from '../testing/test-store.js';
import { VerifyService } from './verify.service.js';

let store: TestStore;
beforeEach(async () => {
  store = await TestStore.open();
  await store.intake(readExchangeSet('s1-tu-203'));
  await store.derive({ item: 's1', copy: 'all', prefix: 'V-' });
});
afterEach(() => store.close());

const verify = (): Promise<VerifyAnswer> => store.server.app.get(VerifyService).verify();

/** Changes rows that triggers protect. */
async function damage(sql: string): Promise<void> {
  const owner = await store.owner();
  await owner.query(`SET session_replication_role = replica; ${sql}; SET session_replication_role = DEFAULT`);
}

describe('a whole store', () => {
  it('is said to be whole, with what was counted', async () => {
    expect(await verify()).toEqual({
      whole: true,
      items: 26,
      versions: 26,
      links: 24,
      gaps: 0,
      holds: 0,
      blobs: 9,
      signatures: 0,
      faults: [],
    });
  });
});

describe('what is broken is found', () => {
  it.each([
    [
      'an item that does not know its newest version',
      `UPDATE item SET newest_version_id = NULL WHERE number = 'foot'`,
      'foot: violates: every item has a version, and knows its newest',
    ],
    [
      'a hole in the count of versions',
      `UPDATE version SET ordinal = 7 WHERE item_id = (SELECT id FROM item WHERE number = 'tail')`,
      'tail: violates: versions of an item are counted without holes',
    ],
    [
      'a hole in the count of a revision',
      `UPDATE version SET seq = 7 WHERE item_id = (SELECT id FROM item WHERE number = 'tail')`,
      'tail A: violates: versions of a revision are counted without holes',
    ],
    [
      'a revision without a version',
      `INSERT INTO revision (item_id, code, position, state, lifecycle_version_id) SELECT id, 'B', 2, 'draft', 1 FROM item WHERE number = 'head'`,
      'head B: violates: every revision has a version',
    ],
    [
      'a link to a version of another item',
      `UPDATE link SET target_item_id = (SELECT id FROM item WHERE number = 'headback') WHERE target_id_in_file = 'footback' AND id = (SELECT min(id) FROM link WHERE target_id_in_file = 'footback')`,
      'foot: violates: a link records a version of the item that it leads to',
    ],
    [
      'a link within a file to another file',
      `UPDATE link SET carried = true WHERE id = (SELECT min(id) FROM link WHERE target_id_in_file = 'headback')`,
      'head: violates: a link within a file leads to what lives in the same file',
    ],
    [
      'a copied item of no stem',
      `UPDATE item SET stem_id = id WHERE number = 'V-head'`,
      'V-head: violates: a copied item has an origin of its stem',
    ],
    [
      'a hold of what is no draft',
      `UPDATE revision SET state = 'released' WHERE item_id = (SELECT id FROM item WHERE number = 's1'); INSERT INTO hold (item_id, person_id, reason) SELECT i.id, p.id, '' FROM item i, person p WHERE i.number = 's1'`,
      's1: violates: only what is open for change is held',
    ],
    [
      'a state beside the item that is another',
      `UPDATE item SET state = 'withdrawn' WHERE number = 'foot'`,
      'foot: violates: state, author and time of the newest version stand beside the item',
    ],
    [
      'a comment beside the item that nobody made',
      `UPDATE item SET comment_text = 'made up' WHERE number = 'foot'`,
      'foot: violates: comments of all versions stand beside the item',
    ],
    [
      'a property that the file does not have',
      `INSERT INTO item_property (item_id, key, said, shown) SELECT id, 'made up', 'x', 'x' FROM item WHERE number = 'foot'`,
      'foot: violates: properties are looked up as its newest version has them',
    ],
    [
      'an event of the trail that was changed',
      `UPDATE event SET detail = detail || '{"says":"nothing"}' WHERE id = (SELECT min(id) FROM event)`,
      expect.stringMatching(
        /^the trail: what it says under seal \d+ is not what was written there$/,
      ) as string,
    ],
    [
      'an event of the trail that was taken out',
      `DELETE FROM event WHERE id = (SELECT max(id) FROM event WHERE kind = 'derive')`,
      expect.stringMatching(
        /^the trail: what it says under seal \d+ is not what was written there$/,
      ) as string,
    ],
    [
      'an event that was slipped into the trail',
      `INSERT INTO event (person_id, kind, detail, seal_id) SELECT min(id), 'step', '{"says":"x"}', (SELECT max(id) FROM seal) FROM person`,
      expect.stringMatching(
        /^the trail: what it says under seal \d+ is not what was written there$/,
      ) as string,
    ],
    [
      'a seal of the trail that was taken out with what it sealed',
      `DELETE FROM event WHERE seal_id = (SELECT id FROM seal WHERE position = 2); DELETE FROM seal WHERE position = 2`,
      'the trail: its seal 2 is missing',
    ],
  ])('%s', async (_, sql, fault) => {
    await damage(sql);
    const { whole, faults } = await verify();
    expect(whole).toBe(false);
    expect(faults).toEqual(expect.arrayContaining([fault]));
  });
});
