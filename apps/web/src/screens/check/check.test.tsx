// @vitest-environment happy-dom
import type { CheckPointRow, OfferedStep, SheetItem, SheetView } from '@stem-trace/contract';
import { cleanup, screen, within } from '@testing-library/react';
import { Route, Routes } from 'react-router';
import type { QueryWords } from '@stem-trace/core';
import { afterEach, describe, expect, it, vi } from 'vitest';
import { show, type Shown } from '../../testing/show.js';
import { CheckScreen } from './check-screen.js';
import { stepsForAll } from './decision.js';

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const RELEASE: OfferedStep = {
  ...{ name: 'release', from: 'in check', to: 'released', says: 'It is locked for good.' },
  ...{ asksReason: false, signatures: null, isHandingOn: false },
};
const BACK: OfferedStep = { ...RELEASE, name: 'send back', to: 'draft', asksReason: true };
const POINT: CheckPointRow = {
  ...{ id: '7', version: 'A/1', words: 'Too thin', by: 'Maren Oduya', at: '2026-11-24T09:00:00.000Z' },
  ...{ answer: null, closed: null, isEarlier: true, mayAnswer: true, mayClose: true },
};

function item(number: string, more: Partial<SheetItem> = {}): SheetItem {
  return {
    ...{ number, name: 'Rod', kind: 'document', version: 'B/1', state: 'in check', isUndecided: true },
    shown: `shown-${number}`,
    ...{
      released: null,
      isSeen: false,
      seenBy: [],
      points: [],
      issued: { wanted: 0, made: 0, leftOut: 0, problem: null },
      steps: [RELEASE, BACK],
      mayRaise: true,
    },
    versions: [{ version: 'B/1', comment: 'Wider', by: 'Ines Halvorsen', at: '2026-11-23T09:00:00.000Z' }],
    ...more,
  };
}

const WORDS: QueryWords = {
  ...{ properties: [], states: [], classes: [], places: [], me: 'maren', today: '2026-11-26' },
  people: [
    { login: 'maren', name: 'Maren Oduya' },
    { login: 'pavo', name: 'Pavo Lind' },
  ],
};

const SHEET: SheetView = {
  ...{ id: '4', title: 'FM-1 Rod and 2 more', sentBy: 'Ines Halvorsen', sentAt: '2026-11-24T08:00:00.000Z' },
  ...{ reason: 'New clamp', items: 3, undecided: 3, seen: 1, isMine: true, hidden: 1 },
  ...{ asked: [], until: null, isLate: false },
  rows: [
    item('FM-1', { isSeen: true, points: [POINT] }),
    item('FM-2'),
    item('FM-3', { isUndecided: false, state: 'released', steps: [] }),
  ],
};

function sheet(address = '/check/4', view: SheetView = SHEET): Shown {
  return show(
    <Routes>
      <Route path="/check/:id?" element={<CheckScreen />} />
    </Routes>,
    {
      address,
      answers: {
        '/api/sheets/4': view,
        '/api/sheets': [SHEET],
        '/api/sheets/seen': new Response(null, { status: 204 }),
        '/api/sheets/points/answer': new Response(null, { status: 204 }),
        '/api/sheets/points/close': new Response(null, { status: 204 }),
        '/api/sheets/pass': new Response(null, { status: 204 }),
        '/api/find/words': WORDS,
        '/api/steps/preview': { items: [], refused: [], drafts: [], users: 0, signatures: 0 },
        '/api/item': new Promise(() => undefined),
      },
    },
  );
}

describe('a check sheet', () => {
  it('says what was not opened, and decides about nothing that was not', async () => {
    const { user } = sheet();
    const items = await screen.findByRole('grid', { name: 'Items of the check sheet' });
    expect(within(items).getByText('not opened')).toBeDefined();
    expect(within(items).getByText('1 point')).toBeDefined();
    expect(screen.getByText('1 more that you may not see. Ask whoever sent it for access.')).toBeDefined();
    const decision = within(screen.getByRole('region', { name: 'Decision' }));
    expect(decision.getByText(/Not opened by you/).textContent).toContain('FM-2');
    await user.click(decision.getByRole('button', { name: 'Release 1 …' }));
    expect(await screen.findByRole('heading', { name: 'Release: FM-1' })).toBeDefined();
  });

  it('counts as seen what is opened, by key', async () => {
    const shown = sheet();
    await screen.findByRole('grid', { name: 'Items of the check sheet' });
    await shown.user.keyboard('{ArrowDown}{Enter}');
    expect(await screen.findByRole('region', { name: 'FM-2 B/1' })).toBeDefined();
    expect(shown.sentTo('/api/sheets/seen').map(({ body }) => body)).toEqual([
      { sheet: '4', item: 'FM-2', shown: 'shown-FM-2' },
    ]);
    expect(shown.address()).toBe('/check/4?item=FM-2');
    expect(screen.getByText('It was never released')).toBeDefined();
  });

  it('says who is asked, who stands in, that it is late, and how far its files are', async () => {
    sheet('/check/4', {
      ...SHEET,
      ...{ until: '2026-11-25', isLate: true },
      asked: [
        { login: 'maren', name: 'Maren Oduya', substitute: 'Pavo Lind' },
        { login: 'admin', name: 'Odalys Brandt', substitute: null },
      ],
      rows: [
        ...SHEET.rows,
        item('FM-9', {
          ...{ isUndecided: false, state: 'released', steps: [] },
          issued: { wanted: 5, made: 3, leftOut: 0, problem: null },
        }),
      ],
    });
    expect(
      await screen.findByText(/Asked: Maren Oduya \(away; Pavo Lind stands in\), Odalys Brandt\./),
    ).toBeDefined();
    expect(screen.getByText('To be decided by 2026-11-25, which has passed.')).toBeDefined();
    expect(screen.getByText(/3 of 5 issued files\./)).toBeDefined();
    const items = screen.getByRole('grid', { name: 'Items of the check sheet' });
    expect(within(items).getByText('3 of 5 files')).toBeDefined();
  });

  it('is passed on to somebody who is chosen, with why', async () => {
    const shown = sheet();
    await shown.user.click(await screen.findByRole('button', { name: 'Pass on …' }));
    await shown.user.click(screen.getByRole('button', { name: 'Pass on' }));
    expect(await screen.findByText('Choose who is asked instead of you.')).toBeDefined();
    await shown.user.selectOptions(screen.getByLabelText('To'), 'Maren Oduya');
    await shown.user.type(screen.getByLabelText('Why (visible to everyone)'), 'Not my field');
    await shown.user.click(screen.getByRole('button', { name: 'Pass on' }));
    await vi.waitFor(() =>
      expect(shown.sentTo('/api/sheets/pass')[0]?.body).toEqual({
        ...{ sheet: '4', to: 'maren', reason: 'Not my field' },
      }),
    );
  });

  it('is nobody’s to pass on for whom it does not wait', async () => {
    sheet('/check/4', { ...SHEET, isMine: false });
    await screen.findByRole('grid', { name: 'Items of the check sheet' });
    expect(screen.queryByRole('button', { name: 'Pass on …' })).toBeNull();
  });

  it('has points answered and closed where they stand', async () => {
    const shown = sheet('/check/4?item=FM-1');
    const points = within(await screen.findByRole('region', { name: 'Points' }));
    expect(points.getByText(/Too thin/).textContent).toContain('about A/1');
    await shown.user.click(points.getByRole('button', { name: 'Answer …' }));
    await shown.user.type(screen.getByRole('textbox', { name: 'Answer' }), 'Thicker now');
    await shown.user.click(screen.getByRole('button', { name: 'Answer' }));
    await vi.waitFor(() =>
      expect(shown.sentTo('/api/sheets/points/answer')[0]?.body).toEqual({
        point: '7',
        words: 'Thicker now',
      }),
    );
    await shown.user.click(points.getByRole('button', { name: 'Close the point' }));
    expect(shown.sentTo('/api/sheets/points/close')[0]?.body).toEqual({ point: '7' });
    expect(shown.sentTo('/api/sheets/seen')).toEqual([]);
  });

  it('is one of those that wait', async () => {
    const { user, address } = sheet('/check');
    await user.dblClick(await screen.findByRole('row', { name: /FM-1 Rod and 2 more/ }));
    expect(address()).toBe('/check/4');
  });
});

it('for all means all that one has opened and that may go that way', () => {
  const rows = [
    item('A', { isSeen: true }),
    item('B', { isSeen: true, steps: [BACK] }),
    item('C'),
    item('D', { isSeen: true, steps: [] }),
  ];
  expect(stepsForAll(rows).map(({ step, items }) => [step.name, items])).toEqual([
    ['release', ['A']],
    ['send back', ['A', 'B']],
  ]);
});
