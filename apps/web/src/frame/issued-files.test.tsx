// @vitest-environment happy-dom
import type { IssuedFileRow } from '@stem-trace/contract';
import { cleanup, screen, within } from '@testing-library/react';
import { afterEach, expect, it, vi } from 'vitest';
import { show } from '../testing/show.js';
import { allIssued, IssuedFiles, sayIssued } from './issued-files.js';

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const file = (more: Partial<IssuedFileRow>): IssuedFileRow => ({
  ...{ id: '1', version: 'B/2', kind: 'PDF', state: 'made', name: 'FM-1-D B-2.pdf', size: 17_000 },
  ...{ sha256: '0'.repeat(64), askedAt: '2026-03-31T10:00:00.000Z', madeAt: '2026-03-31T10:01:00.000Z' },
  ...{ remarks: [], problem: null, tries: 0, mayReceive: true },
  ...more,
});

it('leads to what is made, names what is not and why, and lets it be tried again', async () => {
  const { user, sentTo } = show(<IssuedFiles item="FM-1" />, {
    answers: {
      '/api/issued': [
        file({ remarks: ['No font that ships has 水 (U+6C34)'] }),
        file({ id: '2', kind: 'STEP', state: 'waiting', name: '', madeAt: null }),
        file({ id: '3', kind: 'glTF', state: 'left out', name: '', problem: 'Nothing has a shape.' }),
        file({ id: '4', kind: 'BOM as CSV', state: 'waiting', name: '', problem: 'The disk is full.' }),
        file({ id: '5', version: 'A/1', name: 'FM-1-D A-1.pdf', mayReceive: false }),
      ],
      '/api/issued/again': new Response(null, { status: 204 }),
    },
  });
  const newest = await screen.findByRole('region', { name: 'Issued files of B/2' });
  expect(within(newest).getByRole('link').getAttribute('href')).toBe('/api/issued/file?item=FM-1&file=1');
  expect(newest.textContent).toContain('水');
  expect(newest.textContent).toContain('STEP: being made …');
  expect(newest.textContent).toContain('glTF: none. Nothing has a shape.');
  expect(newest.textContent).toContain('BOM as CSV: not yet. The disk is full.');
  await user.click(within(newest).getAllByRole('button', { name: 'Try again' })[1] ?? newest);
  expect(sentTo('/api/issued/again')[0]?.body).toEqual({ item: 'FM-1', file: '4' });
  // What one may not have is said, and is no link.
  const older = screen.getByRole('region', { name: 'Issued files of A/1' });
  expect(within(older).queryByRole('link')).toBeNull();
  expect(older.textContent).toContain('not yours to have');
});

it('is nothing where none were asked for', async () => {
  const { sentTo } = show(<IssuedFiles item="FM-1" />, { answers: { '/api/issued': [] } });
  await vi.waitFor(() => expect(sentTo('/api/issued')).toHaveLength(1));
  expect(screen.queryByText('Issued files')).toBeNull();
});

it('is counted over all that stands on a sheet', () => {
  const none = { wanted: 0, made: 0, leftOut: 0, problem: null };
  expect(sayIssued(none)).toBe('');
  const all = allIssued([
    none,
    { wanted: 5, made: 4, leftOut: 1, problem: 'Nothing has a shape.' },
    { wanted: 1, made: 0, leftOut: 0, problem: null },
  ]);
  expect(sayIssued(all)).toBe('4 of 6 issued files, 1 left out');
  expect(all.problem).toBe('Nothing has a shape.');
});
