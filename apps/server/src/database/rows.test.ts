import { afterAll, beforeAll, expect, it } from 'vitest';
import { TestStore } from '../testing/test-store.js';
import { insertRows, reserveIds } from './rows.js';

let store: TestStore;
beforeAll(async () => {
  store = await TestStore.open();
});
afterAll(() => store.close());

it('reserves ids that ascend and are given to nobody else, also by many at once', async () => {
  const given = await Promise.all(
    Array.from({ length: 8 }, () => reserveIds(store.database.manager, 'place', 25)),
  );
  for (const ids of given) expect(ids).toEqual([...ids].sort((a, b) => Number(a) - Number(b)));
  expect(new Set(given.flat()).size).toBe(8 * 25);
});

it('inserts rows under reserved ids or new ones, and tells which, in their order', async () => {
  const { manager } = store.database;
  const [first = '', second = ''] = await reserveIds(manager, 'place', 2);
  const columns = { id: 'bigint', path: 'text' };
  const rows = [
    { id: second, path: '/rows/b' },
    { id: first, path: '/rows/a' },
  ];
  expect(await insertRows(manager, 'place', columns, rows)).toEqual([second, first]);
  const [made = ''] = await insertRows(manager, 'place', { path: 'text' }, [{ path: '/rows/c' }]);
  expect(Number(made)).toBeGreaterThan(Number(second));
  expect(await insertRows(manager, 'place', columns, [])).toEqual([]);
});
