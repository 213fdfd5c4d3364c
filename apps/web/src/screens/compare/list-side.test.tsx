// @vitest-environment happy-dom
import type { ListView } from '@stem-trace/contract';
import { cleanup, screen, within } from '@testing-library/react';
import { afterEach, expect, it, vi } from 'vitest';
import { itemView, versionRow } from '../../testing/items.js';
import { show, type Sent } from '../../testing/show.js';
import { isTable } from './list-side.js';
import { ListDialog } from './list-dialog.js';
import { SidePicker } from './side-picker.js';

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const LIST: ListView = {
  ...{ id: 'abc', name: 'Offer 12.xlsx', sheets: ['Offer', 'Terms'], rows: 2, unknown: 1, problems: [] },
  preview: [
    ['Pos.', 'Your ref.', 'Qty', 'Price'],
    ['1', 'FM-1', '2', '3.10'],
    ['2', 'FM 2', '4', '0.20'],
  ],
  mapping: {
    ...{ sheet: 'Offer', header: 0, decimal: '.', levels: 'none' },
    columns: { find: 0, number: 1, quantity: 2 },
    further: [{ at: 3, name: 'Price' }],
  },
  alike: [{ number: 'FM 2', like: 'FM-2', name: 'Bolt' }],
  kept: [],
};

function side(
  fileName: string,
  list: unknown = LIST,
): ReturnType<typeof show> & { readonly chosen: string[] } {
  const chosen: string[] = [];
  const shown = show(
    <SidePicker
      label="To"
      value="OFFER@A/1"
      lens={undefined}
      onChange={(value) => chosen.push(value)}
      onLens={() => undefined}
    >
      <p>what the side is</p>
    </SidePicker>,
    {
      answers: {
        '/api/item': itemView({
          number: 'OFFER',
          kind: 'document',
          versions: [versionRow('A/1', { fileName })],
        }),
        '/api/lists/of': list,
      },
    },
  );
  return { ...shown, chosen };
}

it('a document that holds a table is compared as it lies in the store', async () => {
  const { user, sentTo, chosen } = side('Offer 12.xlsx');
  await user.click(await screen.findByRole('button', { name: 'Compare its rows' }));
  expect(sentTo('/api/lists/of').map(({ body }) => body)).toEqual([{ item: 'OFFER@A/1' }]);
  expect(chosen).toEqual(['list:abc']);
  // There is nothing to be said of a structure that a document does not have.
  expect(screen.queryByText('what the side is')).toBeNull();
});

it('says why a document is no list, and leaves the side as it was', async () => {
  const refused = Response.json(
    { code: 'INPUT_INVALID', detail: 'Offer 12.xlsx: it is damaged. Nothing was kept.' },
    { status: 400 },
  );
  const { user, chosen } = side('Offer 12.xlsx', refused);
  await user.click(await screen.findByRole('button', { name: 'Compare its rows' }));
  expect(await screen.findByText(/it is damaged/)).toBeDefined();
  expect(chosen).toEqual([]);
});

it.each([
  ['Offer.XLSX', true],
  ['parts.csv', true],
  ['bom.cdx.json', true],
  ['manual.pdf', false],
  ['xlsx', false],
])('%s is a table: %s', (name, is) => expect(isTable(name)).toBe(is));

it('other documents say nothing of rows', async () => {
  side('Manual.pdf');
  expect(await screen.findByText('what the side is')).toBeDefined();
  expect(screen.queryByRole('button', { name: 'Compare its rows' })).toBeNull();
});

function mapping(): ReturnType<typeof show> {
  const list = ({ method, body }: Sent): ListView =>
    method === 'PUT' ? { ...LIST, mapping: (body as { mapping: ListView['mapping'] }).mapping } : LIST;
  return show(<ListDialog id="abc" onClose={() => undefined} />, { answers: { '/api/lists/abc': list } });
}

it('says what each column is taken for, what the store does not know, and what is written like it', async () => {
  mapping();
  const dialog = await screen.findByRole('dialog', { name: 'Columns of Offer 12.xlsx' });
  const meaning = (column: number): string =>
    within(dialog).getByLabelText<HTMLSelectElement>(`Column ${column} is`).value;
  await within(dialog).findByLabelText('Column 1 is');
  expect([1, 2, 3].map(meaning)).toEqual(['find', 'number', 'quantity']);
  expect(dialog.textContent).toContain('1 number that the store does not know');
  expect(dialog.textContent).toContain('FM-2');
});

it('a column means something else when somebody says so, and what it meant before is free again', async () => {
  const { user, sentTo } = mapping();
  const column = await screen.findByLabelText('Column 1 is');
  await user.selectOptions(column, 'number');
  const put = sentTo('/api/lists/abc').find(({ method }) => method === 'PUT')?.body as {
    mapping: ListView['mapping'];
  };
  expect(put.mapping.columns).toMatchObject({ number: 0, quantity: 2 });
  expect(put.mapping.columns.find).toBeUndefined();
  await user.selectOptions(screen.getByLabelText('Decimal sign'), ',');
  const last = sentTo('/api/lists/abc').findLast(({ method }) => method === 'PUT')?.body as {
    mapping: ListView['mapping'];
  };
  expect(last.mapping.decimal).toBe(',');
});
