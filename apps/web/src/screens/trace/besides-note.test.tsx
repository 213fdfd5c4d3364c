// @vitest-environment happy-dom
import type { UsedBesidesAnswer } from '@stem-trace/contract';
import { cleanup, screen } from '@testing-library/react';
import { afterEach, expect, it, vi } from 'vitest';
import { show } from '../../testing/show.js';
import { BesidesNote } from './besides-note.js';

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const bill = (number: string, amount: string): UsedBesidesAnswer['bills'][number] => ({
  ...{ number, name: `name of ${number}`, version: 'A/2', state: 'draft', amount, rows: 1 },
});

function note(answer: Partial<UsedBesidesAnswer>): ReturnType<typeof show> {
  return show(<BesidesNote item="FM-1" />, {
    answers: { '/api/used/besides': { bills: [], insteadOf: [], hidden: 0, ...answer } },
  });
}

it('leads to the bills that need it, in the version that the lens picks, with how much', async () => {
  note({ bills: [bill('FB-1', '22'), bill('FB-2', '')], hidden: 3 });
  const [first, second] = await screen.findAllByRole('link');
  expect(first?.textContent.trim()).toBe('FB-1 ×22');
  expect(first?.getAttribute('href')).toBe('/build?bill=FB-1%40A%2F2');
  expect(second?.textContent.trim()).toBe('FB-2 reference');
  expect(screen.getByText('and 3 not visible to you')).toBeDefined();
});

it('says what it may be used instead of, where, and whether somebody approved that', async () => {
  const other = { name: 'Bolt', rank: 1, from: null, to: null };
  note({
    insteadOf: [
      { ...other, number: 'FM-2', onlyIn: null, approvedBy: 'Maren' },
      { ...other, number: 'FM-3', onlyIn: 'FM-100', approvedBy: null },
    ],
  });
  const links = await screen.findAllByRole('link');
  expect(links.map(({ textContent }) => textContent.trim())).toEqual([
    'FM-2',
    'FM-3 in FM-100, not approved',
  ]);
});

it('counts the bills that it does not list, and is not there where there is nothing', async () => {
  const all = Array.from({ length: 20 }, (_, at) => bill(`FB-${at}`, '1'));
  note({ bills: all });
  expect((await screen.findByRole('link', { name: 'and 8 more' })).getAttribute('href')).toBe('/build');
  cleanup();
  const { sentTo } = note({});
  await vi.waitFor(() => expect(sentTo('/api/used/besides')).toHaveLength(1));
  expect(screen.queryByRole('navigation')).toBeNull();
});
