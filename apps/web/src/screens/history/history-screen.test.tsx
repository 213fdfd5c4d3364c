// @vitest-environment happy-dom
import type { BillRelease } from '@stem-trace/contract';
import { cleanup, screen, within } from '@testing-library/react';
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

it('shows on the line of a bill which versions were released, and what a release left', async () => {
  const release = (version: string, isSuperseded: boolean, notes: string): BillRelease => ({
    ...{ version, isSuperseded, notes, at: '2026-03-04T10:00:00.000Z', by: 'Pavo', problem: null },
    files: [{ id: version, name: `FM-100 ${version.replace('/', '-')}.xlsx`, size: 9000 }],
    planning: { state: 'sent', tries: 1, sentAt: '2026-03-04T10:01:00.000Z', problem: null },
  });
  const { user } = show(<HistoryScreen />, {
    address: '/history?item=FM-100',
    answers: {
      '/api/item': itemView({ kind: 'bill', versions: VERSIONS }),
      '/api/build/releases': [release('B/1', false, 'second batch'), release('A/2', true, 'first batch')],
    },
  });
  const line = await screen.findByRole('region', { name: 'Revisions' });
  await user.click(
    await within(line).findByRole('button', { name: /^A\/2, superseded release by Pavo on 2026-03-04/ }),
  );
  const shown = screen.getByRole('list', { name: 'Releases' });
  expect(within(shown).getAllByRole('listitem')).toHaveLength(1);
  expect(
    within(shown)
      .getByRole('link', { name: /FM-100 A-2.xlsx/ })
      .getAttribute('href'),
  ).toContain('file=A%2F2');
  expect(
    within(shown).getByRole('link', { name: 'Compare with another or a file' }).getAttribute('href'),
  ).toBe('/compare?from=FM-100%40A%2F2&to=');
  await user.click(within(line).getByRole('button', { name: 'A/1' }));
  expect(screen.queryByRole('list', { name: 'Releases' })).toBeNull();
});

it('asks for an item when it is about none', () => {
  show(<HistoryScreen />, { address: '/history', answers: {} });
  expect(screen.getByRole('combobox', { name: 'History of an item' })).toBeDefined();
});
