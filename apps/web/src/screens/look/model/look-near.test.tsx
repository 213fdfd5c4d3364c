// @vitest-environment happy-dom
import type { JobState, JobView, NearRow } from '@stem-trace/contract';
import { cleanup, screen } from '@testing-library/react';
import { afterEach, expect, it, vi } from 'vitest';
import { show, type Answers, type Sent } from '../../../testing/show.js';
import { LookNear } from './look-near.js';

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const row: NearRow = {
  ...{ node: 2, of: 1, number: 'FM-3307', name: 'Pin', kind: 'overlaps', distanceMm: 0, depthMm: 1.25 },
  toleranceMm: 0.2,
  between: [[0, 0, 0], [0, 0, 0]], // prettier-ignore
};
const job = (state: JobState): JobView => ({
  ...{ kind: 'overlaps', id: 'j', about: 'What touches', by: 'Ada', state, tries: 1, failure: null },
  ...{ progress: { done: 40, total: 90 }, askedAt: '2026-01-01T00:00:00.000Z', endedAt: null },
});

function near(selected: readonly number[], answers: Answers) {
  return show(
    <LookNear
      {...{ item: 'FM-100@A/1', lens: 'newest', uses: 5, classes: ['Fastener'] }}
      selected={new Set(selected)}
      onShow={() => undefined}
    />,
    { answers },
  );
}

it('goes through all pairs as a job that says how far it is, can be stopped, and is begun once more', async () => {
  let state: JobState = 'running';
  const { user, sentTo } = near([], {
    '/api/overlaps': ({ body }: Sent) => {
      if ((body as { again: boolean }).again && state === 'cancelled') state = 'done';
      return state === 'cancelled'
        ? Response.json({ code: 'JOB_CANCELLED', detail: 'Somebody ended this.' }, { status: 409 })
        : { job: job(state), found: state === 'done' ? { rows: [row], more: 3, unknown: ['FM-9'] } : null };
    },
    '/api/jobs/cancel': () => {
      state = 'cancelled';
      return new Response(null, { status: 204 });
    },
  });
  await user.click(screen.getByRole('button', { name: 'All that touches or overlaps' }));
  expect((await screen.findByRole('progressbar')).textContent).toMatch(/40 of 90/);
  await user.click(screen.getByRole('button', { name: 'Stop' }));
  expect(await screen.findByText('Somebody ended this.')).toBeDefined();
  await user.click(screen.getByRole('button', { name: 'All that touches or overlaps' }));
  expect(await screen.findByText('4 found, the deepest 1 told; 1 have no geometry yet')).toBeDefined();
  expect(screen.getByText('≥ 1.25 mm (± 0.2 mm)')).toBeDefined();
  expect(sentTo('/api/overlaps').map(({ body }) => (body as { again: boolean }).again)).toEqual([
    ...[true, false, true],
  ]);
});

it('asks about what is selected: one with all, two with each other', async () => {
  const answers: Answers = {
    '/api/overlaps': { job: job('done'), found: { rows: [], more: 0, unknown: [] } },
    '/api/near': { rows: [], unknown: [] },
  };
  const { user, sentTo } = near([3, 1], answers);
  await user.click(screen.getByRole('button', { name: 'Where both touch or overlap' }));
  expect(await screen.findByText('nothing touches or overlaps')).toBeDefined();
  expect(sentTo('/api/overlaps')[0]?.body).toMatchObject({ of: '3', to: '1', nodes: 5, lens: 'newest' });
  await user.clear(screen.getByLabelText('Distance in mm'));
  await user.type(screen.getByLabelText('Distance in mm'), '2,5');
  await user.click(screen.getByRole('button', { name: 'What is near it' }));
  expect(await screen.findByText('nothing is as near as that')).toBeDefined();
  expect(sentTo('/api/near')[0]?.search.toString()).toContain('of=3%2C1&within=2.5');
});
