// @vitest-environment happy-dom
import type { BaselineRow } from '@stem-trace/contract';
import { cleanup, screen } from '@testing-library/react';
import { afterEach, expect, it, vi } from 'vitest';
import { show, type Shown } from '../testing/show.js';
import { LensChoice, nextLens } from './lens-choice.js';

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

function choice(address: string, configurations: readonly string[]): Shown {
  return show(<LensChoice />, { address, answers: { '/api/configurations': { configurations } } });
}

const lensOf = ({ address }: Shown): string | null =>
  new URL(address(), 'http://here').searchParams.get('lens');

it('offers configurations only where an item has some', async () => {
  const shown = choice('/trace?item=FM-1', []);
  await vi.waitFor(() => expect(shown.sentTo('/api/configurations')).toHaveLength(1));
  expect(screen.queryByLabelText('Configuration')).toBeNull();
  expect(screen.getByRole('radiogroup', { name: 'Lens' })).toBeDefined();
});

it('asks for nothing where no item is looked at', () => {
  expect(choice('/find', ['x']).sentTo('/api/configurations')).toEqual([]);
});

it('keeps the versions when the configuration changes, and the configuration when the versions do', async () => {
  const shown = choice('/trace?item=FM-1&lens=newest', ['Pier powered', 'Sun powered']);
  await shown.user.selectOptions(await screen.findByLabelText('Configuration'), 'Pier powered');
  expect(lensOf(shown)).toBe('newest in Pier powered');
  await shown.user.click(screen.getByText('Released'));
  expect(lensOf(shown)).toBe('released in Pier powered');
  await shown.user.selectOptions(screen.getByLabelText('Configuration'), '');
  expect(lensOf(shown)).toBe('released');
});

it('shows a configuration that the item does not have, so that it can be left', async () => {
  const shown = choice('/compare?from=FM-2&to=FM-3&lens=recorded+in+Old', ['New']);
  const select = await screen.findByLabelText('Configuration');
  await vi.waitFor(() => expect([...(select as HTMLSelectElement).options]).toHaveLength(3));
  expect((select as HTMLSelectElement).value).toBe('Old');
  expect(shown.sentTo('/api/configurations')[0]?.search.get('item')).toBe('FM-2');
  await shown.user.selectOptions(select, '');
  expect(lensOf(shown)).toBeNull();
});

it('goes round by a key', () => {
  expect(nextLens('recorded')).toBe('newest');
  expect(nextLens('released in A in B')).toBe('recorded in A in B');
  // A day is none of the three; the first follows.
  expect(nextLens('2026-03-31')).toBe('recorded');
});

it('offers a baseline only where something was frozen, the newest first, and keeps the configuration', async () => {
  const row = (id: string, version: string, at: string): BaselineRow => ({
    ...{ id, number: 'FM-1', version, at, digest: '0'.repeat(64), items: 3 },
  });
  const shown = show(<LensChoice />, {
    address: '/trace?item=FM-1&lens=newest in Pier powered',
    answers: {
      '/api/configurations': { configurations: ['Pier powered'] },
      '/api/baselines': [
        row('17', 'B/2', '2026-03-31T10:00:00.000Z'),
        row('9', 'A/4', '2025-03-31T10:00:00.000Z'),
      ],
    },
  });
  await shown.user.click(await screen.findByText('Baseline'));
  expect(lensOf(shown)).toBe('baseline 17 in Pier powered');
  await shown.user.selectOptions(screen.getByLabelText('Baseline'), 'FM-1 A/4, 2025-03-31');
  expect(lensOf(shown)).toBe('baseline 9 in Pier powered');
  await shown.user.click(screen.getByText('Newest'));
  expect(lensOf(shown)).toBe('newest in Pier powered');
});

it('shows a baseline that is of another item, so that it can be left', async () => {
  show(<LensChoice />, {
    address: '/trace?item=FM-2&lens=baseline 99',
    answers: { '/api/configurations': { configurations: [] }, '/api/baselines': [] },
  });
  expect((await screen.findByLabelText<HTMLSelectElement>('Baseline')).value).toBe('baseline 99');
});

it('looks at what is in effect on a day, or in one piece of the product that is looked at', async () => {
  const shown = choice('/trace?item=FM-1%40A%2F2&lens=newest+in+Hot', ['Hot']);
  await shown.user.click(screen.getByText('Effective on'));
  expect(lensOf(shown)).toMatch(/^effective \d{4}-\d\d-\d\d in Hot$/);
  await shown.user.selectOptions(screen.getByLabelText('Effective on'), 'serial no.');
  expect(lensOf(shown)).toBe('effective 1 of FM-1 in Hot');
  const serial = screen.getByLabelText('Serial number');
  await shown.user.clear(serial);
  await shown.user.type(serial, '120{Enter}');
  expect(lensOf(shown)).toBe('effective 120 of FM-1 in Hot');
  // What is no number is not looked at.
  await shown.user.type(screen.getByLabelText('Serial number'), 'x{Enter}');
  expect(lensOf(shown)).toBe('effective 120 of FM-1 in Hot');
});
