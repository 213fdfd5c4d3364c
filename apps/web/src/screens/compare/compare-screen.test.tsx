// @vitest-environment happy-dom
import type { CompareAnswer, CompareRow } from '@stem-trace/contract';
import { cleanup, screen, within } from '@testing-library/react';
import { afterEach, expect, it, vi } from 'vitest';
import { itemView, versionRow } from '../../testing/items.js';
import { show } from '../../testing/show.js';
import { CompareScreen } from './compare-screen.js';

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

type Side = NonNullable<CompareRow['after']>;

function side(number: string, version: string, quantity: number): Side {
  return {
    ...{ number, name: `name of ${number}`, version, amount: String(quantity), find: '', designators: '' },
    ...{ configurations: '', values: {}, way: number, in: '', state: 'draft', isGap: false, isHidden: false },
  };
}

function differs(more: Partial<CompareRow['differs']> = {}): CompareRow['differs'] {
  return {
    ...{ quantity: false, version: false, placement: false, find: false, designators: false },
    ...{ configurations: false, parent: false, fields: [] },
    ...more,
  };
}

function row(sign: CompareRow['sign'], more: Partial<CompareRow>): CompareRow {
  const number = (more.after ?? more.before)?.number ?? '';
  return {
    ...{ sign, number, level: 1, before: null, after: null, by: 'item', differs: differs() },
    ...more,
  };
}

const ROWS: readonly CompareRow[] = [
  row('added', { after: side('FM-7', 'A/1', 2) }),
  row('removed', { before: side('FM-8', 'A/2', 1) }),
  row('changed', {
    before: side('FM-9', 'A/1', 4),
    after: side('FM-9', 'A/2', 6),
    differs: differs({ version: true, quantity: true }),
  }),
  row('replaced', {
    before: side('FM-5', 'A/1', 1),
    after: side('FM-6', 'A/1', 1),
    differs: differs({ version: true }),
  }),
  row('same', { before: side('FM-1', 'A/1', 1), after: side('FM-1', 'A/1', 1) }),
];

const SUM: CompareAnswer['effect']['from'] = {
  ...{ massKg: 2, cost: 0, massUnknown: 1, costUnknown: 4, pieces: 4, parts: 3, bought: 1, lines: 5 },
  worst: 'draft',
};
const SIDE = {
  number: 'FM-100',
  name: 'Tide station',
  lens: 'recorded',
  at: '2026-03-01T08:00:00.000Z',
  author: 'Ines Halvorsen',
};

const ANSWER: CompareAnswer = {
  from: { ...SIDE, version: 'A/1' },
  to: { ...SIDE, version: 'A/2' },
  sentence: 'From A/1 to A/2: 1 added, 1 removed, 1 changed, 1 replaced.',
  counts: { added: 1, removed: 1, changed: 1, replaced: 1, moved: 0, same: 1 },
  whole: [{ what: 'finish', before: '', after: 'tinned' }],
  effect: { from: SUM, to: { ...SUM, massKg: 3 }, mass: [], cost: [] },
  rows: ROWS,
};

function open(address: string): ReturnType<typeof show> {
  return show(<CompareScreen />, {
    address,
    answers: {
      '/api/compare': ANSWER,
      '/api/item': itemView({ versions: [versionRow('A/2'), versionRow('A/1')] }),
    },
  });
}

const numbers = (): string[] =>
  within(screen.getByRole('treegrid', { name: 'Differences' }))
    .getAllByRole('row')
    .flatMap((shown) => /FM-\d+/.exec(shown.textContent)?.[0] ?? []);

it('asks for two sides before there is anything to say', () => {
  const { sentTo } = open('/compare');
  expect(screen.getByText(/Choose two versions/)).toBeDefined();
  expect(sentTo('/api/compare')).toHaveLength(0);
});

it('says the difference in words, shows what is not the same, and what differs in it', async () => {
  open('/compare?from=FM-100@A/1&to=FM-100@A/2');
  expect((await screen.findByText(/From A\/1 to A\/2/)).textContent).toBe(ANSWER.sentence);
  expect(numbers()).toEqual(['FM-7', 'FM-8', 'FM-9', 'FM-6']);
  const grid = screen.getByRole('treegrid', { name: 'Differences' });
  expect(within(grid).getByText('quantity 4 → 6; version A/1 → A/2')).toBeDefined();
  expect(within(grid).getByText('was FM-5')).toBeDefined();
  expect(screen.getByText(/The versions themselves differ in 1 thing/)).toBeDefined();
});

it('shows the kinds of difference that are wanted', async () => {
  const { user } = open('/compare?from=FM-100@A/1&to=FM-100@A/2');
  await user.click(await screen.findByRole('button', { name: /1 the same/ }));
  expect(numbers()).toContain('FM-1');
  await user.click(screen.getByRole('button', { name: /1 added/ }));
  expect(numbers()).not.toContain('FM-7');
});

it('keeps sides and way of comparing in the address, and turns the sides round', async () => {
  const { user, address, sentTo } = open('/compare?from=FM-100@A/1&to=FM-100@A/2');
  await user.click(await screen.findByText('Net totals'));
  expect(address()).toContain('by=totals');
  await user.click(screen.getByRole('button', { name: /Swap sides/ }));
  const search = new URL(address(), 'http://here').searchParams;
  expect([search.get('from'), search.get('to')]).toEqual(['FM-100@A/2', 'FM-100@A/1']);
  expect(sentTo('/api/compare').at(-1)?.search.get('from')).toBe('FM-100@A/2');
});

it('pairs two rows by hand, says so in the address, and takes it back', async () => {
  const { user, address } = open('/compare?from=FM-100@A/1&to=FM-100@A/2');
  const grid = await screen.findByRole('treegrid', { name: 'Differences' });
  grid.focus();
  await user.keyboard('b{ArrowDown}b');
  const said = (): unknown => JSON.parse(new URL(address(), 'http://here').searchParams.get('hand') ?? '[]');
  expect(said()).toEqual([['FM-8', 'FM-7']]);
  await user.click(screen.getByRole('button', { name: /Pair FM-8 automatically/ }));
  expect(said()).toEqual([]);
  grid.focus();
  await user.keyboard('{Home}{ArrowDown}{ArrowDown}');
  await user.click(screen.getByRole('button', { name: /Unpair FM-9 and FM-9/ }));
  expect(said()).toEqual([['FM-9', '']]);
});
