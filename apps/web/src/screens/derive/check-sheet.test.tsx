// @vitest-environment happy-dom
import type { PlanLine } from '@stem-trace/core';
import type { DerivePreview } from '@stem-trace/contract';
import { cleanup, screen, within } from '@testing-library/react';
import { afterEach, expect, it, vi } from 'vitest';
import { show } from '../../testing/show.js';
import { CheckSheet } from './check-sheet.js';

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

function line(number: string, more: Partial<PlanLine> = {}): PlanLine {
  return {
    key: number,
    number,
    name: `name of ${number}`,
    kind: 'part',
    version: 'A/1',
    decision: 'copy',
    reason: '',
    forced: false,
    newNumber: `N-${number}`,
    newName: null,
    fileName: `N-${number}.stp`,
    to: null,
    clash: null,
    ...more,
  };
}

function check(preview: Partial<DerivePreview>, isBusy = false): () => void {
  const lines = preview.lines ?? [];
  const carryOut = vi.fn();
  show(
    <CheckSheet
      preview={{
        origin: { number: 'FM-1', name: 'Station', version: 'A/1' },
        place: '/Variants',
        tree: [],
        hindrances: [],
        configurations: [],
        ready: true,
        lines,
        ...preview,
      }}
      copied={lines.filter(({ decision }) => decision === 'copy')}
      clashes={lines.filter(({ clash }) => clash !== null)}
      {...{ carryOut, isBusy }}
    />,
    { answers: {} },
  );
  return carryOut;
}

it('lists what is made and what is shared, however much that is, and carries it out', async () => {
  const lines = Array.from({ length: 10_000 }, (_, at) => line(`FM-${at}`));
  const carryOut = check({ lines: [...lines, line('FM-S', { decision: 'share', newNumber: null })] });
  const made = screen.getByRole('grid', { name: 'Will be made' });
  expect(made.getAttribute('aria-rowcount')).toBe('10001');
  // Only those in sight are in the page.
  expect(within(made).getAllByRole('row').length).toBeLessThan(100);
  expect(within(made).getByRole('row', { name: /FM-0 N-FM-0 N-FM-0.stp/ })).toBeDefined();
  const shared = screen.getByRole('grid', { name: 'Shared as they are' });
  expect(within(shared).getByRole('row', { name: /FM-S/ })).toBeDefined();
  screen.getByRole('button', { name: 'Make the variant' }).click();
  await vi.waitFor(() => expect(carryOut).toHaveBeenCalledOnce());
});

it('says what is in the way and what stays a gap, and waits until nothing is', () => {
  const clash = { of: 'name' as const, says: 'N-FM-1 is taken' };
  check({
    lines: [line('FM-1', { clash })],
    hindrances: [
      {
        kind: 'gap',
        stops: false,
        says: 'An item refers to files',
        help: 'The gaps stay.',
        numbers: ['LOST'],
      },
    ],
    ready: false,
  });
  expect(screen.getByText('N-FM-1 is taken')).toBeDefined();
  expect(screen.getByText('An item refers to files').closest('li')?.textContent).toBe(
    'An item refers to filesLOSTThe gaps stay.',
  );
  expect(screen.getByRole('button', { name: 'Make the variant' }).hasAttribute('disabled')).toBe(true);
});

it('writes out no more of what is in the way than can be read', () => {
  const clash = { of: 'name' as const, says: 'taken' };
  check({ lines: Array.from({ length: 70 }, (_, at) => line(`FM-${at}`, { clash })), ready: false });
  expect(screen.getAllByText('taken')).toHaveLength(50);
  expect(screen.getByText('and 20 more')).toBeDefined();
});

it('lists what is swapped and what is left out', () => {
  const swapped = { decision: 'swap', newNumber: null, to: { number: 'X-1', name: 'longer arm' } } as const;
  check({
    lines: [line('FM-1'), line('FM-2', swapped), line('FM-3', { decision: 'omit', newNumber: null })],
  });
  const grid = screen.getByRole('grid', { name: 'Swapped and left out' });
  expect(within(grid).getByRole('row', { name: /FM-2 X-1 longer arm/ })).toBeDefined();
  expect(within(grid).getByRole('row', { name: /FM-3 left out/ })).toBeDefined();
});
