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

it('shows the rows that count on a day, where a column says when they do, and keeps the day in the address', async () => {
  const of = answer();
  const column = {
    ...{
      id: 'p',
      name: 'Planned',
      type: 'planned effectivity' as const,
      unit: '',
      choices: [],
      isRequired: false,
    },
  };
  const rows = of.bill.rows.map((row, at) => ({
    ...row,
    values: { p: at === 0 ? 'to 2026-05-31' : 'FM-100 from 3' },
  }));
  const { user, address } = open({ ...of, bill: { ...of.bill, rows, columns: [column] } });
  const grid = await sheet();
  await user.selectOptions(screen.getByRole('combobox', { name: 'Rows that count' }), 'effective on …');
  expect(await screen.findByText('1 of 2 rows')).toBeDefined();
  expect(within(grid).queryByText('FM-1')).toBeNull();
  await user.selectOptions(screen.getByRole('combobox', { name: 'Effective on' }), 'serial no.');
  expect(await within(grid).findByText('FM-1')).toBeDefined();
  expect(within(grid).queryByText('FM-2')).toBeNull();
  expect(new URLSearchParams(address().split('?')[1]).get('counts')).toBe('effective 1 of FM-100');
  await user.selectOptions(screen.getByRole('combobox', { name: 'Rows that count' }), 'whenever they count');
  expect(await within(grid).findByText('FM-2')).toBeDefined();
});

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

/** Opens a menu of the sheet and takes one of its entries. */
async function take(
  user: ReturnType<typeof show>['user'],
  menu: string,
  entry: string | RegExp,
): Promise<void> {
  await user.click(screen.getByRole('button', { name: menu }));
  await user.click(await screen.findByRole('menuitem', { name: entry }));
}
const texts = (grid: HTMLElement): string[] =>
  within(grid)
    .getAllByRole('row')
    .slice(1)
    .map(({ textContent }) => textContent);

it('a block of a spreadsheet is pasted, and a column filled with what the first of the selected says', async () => {
  const { user } = open(answer());
  const grid = await sheet();
  grid.focus();
  await navigator.clipboard.writeText('7\tR1\n8\tR2\n');
  await user.keyboard('{Control>}v{/Control}');
  await vi.waitFor(() => expect(texts(grid)[1]).toMatch(/8.*R2/));
  expect(texts(grid)[0]).toMatch(/7.*R1/);
  // From the first row on, both are selected.
  await user.keyboard('{Home} {ArrowDown} ');
  await user.keyboard('{Control>}d{/Control}');
  await vi.waitFor(() => expect(texts(grid)[1]).toMatch(/7.*R2/));
  // What is selected is copied as a spreadsheet takes it.
  await user.keyboard('{Control>}c{/Control}');
  expect((await navigator.clipboard.readText()).split('\n').map((line) => line.split('\t')[3])).toEqual([
    '7',
    '7',
  ]);
});

it('rows of text are added where they belong, laid into levels, and taken out again', async () => {
  const { user } = open(answer());
  const grid = await sheet();
  await user.click(screen.getByRole('button', { name: 'Add text row …' }));
  await user.type(await screen.findByRole('textbox', { name: 'Text' }), 'Grease');
  await user.clear(screen.getByRole('textbox', { name: /^Quantity, such/ }));
  await user.type(screen.getByRole('textbox', { name: /^Quantity, such/ }), 'plenty');
  await user.click(screen.getByRole('button', { name: 'Add' }));
  expect((await screen.findByRole('alert')).textContent).toContain('“plenty” is no quantity');
  await user.clear(screen.getByRole('textbox', { name: /^Quantity, such/ }));
  await user.type(screen.getByRole('textbox', { name: /^Quantity, such/ }), '2 ml');
  await user.click(screen.getByRole('button', { name: 'Add' }));
  await vi.waitFor(() => expect(texts(grid)).toHaveLength(3));
  expect(texts(grid)[1]).toMatch(/text.*Grease.*2 ml/);
  await user.click(within(grid).getByText('Grease'));
  await take(user, 'Rows', 'Put a level around this row …');
  await user.type(await screen.findByRole('textbox', { name: 'Name of the level' }), 'Line 1');
  await user.click(screen.getByRole('button', { name: 'Make the level' }));
  await vi.waitFor(() => expect(texts(grid)).toHaveLength(4));
  const level = within(grid)
    .getAllByRole('row')
    .find(({ textContent }) => textContent.includes('Grease'));
  expect(level?.getAttribute('aria-level')).toBe('2');
  await user.click(within(grid).getByText('Line 1'));
  await take(user, 'Rows', 'Remove the row');
  await vi.waitFor(() => expect(texts(grid)).toHaveLength(2));
});

it('a quantity is said in full, divided, and combined again', async () => {
  const { user } = open(answer());
  const grid = await sheet();
  await user.click(within(grid).getByText('FM-1'));
  await take(user, 'Rows', 'Quantity in full …');
  await user.type(await screen.findByRole('textbox', { name: 'Lost on the way, in %' }), '5');
  await user.click(screen.getByRole('button', { name: 'Take it' }));
  await vi.waitFor(() => expect(texts(grid)[0]).toContain('2 + 5 %'));
  // What is lost is no matter of the account.
  expect(screen.getByText(/closed: every engineering part/)).toBeDefined();
  await user.click(within(grid).getByText('FM-2'));
  await take(user, 'Rows', 'Divide the quantity …');
  await user.type(await screen.findByRole('textbox', { name: /^Share of 2/ }), '1');
  await user.click(screen.getByRole('button', { name: 'Divide' }));
  await vi.waitFor(() => expect(texts(grid)).toHaveLength(3));
  expect(screen.getByText(/divided 2/)).toBeDefined();
  expect(screen.getByText(/closed: every engineering part/)).toBeDefined();
  grid.focus();
  await user.keyboard('{Home}{ArrowDown} {ArrowDown} ');
  await take(user, 'Rows', 'Combine the selected rows');
  await vi.waitFor(() => expect(texts(grid)).toHaveLength(2));
});

it('only changed rows are shown where that is wished, and what was left out is listed', async () => {
  const { user } = open(answer());
  const grid = await sheet();
  await user.click(within(grid).getByText('FM-2'));
  await take(user, 'Rows', 'Remove the row');
  expect(await screen.findByText(/1 missing/)).toBeDefined();
  expect(screen.getByText('1 row of engineering left out or dissolved')).toBeDefined();
  grid.focus();
  await user.keyboard('{Home}{ArrowRight}{ArrowRight}9{Enter}');
  await user.click(screen.getByText('Changed only'));
  expect(texts(grid)).toEqual([expect.stringContaining('FM-1')]);
});

it('rows have a handle only for whoever may move them', async () => {
  open(answer());
  expect(within(await sheet()).getAllByTitle(/^Drag the row/)).toHaveLength(2);
  cleanup();
  open(answer({}, false));
  expect(within(await sheet()).queryByTitle(/^Drag the row/)).toBeNull();
});
