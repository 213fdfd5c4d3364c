/** Days begin and end by the zone of the site, wherever the server stands. */
import type { StructureAnswer } from '@stem-trace/contract';
import fc from 'fast-check';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { stepFile } from '../../../../packages/formats/src/testing/step-sets.js';
import { endOfSiteDay, siteDay } from '../database/site-day.js';
import { TestStore } from '../testing/test-store.js';

let store: TestStore;
let root: Readonly<Record<string, string>>;
beforeAll(async () => {
  store = await TestStore.open();
  root = { Authorization: `Bearer ${await store.tokenFor('zone-root', 'administrator')}` };
});
afterAll(() => store.close());

const setZone = (zone: string, headers = root): Promise<Response> =>
  store.call('PUT', '/api/settings/zone', { zone }, headers);

/** What a clock on the wall of a zone says, by other means than the database's. */
function wall(zone: string, at: number): string {
  return new Date(at).toLocaleString('sv-SE', { timeZone: zone });
}

it('is UTC until somebody says otherwise, and only an administrator does, of a zone that there is', async () => {
  expect(await store.json('GET', '/api/settings/zone')).toEqual({ zone: 'UTC' });
  await expect(setZone('Europe/Berlin', {})).rejects.toThrow(/Only an administrator|may not/);
  await expect(setZone('Mars/Olympus')).rejects.toThrow(/Mars\/Olympus is no time zone/);
  expect(await store.json('GET', '/api/settings/zone')).toEqual({ zone: 'UTC' });
});

it('a day ends at midnight on the wall, whatever is done to clocks', async () => {
  // Half hours, days that were left out, and clocks that are changed at midnight.
  const zones = ['Europe/Berlin', 'America/St_Johns', 'Pacific/Kiritimati', 'America/Havana', 'UTC'] as const;
  for (const zone of zones) {
    await setZone(zone);
    await fc.assert(
      fc.asyncProperty(
        fc.date({ min: new Date('2020-01-01'), max: new Date('2030-12-31'), noInvalidDate: true }),
        async (at) => {
          const day = await siteDay(store.database, at);
          expect(day).toBe(wall(zone, at.getTime()).slice(0, 10));
          const end = await endOfSiteDay(store.database, day);
          expect(wall(zone, end).slice(0, 10)).toBe(day);
          expect(wall(zone, end + 1).slice(0, 10) > day).toBe(true);
        },
      ),
      { numRuns: 40 },
    );
  }
});

it('decides what a lens and a search mean by a day', async () => {
  await setZone('UTC');
  await store.intake(new Map([['zoned.stp', stepFile({ id: 'ZONED' })]]), { place: '/zones' });
  const owner = await store.owner();
  await owner.query('ALTER TABLE version DISABLE TRIGGER USER');
  await owner.query(`UPDATE version SET created_at = '2026-03-10T12:30:00Z'`);
  await owner.query('ALTER TABLE version ENABLE TRIGGER USER');
  const known = (day: string): Promise<boolean> =>
    store
      .json<StructureAnswer>('GET', `/api/made?item=ZONED&lens=${day}`)
      .then(() => true)
      .catch(() => false);
  expect([await known('2026-03-09'), await known('2026-03-10')]).toEqual([false, true]);
  // There, it was the next day already.
  await setZone('Pacific/Kiritimati');
  expect([await known('2026-03-10'), await known('2026-03-11')]).toEqual([false, true]);
  const found = async (words: string): Promise<number> =>
    (await store.json<{ total: number }>('GET', `/api/items?words=${encodeURIComponent(words)}`)).total;
  expect([await found('created = 2026-03-10'), await found('created = 2026-03-11')]).toEqual([0, 1]);
});
