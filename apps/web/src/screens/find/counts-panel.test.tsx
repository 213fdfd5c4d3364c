// @vitest-environment happy-dom
import type { FindCounts } from '@stem-trace/contract';
import { cleanup, screen, within } from '@testing-library/react';
import { useState } from 'react';
import { afterEach, expect, it, vi } from 'vitest';
import { show, type Shown } from '../../testing/show.js';
import { CountsPanel } from './counts-panel.js';

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const COUNTS: FindCounts = {
  total: 1234,
  kind: [{ value: 'part', count: 1234 }],
  state: [
    { value: 'draft', count: 1200 },
    { value: 'in check', count: 34 },
  ],
  class: [
    { value: 'bracket', count: 4 },
    { value: '', count: 1230 },
  ],
  place: Array.from({ length: 9 }, (_, at) => ({ value: `/Place ${at}`, count: at + 1 })),
  changedBy: [
    { value: 'Ines Halvorsen', count: 3 },
    { value: 'Pavo Lind', count: 2 },
  ],
};
const WORDS = {
  properties: [{ name: 'mass', kind: 'number', unit: 'kg', choices: [] }],
  classes: ['bracket'],
  people: [{ login: 'ines', name: 'Ines Halvorsen' }],
  places: [],
  me: 'ines',
  today: '2026-03-31',
};
const RANGES = {
  name: 'mass',
  unit: 'kg',
  ranges: [
    { from: 0, to: 1, count: 7 },
    { from: 1, to: 2, count: 5 },
  ],
  values: [],
};

function Panel({ first }: { readonly first: string }): React.JSX.Element {
  const [words, setWords] = useState(first);
  return (
    <>
      <CountsPanel words={words} place={undefined} lens={undefined} onWords={setWords} />
      <output aria-label="words">{words}</output>
    </>
  );
}

function panel(first = ''): Shown & { readonly words: () => string | null } {
  const shown = show(<Panel first={first} />, {
    answers: {
      '/api/find/counts': COUNTS,
      '/api/find/words': WORDS,
      '/api/find/ranges': RANGES,
    },
  });
  return { ...shown, words: () => screen.getByLabelText('words').textContent };
}

it('writes a filter into the search, and takes it out again', async () => {
  const { user, words, sentTo } = panel('bolt');
  await user.click(await screen.findByRole('button', { name: 'Only in check, 34' }));
  expect(words()).toBe('bolt state = "in check"');
  await vi.waitFor(() =>
    expect(sentTo('/api/find/counts').at(-1)?.search.get('words')).toBe('bolt state = "in check"'),
  );
  await user.click(screen.getByRole('button', { name: 'Remove the filter in check, 34' }));
  expect(words()).toBe('bolt');
});

it('writes filters in the language of the box: without, places with blanks, people by their sign-in', async () => {
  const { user, words } = panel();
  await user.click(await screen.findByRole('button', { name: 'Only without class, 1230' }));
  await user.click(screen.getByRole('button', { name: 'Only /Place 3, 4' }));
  await user.click(screen.getByRole('button', { name: 'Only Ines Halvorsen, 3' }));
  expect(words()).toBe('without class in "/Place 3" by = ines');
});

it('leaves out what tells nothing, and shows few of many until asked', async () => {
  const { user } = panel();
  const counts = within(screen.getByLabelText('Counts'));
  expect(await counts.findByText('State')).toBeDefined();
  // All are parts.
  expect(counts.queryByText('Kind')).toBeNull();
  expect(counts.queryByRole('button', { name: /Place 8/ })).toBeNull();
  await user.click(counts.getByText('3 more'));
  expect(counts.getByRole('button', { name: /Place 8/ })).toBeDefined();
});

it('counts ranges of a property that is chosen', async () => {
  const { user, words } = panel();
  await user.selectOptions(await screen.findByLabelText('Property'), 'mass');
  await user.click(await screen.findByRole('button', { name: 'Only 1..2, 5' }));
  expect(words()).toBe('mass = 1..2 kg');
});
