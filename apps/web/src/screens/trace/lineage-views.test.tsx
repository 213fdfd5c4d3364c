// @vitest-environment happy-dom
import type { FamilyAnswer, FamilyCellView, StemAnswer } from '@stem-trace/contract';
import { cleanup, screen, within } from '@testing-library/react';
import { afterEach, expect, it, vi } from 'vitest';
import { show } from '../../testing/show.js';
import { FamilyView } from './family-view.js';
import { StemView } from './stem-view.js';

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const row = (number: string, more: Partial<StemAnswer['rows'][number]> = {}): StemAnswer['rows'][number] => ({
  ...{
    level: 1,
    number,
    name: `name of ${number}`,
    kind: 'assembly',
    version: 'A/2',
    state: 'draft',
    heldBy: null,
  },
  ...{
    from: null,
    at: '2026-03-02T08:00:00.000Z',
    by: 'Ines',
    originVersions: 0,
    ownVersions: 0,
    drift: null,
  },
  ...more,
});
const from = { number: 'FM-1000', version: 'B/1' };
const drift = { origin: 3, variant: 0, alike: 1, apart: 0, contradict: 2 };

function stem(rows: StemAnswer['rows'], more: Partial<StemAnswer> = {}): ReturnType<typeof show> {
  return show(<StemView focus="FM-1000" />, {
    address: '/trace?item=FM-1000&view=stem&lens=newest',
    answers: {
      '/api/stem': {
        item: { number: 'FM-1000', name: 'Station' },
        lens: 'newest',
        rows,
        hidden: 0,
        cut: 0,
        ...more,
      },
    },
  });
}

it('shows what was derived from what, and counts what each side has changed since', async () => {
  const { user, address } = stem([row('FM-1000'), row('FM-5000', { level: 2, from, drift })], { hidden: 2 });
  const variant = await screen.findByRole('row', { name: /FM-5000/ });
  expect(screen.getByText('1 variant, 1 with drift')).toBeDefined();
  expect(screen.getByText('2 not visible to you')).toBeDefined();
  expect(
    within(variant)
      .getAllByRole('gridcell')
      .map(({ textContent }) => textContent)
      .slice(5, 8),
  ).toEqual([...['3', 'nothing', '2']]);
  // Three sides, with what the variant was derived from as it was then.
  await user.click(variant);
  await user.click(screen.getByRole('button', { name: 'What both changed' }));
  expect(address()).toBe('/compare?from=FM-1000&to=FM-5000&base=FM-1000%40B%2F1&lens=newest');
});

it('says where there is nothing to show, and leads on to the family', async () => {
  stem([row('FM-1000')]);
  expect(await screen.findByText(/^Nothing was derived from FM-1000/)).toBeDefined();
  cleanup();
  const { user, address } = stem([row('FM-1000'), row('FM-5000', { level: 2, from, drift: null })]);
  await user.click(await screen.findByRole('button', { name: 'Family' }));
  expect(new URL(address(), 'http://here').searchParams.get('view')).toBe('family');
});

const cell = (
  verdict: FamilyCellView['verdict'],
  number = '',
  version = '',
  amount = '',
): FamilyCellView => ({
  ...{ verdict, number, version, amount },
});
const member = (number: string): FamilyAnswer['origin'] => ({
  number,
  name: number,
  version: 'A/1',
  state: 'draft',
});
const position = (number: string, kinds: number, cells: FamilyCellView[]): FamilyAnswer['rows'][number] => ({
  ...{
    level: 1,
    number,
    name: `name of ${number}`,
    kind: 'part',
    version: 'A/1',
    amount: '2',
    isOfOrigin: true,
  },
  ...{ kinds, cells },
});

it('lays variants beside each other, and shows only what differs where that is wished', async () => {
  const answer: FamilyAnswer = {
    ...{ origin: member('FM-1000'), lens: 'recorded', variants: [member('FM-5000'), member('FM-6000')] },
    rows: [
      position('TUBE', 2, [cell('own', 'V-TUBE', 'B/1'), cell('same', 'TUBE', 'A/1')]),
      position('BOLT', 1, [cell('same', 'BOLT', 'A/1'), cell('same', 'BOLT', 'A/1', '6')]),
      position('LID', 1, [cell('same', 'LID', 'A/1'), cell('same', 'LID', 'A/1')]),
      position('HEATER', 1, [cell('omitted'), cell('same', 'HEATER', 'A/1')]),
    ],
    shares: { positions: { common: 1, all: 4 }, massKg: { common: 1, all: 4 }, cost: { common: 0, all: 0 } },
    ...{ hidden: 1, cut: 0 },
  };
  const { user } = show(<FamilyView focus="FM-1000" />, {
    address: '/trace?item=FM-1000&view=family',
    answers: { '/api/family': answer },
  });
  const tube = await screen.findByRole('row', { name: /TUBE/ });
  expect(within(tube).getByRole('img', { name: 'another version' })).toBeDefined();
  expect(tube.textContent).toContain('V-TUBE B/1');
  expect(screen.getByText(/^2 variants of FM-1000/).textContent).toBe(
    '2 variants of FM-1000. In common: 1 of 4 parts, 25 % of the mass. 1 not visible to you.',
  );
  const shown = (): string[] =>
    screen
      .getAllByRole('row')
      .flatMap(({ textContent }) => /TUBE|BOLT|LID|HEATER/.exec(textContent)?.[0] ?? []);
  expect(shown()).toEqual(['TUBE', 'BOLT', 'LID', 'HEATER']);
  await user.click(screen.getByText('Where they differ'));
  expect(shown()).toEqual(['TUBE', 'BOLT', 'HEATER']);
  await user.click(screen.getByText('Could be one part'));
  expect(shown()).toEqual(['TUBE']);
});
