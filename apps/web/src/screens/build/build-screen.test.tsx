// @vitest-environment happy-dom
import type { BuildAnswer, SaveBillRequest } from '@stem-trace/contract';
import { newBill, pieces, type EngineeringRow } from '@stem-trace/core';
import { cleanup, screen, within } from '@testing-library/react';
import { afterEach, expect, it, vi } from 'vitest';
import { itemView } from '../../testing/items.js';
import { ENGINEER, show } from '../../testing/show.js';
import { BuildScreen } from './build-screen.js';

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const ROWS: EngineeringRow[] = ['FM-1', 'FM-2'].map((number, at) => ({
  ...{ key: `k${at}`, level: 1, itemId: String(at + 1), number, name: `Part ${at + 1}`, version: 'A/1' },
  ...{ amount: pieces(2), find: '', designators: '' },
}));
const HELD = { ...ENGINEER, since: '2026-03-02T08:00:00.000Z', reason: '' };

function answer(given: Partial<BuildAnswer> = {}, isHeld = true): BuildAnswer {
  const engineering = { itemId: '9', number: 'FM-100', versionId: '90', version: 'B/1', lens: 'newest' };
  return {
    item: {
      ...{ number: 'FB-100', name: 'For the line', version: 'A/2', state: 'draft', before: 'A/1' },
      ...{ heldBy: isHeld ? HELD : null, isNewest: true },
    },
    bill: newBill(engineering, ROWS),
    ...{ hidden: 0, behind: 0, newest: 'B/1' },
    ...given,
  };
}

function open(of: BuildAnswer): ReturnType<typeof show> {
  return show(<BuildScreen />, {
    address: '/build?bill=FB-100',
    answers: {
      '/api/build': of,
      '/api/item': itemView({ number: 'FB-100', kind: 'bill', ...(of.item.heldBy ? { heldBy: HELD } : {}) }),
      '/api/build/carry': {
        ...{ item: 'FM-100', from: 'B/1', to: 'B/2', movedOut: [] },
        brought: [{ kind: 'added', id: 'k9', number: 'FM-3', name: 'Part 3', cells: [] }],
        contradictions: [
          {
            key: 'amount of k0',
            id: 'k0',
            number: 'FM-1',
            name: 'Part 1',
            what: 'quantity',
            base: '2',
            mine: '3',
            theirs: '4',
          },
        ],
      },
    },
  });
}

/** What was sent last, and not only asked. */
const lastBody = (requests: readonly { readonly body?: unknown }[]): unknown =>
  requests.map(({ body }) => body).findLast((body) => body !== undefined);

const sheet = (): Promise<HTMLElement> => screen.findByRole('treegrid', { name: 'Rows of the bill' });

it('cells are typed into by keys alone, told when they are wrong, undone, and saved', async () => {
  const { user, sentTo } = open(answer());
  (await sheet()).focus();
  await user.keyboard('3{Enter}');
  expect(await screen.findByText(/1 surplus/)).toBeDefined();
  // The cursor went on to the next row.
  await user.keyboard('many{Enter}');
  expect((await screen.findByRole('alert')).textContent).toContain('is no quantity');
  await user.keyboard('{Control>}z{/Control}');
  expect(await screen.findByText(/closed: every engineering part/)).toBeDefined();
  await user.keyboard('{Control>}y{/Control}');
  expect(await screen.findByText(/1 surplus/)).toBeDefined();
  await user.click(screen.getByRole('button', { name: /Save …/ }));
  await user.click(await screen.findByRole('button', { name: 'Save' }));
  await vi.waitFor(() =>
    expect(lastBody(sentTo('/api/build'))).toMatchObject({ bill: 'FB-100', version: 'A/2' }),
  );
  const sent = lastBody(sentTo('/api/build')) as SaveBillRequest;
  expect(sent.rows.map(({ amount }) => amount.value)).toEqual(['3', '2']);
  // Which item a row is, the store knows by its number.
  expect(sent.rows[0]).not.toHaveProperty('itemId');
});

it('a changed cell says what stood there, and a row moves by a key', async () => {
  const { user } = open(answer());
  const grid = await sheet();
  grid.focus();
  await user.keyboard('5{Enter}{Home}{Alt>}{ArrowDown}{/Alt}');
  const rows = within(grid).getAllByRole('row').slice(1);
  expect(rows.map((row) => row.textContent)).toEqual([
    expect.stringContaining('FM-2'),
    expect.stringContaining('FM-1'),
  ]);
  expect(within(rows[1] ?? grid).getByTitle('before: 2')).toBeDefined();
});

it('is only looked at by whoever does not hold it, or does not see all of it', async () => {
  open(answer({}, false));
  expect(await screen.findByText('Check it out to change its rows.')).toBeDefined();
  expect(screen.queryByRole('button', { name: /Save …/ })).toBeNull();
  cleanup();
  open(answer({ hidden: 2 }));
  expect(await screen.findByText('Account cannot be judged')).toBeDefined();
  expect(screen.queryByText(/closed/)).toBeNull();
});

it('carries over only once every contradiction is decided', async () => {
  const { user, sentTo } = open(answer({ behind: 2, newest: 'B/2' }));
  await user.click(await screen.findByRole('button', { name: 'Carry over …' }));
  const carry = await screen.findByRole('button', { name: 'Carry over as a new version' });
  expect(await screen.findByText(/1 to decide/)).toBeDefined();
  expect(carry.hasAttribute('disabled')).toBe(true);
  await user.click(screen.getByRole('radio', { name: 'Engineering: 4' }));
  await user.click(carry);
  await vi.waitFor(() =>
    expect(lastBody(sentTo('/api/build/carry'))).toMatchObject({
      to: 'B/2',
      decisions: { 'amount of k0': 'theirs' },
    }),
  );
});
