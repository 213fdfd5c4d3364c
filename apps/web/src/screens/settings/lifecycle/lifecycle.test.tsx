// @vitest-environment happy-dom
import type { LifecycleDraft, LifecyclesAnswer } from '@stem-trace/contract';
import { SHIPPED } from '@stem-trace/core';
import { cleanup, screen, within } from '@testing-library/react';
import Elk from 'elkjs/lib/elk.bundled.js';
import { afterEach, describe, expect, it, vi } from 'vitest';
import { ENGINEER, show, type Shown } from '../../../testing/show.js';
import { LifecycleSection } from './lifecycle-section.js';
import { lifecycleGraph, pictureOf, STATE_SIZE } from './picture-layout.js';
import { withoutState, withState } from './use-lifecycle-edit.js';

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const ANSWER: LifecyclesAnswer = {
  states: SHIPPED.states,
  lifecycles: [
    {
      ...{ id: '1', version: 2, diagram: SHIPPED, scopes: [{ kind: null, class: null, place: null }] },
      ...{ changedBy: 'Odalys Brandt', changedAt: '2026-11-20T10:00:00.000Z', comment: '' },
      standing: [{ version: 1, state: 'draft', count: 3 }],
    },
  ],
};

function section(role: 'administrator' | 'engineer', wrong: readonly string[] = []): Shown {
  return show(<LifecycleSection />, {
    person: { ...ENGINEER, role },
    answers: {
      '/api/lifecycles': ({ method }: { method: string }) =>
        method === 'GET' ? ANSWER : { ...ANSWER.lifecycles[0], id: '1' },
      '/api/lifecycles/1/versions': [],
      '/api/lifecycles/check': { wrong },
      '/api/people': [],
      '/api/places': [],
      '/api/properties': { definitions: [], classes: [] },
    },
  });
}

const saved = (shown: Shown): LifecycleDraft | undefined =>
  shown.sentTo('/api/lifecycles').find(({ method }) => method === 'POST')?.body as LifecycleDraft | undefined;

describe('lifecycles', () => {
  it('are read by everybody, and changed by an administrator alone', async () => {
    section('engineer');
    const steps = await screen.findByRole('list', { name: 'Steps' });
    expect(within(steps).getAllByRole('listitem')).toHaveLength(SHIPPED.steps.length);
    expect(screen.getByText(/3 revisions go by an older version/)).toBeDefined();
    expect(screen.queryByRole('button', { name: /Change|Move/ })).toBeNull();
  });

  it('are changed as sentences, and saved as the next version', async () => {
    const shown = section('administrator');
    const { user } = shown;
    await user.click(await screen.findByRole('button', { name: 'Change it …' }));
    await user.click(screen.getByRole('button', { name: 'Change release' }));
    const sentence = within(screen.getByRole('group', { name: 'The step release' }));
    await user.selectOptions(sentence.getByLabelText('Signatures'), '2');
    await user.click(sentence.getByRole('button', { name: 'Who signs: without an administrator' }));
    await user.click(sentence.getByRole('checkbox', { name: 'not an author of it' }));
    expect(screen.getByText(/^A checker, not the author, may release: .* with 2 signatures/)).toBeDefined();
    const button = screen.getByRole('button', { name: 'Save as the next version' });
    await vi.waitFor(() => expect(button.hasAttribute('disabled')).toBe(false));
    await user.click(button);
    await vi.waitFor(() => expect(saved(shown)).toBeDefined());
    expect(saved(shown)?.diagram.steps.find(({ name }) => name === 'release')).toMatchObject({
      notByAuthors: true,
      signatures: { count: 2, of: [{ kind: 'role', role: 'checker' }] },
    });
  });

  it('are not saved while something is wrong, which is said', async () => {
    const { user } = section('administrator', ['lost: no step leads there.']);
    await user.click(await screen.findByRole('button', { name: 'Change it …' }));
    await user.click(screen.getAllByRole('button', { name: 'Another state' })[0] as HTMLElement);
    expect(await screen.findByText('lost: no step leads there.')).toBeDefined();
    expect(screen.getByRole('button', { name: 'Save as the next version' }).hasAttribute('disabled')).toBe(
      true,
    );
  });
});

it('a state that gets another name, or goes, takes along whatever names it', () => {
  const renamed = withState(SHIPPED, 0, {
    name: 'sketch',
    lane: 'open',
    isReleased: false,
    glyph: 'diamond',
  });
  expect(JSON.stringify(renamed)).not.toContain('"draft"');
  expect([renamed.first, renamed.steps[0]?.from]).toEqual(['sketch', ['sketch']]);
  const without = withoutState(SHIPPED, 3);
  expect(JSON.stringify(without)).not.toContain('"superseded"');
  expect(without.steps).toHaveLength(SHIPPED.steps.length);
  expect(withoutState(SHIPPED, 1).steps.map(({ name }) => name)).toEqual(['withdraw']);
});

it('the picture puts lanes side by side and every state in its own', async () => {
  const picture = pictureOf(SHIPPED, await new Elk().layout(lifecycleGraph(SHIPPED)));
  expect(picture.lanes.map(({ lane }) => lane)).toEqual(['open', 'under check', 'locked', 'out of use']);
  for (const [at, { x, width }] of picture.lanes.entries()) {
    const next = picture.lanes[at + 1];
    if (next) expect(x + width).toBeLessThanOrEqual(next.x);
  }
  const lanes = new Map(picture.lanes.map((lane) => [lane.lane, lane]));
  for (const { name, x } of picture.states) {
    const lane = lanes.get(SHIPPED.states.find((state) => state.name === name)?.lane ?? 'open');
    expect(lane && x >= lane.x && x + STATE_SIZE.width <= lane.x + lane.width).toBe(true);
  }
  // Each way of each step, and what becomes of older ones.
  expect(picture.arrows).toHaveLength(7);
});
