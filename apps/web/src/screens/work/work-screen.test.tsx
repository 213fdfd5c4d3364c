// @vitest-environment happy-dom
import type { HoldRow, NoticesAnswer } from '@stem-trace/contract';
import { cleanup, screen, within } from '@testing-library/react';
import { afterEach, expect, it, vi } from 'vitest';
import { ENGINEER, show } from '../../testing/show.js';
import { WorkScreen } from './work-screen.js';

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

function hold(number: string, behind = 0): HoldRow {
  return {
    ...ENGINEER,
    ...{ number, itemName: `name of ${number}`, version: 'A/2', behind },
    ...{ since: '2026-03-02T08:00:00.000Z', reason: `why ${number}` },
  };
}

const NOTICES: NoticesAnswer = {
  unread: 1,
  rows: [
    {
      ...{ id: '2', at: '2026-03-03T08:00:00.000Z', says: 'Ben released FM-7', number: 'FM-7' },
      ...{ address: null, read: false, asks: null },
    },
    {
      ...{ id: '1', at: '2026-03-02T08:00:00.000Z', says: 'Your search finds 4 now', number: null },
      ...{ address: '/find?words=pump', read: true, asks: null },
    },
  ],
};

function open(holds: readonly HoldRow[], notices = NOTICES): ReturnType<typeof show> {
  return show(<WorkScreen />, {
    address: '/work',
    answers: {
      '/api/holds': holds,
      '/api/notices': notices,
      '/api/holds/let-go': { done: [{ number: 'FM-1', version: 'A/2' }], refused: [] },
      '/api/catch-up': { done: [], refused: [{ number: 'FM-2', reason: 'FM-9 was withdrawn' }] },
      '/api/notices/read': new Response(null, { status: 204 }),
    },
  });
}

it('lists what one holds and lets go of what the cursor is on', async () => {
  const { user, sentTo } = open([hold('FM-1'), hold('FM-2', 3)]);
  expect(await screen.findByRole('heading', { name: 'Checked out to me: 2' })).toBeDefined();
  expect(screen.getByText('3 behind')).toBeDefined();
  await user.click(screen.getByRole('button', { name: 'Let go' }));
  expect(sentTo('/api/holds/let-go')[0]?.body).toEqual({ items: ['FM-1'] });
});

it('catches up all that are behind, and says what could not be', async () => {
  const { user, sentTo } = open([hold('FM-1'), hold('FM-2', 3), hold('FM-3', 1)]);
  await user.click(await screen.findByRole('button', { name: 'Update everything that is behind' }));
  expect(sentTo('/api/catch-up')[0]?.body).toEqual({ items: ['FM-2', 'FM-3'] });
  expect(await screen.findByText(/FM-9 was withdrawn/)).toBeDefined();
});

it('shows what one was told, where it leads, and marks it as read', async () => {
  const { user, sentTo } = open([]);
  expect(await screen.findByText(/Nothing is checked out to you/)).toBeDefined();
  const list = screen.getByRole('list', { name: 'Notices' });
  const [first, second] = within(list).getAllByRole('listitem');
  expect(first?.textContent).toContain('unread');
  expect(second?.textContent).not.toContain('unread');
  expect(screen.getByRole('link', { name: 'FM-7' }).getAttribute('href')).toContain('FM-7');
  expect(screen.getByRole('link', { name: 'Open it' }).getAttribute('href')).toBe('/find?words=pump');
  await user.click(screen.getByRole('button', { name: 'Mark all as read' }));
  expect(sentTo('/api/notices/read')).toHaveLength(1);
  expect(sentTo('/api/notices').length).toBeGreaterThan(1);
});
