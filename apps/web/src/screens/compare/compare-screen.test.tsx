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
  return { number, name: `name of ${number}`, version, quantity };
}

function row(sign: CompareRow['sign'], more: Partial<CompareRow>): CompareRow {
  const number = (more.after ?? more.before)?.number ?? '';
  const same = { version: false, quantity: false, placement: false };
  return {
    ...{ sign, number, chain: [number], before: null, after: null, differs: same },
    ...more,
  } as CompareRow;
}

const ROWS: readonly CompareRow[] = [
  row('added', { after: side('FM-7', 'A/1', 2) }),
  row('removed', { before: side('FM-8', 'A/2', 1) }),
  row('changed', {
    before: side('FM-9', 'A/1', 4),
    after: side('FM-9', 'A/2', 6),
    differs: { version: true, quantity: true, placement: false },
  }),
  row('replaced', {
    before: side('FM-5', 'A/1', 1),
    after: side('FM-6', 'A/1', 1),
    differs: { version: true, quantity: false, placement: false },
  }),
  row('same', { before: side('FM-1', 'A/1', 1), after: side('FM-1', 'A/1', 1) }),
];

const ANSWER: CompareAnswer = {
  from: { number: 'FM-100', name: 'Tide station', version: 'A/1' },
  to: { number: 'FM-100', name: 'Tide station', version: 'A/2' },
  sentence: 'From A/1 to A/2: 1 added, 1 removed, 1 changed, 1 replaced.',
  counts: { added: 1, removed: 1, changed: 1, replaced: 1, moved: 0, same: 1 },
  rows: ROWS,
} as unknown as CompareAnswer;

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
  expect(within(grid).getByText('version, quantity')).toBeDefined();
  expect(within(grid).getByText('was FM-5')).toBeDefined();
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
