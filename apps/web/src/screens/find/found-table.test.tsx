// @vitest-environment happy-dom
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { act, cleanup, fireEvent, render, screen } from '@testing-library/react';
import { MemoryRouter } from 'react-router';
import { afterEach, beforeAll, beforeEach, expect, it, vi } from 'vitest';
import { DeskProvider } from '../../frame/desk.js';
import { PersonContext } from '../../frame/person.js';
import { ENGINEER } from '../../testing/show.js';
import { DEFAULT_COLUMNS } from './find-columns.js';
import { FoundTable } from './found-table.js';

const ROWS = 50_000;
const asked: number[] = [];

beforeAll(() => {
  for (const [name, size] of [
    ['offsetHeight', 400],
    ['offsetWidth', 800],
    ['clientHeight', 400],
  ] as const)
    Object.defineProperty(HTMLElement.prototype, name, { configurable: true, get: () => size });
  HTMLElement.prototype.scrollTo = function scrollTo(): void {
    // Only what the test itself scrolls is scrolled.
  };
});
beforeEach(() => {
  asked.length = 0;
  vi.useFakeTimers({ shouldAdvanceTime: true });
  vi.stubGlobal(
    'fetch',
    vi.fn((path: string) => {
      const { searchParams } = new URL(path, 'http://here');
      const [offset, limit] = [Number(searchParams.get('offset')), Number(searchParams.get('limit'))];
      asked.push(offset);
      const rows = Array.from({ length: limit }, (_, at) => ({
        number: `P-${offset + at}`,
        name: `part ${offset + at}`,
        kind: 'part',
        version: 'A/1',
        state: 'draft',
        place: '/parts',
        changedAt: '2026-01-01T00:00:00Z',
        changedBy: 'Ada',
        heldBy: null,
        class: null,
        properties: {},
        foundIn: null,
      }));
      return Promise.resolve(Response.json({ rows, total: ROWS, hidden: 0, near: [] }));
    }),
  );
});
afterEach(() => {
  cleanup();
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

async function show(): Promise<HTMLElement> {
  render(
    <MemoryRouter>
      <QueryClientProvider client={new QueryClient()}>
        <PersonContext value={{ login: 'ada', name: 'Ada', initials: 'A', role: 'engineer' }}>
          <PersonContext value={ENGINEER}>
            <DeskProvider>
              <FoundTable
                query={{ words: '', sort: 'number', order: 'up' }}
                chosen={DEFAULT_COLUMNS}
                onChoose={() => undefined}
                onChange={() => undefined}
              />
            </DeskProvider>
          </PersonContext>
        </PersonContext>
      </QueryClientProvider>
    </MemoryRouter>,
  );
  await screen.findByText('P-0');
  return screen.getByRole('grid', { name: 'Items found' });
}

function scrollTo(grid: HTMLElement, row: number): void {
  grid.scrollTop = row * 32;
  fireEvent.scroll(grid);
}

it('fetches the rows where scrolling comes to rest, not those passed by on the way', async () => {
  const grid = await show();
  for (const row of [10_000, 20_000, 30_000, 40_000]) {
    scrollTo(grid, row);
    await act(() => vi.advanceTimersByTimeAsync(20));
  }
  expect(screen.getAllByText('…').length).toBeGreaterThan(0);
  await act(() => vi.advanceTimersByTimeAsync(300));
  expect(await screen.findByText('P-40000')).toBeDefined();
  expect(asked.filter((offset) => offset > 0 && offset < 39_000)).toEqual([]);
});

it('fetches the next rows at once where somebody scrolls on from page to page', async () => {
  const grid = await show();
  scrollTo(grid, 95);
  await act(() => vi.advanceTimersByTimeAsync(20));
  expect(await screen.findByText('P-101')).toBeDefined();
  expect(asked).toEqual([0, 100]);
});
