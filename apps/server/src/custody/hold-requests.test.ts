/** What people say to each other about holds. */
import type { CustodyAnswer, HoldRow, ItemView, NoticesAnswer } from '@stem-trace/contract';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { stepFile } from '../../../../packages/formats/src/testing/step-sets.js';
import { TestStore } from '../testing/test-store.js';

let store: TestStore;
let ben: string;
beforeAll(async () => {
  store = await TestStore.open();
  ben = await store.tokenFor('ben', 'engineer');
  await store.intake(new Map([['p1.stp', stepFile({ id: 'P1' })]]), { place: '/parts' });
});
afterAll(() => store.close());

async function asBen<T>(method: string, path: string, body?: unknown): Promise<T> {
  const response = await store.call(method, path, body, { Authorization: `Bearer ${ben}` });
  return (response.status === 204 ? undefined : await response.json()) as T;
}
const notices = (): Promise<NoticesAnswer> => store.json('GET', '/api/notices');
const holder = async (): Promise<string | undefined> =>
  (await store.json<ItemView>('GET', '/api/item?item=P1')).heldBy?.login;

it('a reason is changed by whoever holds, and by nobody else', async () => {
  await store.json('POST', '/api/holds', { items: ['P1'], reason: 'first' });
  expect(
    await store.json<CustodyAnswer>('POST', '/api/holds/reason', { items: ['P1'], reason: 'longer arm' }),
  ).toEqual({
    done: [{ number: 'P1', version: 'A/1' }],
    refused: [],
  });
  expect((await store.json<HoldRow[]>('GET', '/api/holds'))[0]?.reason).toBe('longer arm');
  const refused = await asBen<CustodyAnswer>('POST', '/api/holds/reason', { items: ['P1'], reason: 'mine' });
  expect(refused).toEqual({ done: [], refused: [{ number: 'P1', reason: 'you do not hold it' }] });
});

it('a holder is asked once, answers in the notice, and who asked is told', async () => {
  await expect(store.call('POST', '/api/holds/ask', { item: 'P1' })).rejects.toThrow(/You hold P1 yourself/);
  await asBen('POST', '/api/holds/ask', { item: 'P1', reason: 'a new bore' });
  await expect(asBen('POST', '/api/holds/ask', { item: 'P1' })).rejects.toThrow(
    /You asked ada for P1 before/,
  );
  const [asked] = (await notices()).rows;
  expect(asked).toMatchObject({ says: 'ben asks you to let P1 go: a new bore', number: 'P1' });
  // Only whoever was asked answers.
  const answer = { id: asked?.asks, letGo: true, says: '' };
  await expect(asBen('POST', '/api/holds/answer', answer)).rejects.toThrow(/Nobody waits/);

  await store.call('POST', '/api/holds/answer', { ...answer, letGo: false, says: 'until Friday' });
  expect(await holder()).toBe('ada');
  expect((await asBen<NoticesAnswer>('GET', '/api/notices')).rows[0]?.says).toBe(
    'ada keeps P1 for now: until Friday',
  );
  expect((await notices()).rows[0]?.asks).toBeNull();
  await expect(store.call('POST', '/api/holds/answer', answer)).rejects.toThrow(/Nobody waits/);

  await asBen('POST', '/api/holds/ask', { item: 'P1' });
  await store.call('POST', '/api/holds/answer', {
    id: (await notices()).rows[0]?.asks,
    letGo: true,
    says: '',
  });
  expect(await holder()).toBeUndefined();
  expect((await asBen<NoticesAnswer>('GET', '/api/notices')).rows[0]?.says).toBe('ada let P1 go, as asked');
  await expect(asBen('POST', '/api/holds/ask', { item: 'P1' })).rejects.toThrow(/Nobody holds P1/);
});
