// @vitest-environment happy-dom
import type { BillRelease, PlanningState } from '@stem-trace/contract';
import { cleanup, screen, within } from '@testing-library/react';
import { afterEach, expect, it, vi } from 'vitest';
import { show } from '../../testing/show.js';
import { ReleasesView } from './releases-view.js';

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const PLANNING: PlanningState = { state: 'off', tries: 0, sentAt: null, problem: null };
const release = (version: string, more: Partial<BillRelease> = {}): BillRelease => ({
  ...{
    version,
    at: '2026-03-04T10:00:00.000Z',
    by: 'Pavo',
    notes: '',
    isSuperseded: false,
    files: [],
    problem: null,
  },
  planning: PLANNING,
  ...more,
});

async function shown(releases: readonly BillRelease[]): Promise<HTMLElement[]> {
  show(<ReleasesView bill="FB-1" />, { answers: { '/api/build/releases': releases } });
  return within(await screen.findByRole('list', { name: 'Releases' })).getAllByRole('listitem');
}

it('says how a bill is released where it never was', async () => {
  show(<ReleasesView bill="FB-1" />, { answers: { '/api/build/releases': [] } });
  expect(await screen.findByText(/^Not released yet\. Let go of the bill/)).toBeDefined();
});

it('leads from a release to its files, to the one before, to any other, and back to it', async () => {
  const [newest, oldest] = await shown([
    release('B/2', { notes: 'vent plug', files: [{ id: '7', name: 'FB-1 B-2.xlsx', size: 12_345 }] }),
    release('A/2', { isSuperseded: true }),
  ]);
  const links = within(newest ?? document.body).getAllByRole('link');
  expect(links.map((link) => [link.textContent, link.getAttribute('href')])).toEqual([
    ['FB-1 B-2.xlsx 12 kB', '/api/issued/file?item=FB-1&file=7'],
    ['Compare with A/2', '/compare?from=FB-1%40A%2F2&to=FB-1%40B%2F2'],
    ['Compare with another or a file', '/compare?from=FB-1%40B%2F2&to='],
    ['Open', '/build?bill=FB-1%40B%2F2'],
    ['Go back to it in History', '/history?item=FB-1'],
  ]);
  expect(newest?.textContent).toContain('vent plug');
  expect(oldest?.textContent).toContain('superseded');
  expect(oldest?.hasAttribute('data-superseded')).toBe(true);
});

it.each<[Partial<BillRelease>, string]>([
  [{}, 'Files are being made …'],
  [
    { problem: '{{bill.colour}} in cell List!A1 means nothing' },
    'No files yet: {{bill.colour}} in cell List!A1',
  ],
  [{}, 'No planning system is connected.'],
  [{ planning: { ...PLANNING, state: 'waiting' } }, 'Waits for planning'],
  [
    { planning: { ...PLANNING, state: 'waiting', tries: 2, problem: 'it answered 503' } },
    'Waits for planning, tried 2 times: it answered 503',
  ],
  [
    { planning: { ...PLANNING, state: 'waiting', tries: 1, problem: 'nobody answers' } },
    'tried 1 time: nobody answers',
  ],
  [{ planning: { ...PLANNING, state: 'sent', sentAt: '2026-03-04T10:01:00.000Z' } }, 'Planning has it'],
])('%j is said as “%s”', async (more, says) => {
  const [only] = await shown([release('A/2', more)]);
  expect(only?.textContent).toContain(says);
});
