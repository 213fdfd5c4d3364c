// @vitest-environment happy-dom
import { cleanup, screen } from '@testing-library/react';
import { afterEach, expect, it, vi } from 'vitest';
import { itemView, versionRow } from '../../testing/items.js';
import { ENGINEER, show } from '../../testing/show.js';
import { HistoryScreen } from './history-screen.js';

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const VERSIONS = [
  versionRow('B/1', { comment: 'longer arm' }),
  versionRow('A/2', { state: 'released', comment: 'hole moved', behind: 2 }),
  versionRow('A/1', { comment: 'first' }),
];

function open(isHeld: boolean): ReturnType<typeof show> {
  const heldBy = { ...ENGINEER, since: '2026-03-02T08:00:00.000Z', reason: '' };
  return show(<HistoryScreen />, {
    address: '/history?item=FM-100',
    answers: {
      '/api/item': itemView({ versions: VERSIONS, ...(isHeld ? { heldBy } : {}) }),
      '/api/bring-back': { number: 'FM-100', version: 'B/2' },
    },
  });
}

it('lists every version with its comment and what it is behind', async () => {
  open(false);
  const rows = await screen.findAllByRole('row', { name: /longer arm|hole moved|first/ });
  expect(rows).toHaveLength(3);
  expect(screen.getByText('2 behind')).toBeDefined();
  expect(screen.queryByRole('button', { name: /Bring back/ })).toBeNull();
});

it.each([
  [/the previous version/, ['FM-100@A/1', 'FM-100@A/2']],
  [/with the newest/, ['FM-100@A/2', 'FM-100@B/1']],
])('compares a version with %s', async (name, sides) => {
  const { user, address } = open(false);
  await user.click(await screen.findByText('hole moved'));
  await user.click(screen.getByRole('button', { name }));
  const search = new URL(address(), 'http://here').searchParams;
  expect([search.get('from'), search.get('to')]).toEqual(sides);
});

it('brings an older version back for whoever holds the item', async () => {
  const { user, sentTo } = open(true);
  const bringBack = await screen.findByRole('button', { name: /Bring back/ });
  // The newest is there already.
  expect(bringBack.hasAttribute('disabled')).toBe(true);
  await user.click(screen.getByText('first'));
  await user.click(bringBack);
  await user.type(await screen.findByRole('textbox', { name: 'Comment' }), 'thin again');
  await user.click(screen.getByRole('button', { name: 'Bring back' }));
  expect(sentTo('/api/bring-back').map(({ body }) => body)).toEqual([
    { item: 'FM-100@A/1', comment: 'thin again' },
  ]);
});

it('asks for an item when it is about none', () => {
  show(<HistoryScreen />, { address: '/history', answers: {} });
  expect(screen.getByRole('combobox', { name: 'History of an item' })).toBeDefined();
});
