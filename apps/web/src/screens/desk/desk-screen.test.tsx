// @vitest-environment happy-dom
import type { CheckRow, HoldRow, NoticesAnswer } from '@stem-trace/contract';
import { cleanup, screen, within } from '@testing-library/react';
import { afterEach, beforeEach, expect, it, vi } from 'vitest';
import { show, type Shown } from '../../testing/show.js';
import { DeskScreen } from './desk-screen.js';

beforeEach(() => localStorage.clear());
afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const AT = '2026-03-01T08:00:00.000Z';
const CHECK: CheckRow = {
  sheet: null,
  ...{ number: 'FM-9', name: 'Arm', version: 'B/1', sentBy: 'Teodor', sentAt: AT, reason: 'new tube' },
};
const NOTICES: NoticesAnswer = {
  unread: 1,
  rows: [
    {
      id: '2',
      at: AT,
      says: 'Teodor asks you to let FM-3 go',
      number: 'FM-3',
      address: null,
      read: true,
      asks: '7',
    },
    { id: '1', at: AT, says: 'read long ago', number: null, address: null, read: true, asks: null },
  ],
};
const HOLD = { number: 'FM-3', itemName: 'Rod', version: 'A/2', behind: 1, since: AT, reason: '' } as HoldRow;

function desk(more: object = {}): Shown {
  return show(<DeskScreen />, {
    address: '/desk',
    answers: {
      ...{
        '/api/sheets': [],
        '/api/checks': [],
        '/api/notices': { unread: 0, rows: [] },
        '/api/holds': [],
        '/api/saved': [],
      },
      ...more,
    },
  });
}

it('has what waits, what one holds and what of it is behind, each open with one key', async () => {
  const { user, address } = desk({ '/api/checks': [CHECK], '/api/notices': NOTICES, '/api/holds': [HOLD] });
  const waiting = await screen.findByRole('grid', { name: 'Waiting for me: 2' });
  expect(within(waiting).getByText('to check')).toBeDefined();
  expect(within(waiting).getByText(/new tube/)).toBeDefined();
  // An answer that somebody waits for stays, though the notice was read.
  expect(within(waiting).getByText(/asks you to let FM-3 go/)).toBeDefined();
  expect(screen.queryByText('read long ago')).toBeNull();
  expect(
    within(screen.getByRole('grid', { name: 'Checked out to me: 1' })).getByText('1 behind'),
  ).toBeDefined();
  await vi.waitFor(() => expect(document.activeElement).toBe(waiting));
  await user.keyboard('{Enter}');
  expect(address()).toBe('/trace?item=FM-9');
});

it('says how to begin where there is nothing', async () => {
  desk();
  expect(await screen.findByText(/Nothing waits/)).toBeDefined();
  expect(screen.getByText(/Check an item out from the margin/)).toBeDefined();
  expect(screen.getByText(/Open an item above by its number or name/)).toBeDefined();
  expect(screen.getByText(/keep the search with the bookmark/)).toBeDefined();
  expect(screen.getByRole('combobox', { name: 'Open an item' })).toBeDefined();
});
