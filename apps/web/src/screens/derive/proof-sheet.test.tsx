// @vitest-environment happy-dom
import type { DeriveResult, JobState, JobView } from '@stem-trace/contract';
import type { Proof } from '@stem-trace/core';
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { cleanup, render, screen } from '@testing-library/react';
import { MemoryRouter } from 'react-router';
import { afterEach, expect, it, vi } from 'vitest';
import { DeskProvider } from '../../frame/desk.js';
import { PersonContext } from '../../frame/person.js';
import { ENGINEER } from '../../testing/show.js';
import { ProofSheet } from './proof-sheet.js';

const RESULT: DeriveResult = {
  variant: 'V-100',
  made: [{ from: 'FM-100', to: 'V-100' }],
  shared: ['FM-200'],
  omitted: [],
  swapped: [],
  notes: Array.from({ length: 60 }, (_, at) => `FM-${at} is copied: it contains FM-100, which is copied`),
};
const job = (state: JobState, done = 0): JobView => ({
  ...{ kind: 'proof', id: 'j', about: 'Proof of V-100', by: 'Ada', state, tries: 1, failure: null },
  ...{ progress: { done, total: 12 }, askedAt: '2026-01-01T00:00:00.000Z', endedAt: null },
});
const SOUND: Proof = { references: 9, copied: 7, shared: 2, dangling: 0, leaking: 0, faults: [] };

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

function sheet(): React.JSX.Element {
  return (
    <MemoryRouter>
      <QueryClientProvider client={new QueryClient({ defaultOptions: { queries: { retry: false } } })}>
        <PersonContext value={ENGINEER}>
          <DeskProvider>
            <ProofSheet result={RESULT} />
          </DeskProvider>
        </PersonContext>
      </QueryClientProvider>
    </MemoryRouter>
  );
}

/** Shows the sheet; the proof comes when it is told to. */
function show(): (answer: Response) => void {
  let tell: (answer: Response) => void = () => undefined;
  vi.stubGlobal(
    'fetch',
    vi.fn(() => new Promise<Response>((done) => (tell = done))),
  );
  render(sheet());
  return (answer) => tell(answer);
}

it('shows the variant at once, and the proof when its files have been read back', async () => {
  const tell = show();
  expect(screen.getByRole('heading').textContent).toBe('V-100 is made');
  expect(screen.getByText(/being made and read back/)).toBeDefined();
  expect(screen.getByRole('link', { name: /Trace V-100/ })).toBeDefined();
  tell(Response.json({ proof: SOUND, job: job('done', 12) }));
  expect((await screen.findByText(/its files hold together/)).textContent).toContain('V-100');
  expect(screen.getByText(/of 9 references/)).toBeDefined();
});

it('says what does not hold, but no more of it than can be read', async () => {
  const faults = Array.from({ length: 80 }, (_, at) => `a.stp: reference ${at} leads nowhere`);
  show()(Response.json({ proof: { ...SOUND, copied: 0, dangling: 80, faults }, job: job('done', 12) }));
  expect(await screen.findByText(/do not say what was planned/)).toBeDefined();
  expect(screen.getAllByText(/leads nowhere/)).toHaveLength(50);
  expect(screen.getByText('and 30 more')).toBeDefined();
  expect(screen.getByText('and 10 more')).toBeDefined();
});

it('says why there is no proof, and keeps the variant', async () => {
  show()(
    Response.json(
      { code: 'NOT_ALLOWED', detail: 'V-100 refers to items that you may not fetch.' },
      { status: 403 },
    ),
  );
  expect(await screen.findByText(/may not fetch/)).toBeDefined();
  expect(screen.getByRole('heading').textContent).toBe('V-100 is made');
});

it('says how far it is, can be ended, and proves again', async () => {
  let state: JobState = 'running';
  const sent: string[] = [];
  vi.stubGlobal(
    'fetch',
    vi.fn((path: string, { body }: { body: string }) => {
      sent.push(`${path} ${body}`);
      if (path === '/api/jobs/cancel') {
        state = 'cancelled';
        return Promise.resolve(new Response(null, { status: 204 }));
      }
      if (body.includes('again')) state = 'done';
      if (state === 'cancelled')
        return Promise.resolve(
          Response.json({ code: 'JOB_CANCELLED', detail: 'Somebody ended this.' }, { status: 409 }),
        );
      return Promise.resolve(Response.json({ proof: state === 'done' ? SOUND : null, job: job(state, 5) }));
    }),
  );
  render(sheet());
  expect((await screen.findByRole('progressbar')).textContent).toMatch(/5 of 12/);
  screen.getByRole('button', { name: 'Stop the proof' }).click();
  expect(await screen.findByText('Somebody ended this.')).toBeDefined();
  screen.getByRole('button', { name: 'Run the proof again' }).click();
  expect(await screen.findByText(/its files hold together/)).toBeDefined();
  expect(sent).toContain('/api/jobs/cancel {"kind":"proof","id":"j"}');
});
