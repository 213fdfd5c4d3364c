// @vitest-environment happy-dom
import type { ChangeRow, ChangeView, RedlineAnswer } from '@stem-trace/contract';
import { NO_CHANGE } from '@stem-trace/core';
import { cleanup, screen, waitFor, within } from '@testing-library/react';
import { afterEach, describe, expect, it, vi } from 'vitest';
import { itemView } from '../../testing/items.js';
import { show, type Answers, type Shown } from '../../testing/show.js';
import { TraceScreen } from '../trace/trace-screen.js';
import { filterOf, isShown } from './board/board-filter.js';
import { stripsOf } from './board/strips.js';
import { ChangeScreen } from './change-screen.js';
import { graphOf } from './one/change-map.js';

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const DAY = 86_400_000;
const daysAgo = (days: number): string => new Date(Date.now() - days * DAY).toISOString();

function row(number: string, more: Partial<ChangeRow> = {}): ChangeRow {
  const state = more.state ?? 'planned';
  return {
    ...{
      number,
      name: `Change ${number}`,
      kind: 'order',
      version: 'A/1',
      state,
      lane: 'open',
      urgency: 'soon',
    },
    ...{
      owner: '',
      until: '',
      dueAt: null,
      openedAt: daysAgo(9),
      openedBy: 'Ines Halvorsen',
      closedAt: null,
    },
    ...{
      stays: [{ state, from: daysAgo(9), to: null }],
      products: [],
      waitsFor: [],
      affects: 0,
      makes: 0,
      tasksOpen: 0,
    },
    ...more,
  };
}

const VIEW: ChangeView = {
  ...{ number: 'CO-7', name: 'Damp it', kind: 'order', version: 'A/2', state: 'under way', lane: 'open' },
  ...{
    place: '/Changes',
    isNewest: true,
    raisedBy: 'Ines Halvorsen',
    raisedAt: daysAgo(3),
    hidden: 1,
    makesHidden: 0,
  },
  contents: { ...NO_CHANGE, why: 'It rattles', costs: [], evidence: [] },
  lines: [
    {
      ...{
        relation: 'affects',
        number: 'FM-1',
        name: 'Rod',
        kind: 'part',
        version: 'B/1',
        state: 'draft',
        heldBy: null,
      },
      ...{ note: '', inStock: '', inWork: '' },
    },
  ],
  tasks: [{ key: 't', what: 'Order foam', who: 'ines', until: '', done: null, mayTick: true }],
  ...{ sums: { kinds: [], all: '0' }, heldFor: [], others: [], sheet: '9', locked: null },
  makes: [
    {
      ...{
        number: 'FM-1',
        name: 'Rod',
        kind: 'part',
        format: 'step',
        revision: 'B',
        from: 'A/3',
        to: 'B/1',
        state: 'draft',
        heldBy: null,
      },
      versions: [{ version: 'B/1', comment: 'Thicker', by: 'Ines Halvorsen', at: daysAgo(1) }],
    },
  ],
};

function one(view: ChangeView = VIEW, more: Answers = {}, address = `/change?change=${view.number}`): Shown {
  return show(<ChangeScreen />, {
    address,
    answers: {
      ...{ '/api/change': view, '/api/changes': [], '/api/items': { rows: [], total: 0 } },
      '/api/find/words': {
        properties: [],
        classes: [],
        states: [],
        places: [],
        me: 'ines',
        today: '2026-11-25',
        people: [{ login: 'ines', name: 'Ines Halvorsen' }],
      },
      '/api/item': itemView({ number: view.number, kind: view.kind }),
      '/api/change/tick': new Response(null, { status: 204 }),
      ...more,
    },
  });
}

describe('the board', () => {
  it('shows what is open, what is late in copper, and opens the list behind a figure', async () => {
    const { user, address } = show(<ChangeScreen />, {
      address: '/change',
      answers: {
        '/api/changes': [
          row('CO-1', { until: '2020-01-01', dueAt: '2020-01-02T00:00:00.000Z', waitsFor: ['Teodor Wick'] }),
          row('CO-2', { products: ['Tide station'] }),
          row('CR-3', { kind: 'request', state: 'raised' }),
          row('CO-4', { state: 'carried out', lane: 'locked', closedAt: daysAgo(1) }),
        ],
        '/api/saved': [],
      },
    });
    expect(await screen.findByRole('heading', { name: 'Changes: 3 open, 1 late' })).toBeDefined();
    const strips = screen.getByRole('region', { name: 'Where they stand' });
    expect(within(strips).getByRole('link', { name: 'CO-1' }).dataset['late']).toBe('true');
    expect(within(strips).getByRole('link', { name: 'CO-2' }).dataset['late']).toBeUndefined();
    expect(within(strips).queryByText('CO-4')).toBeNull();
    await user.click(screen.getByRole('button', { name: /Teodor Wick/ }));
    expect(address()).toContain('waits=Teodor');
  });

  it('filters by what stands in the address; what is done comes with a figure, or when asked for', () => {
    const now = Date.now();
    const shows = (search: string, of: ChangeRow): boolean =>
      isShown(of, filterOf(new URLSearchParams(search)), now);
    const open = row('CO-1', { products: ['Tide'], waitsFor: [] });
    const done = row('CO-4', { state: 'carried out', lane: 'locked', closedAt: daysAgo(1) });
    expect([shows('', open), shows('', done), shows('done=yes', done), shows('of=CO-4,CO-5', done)]).toEqual([
      true,
      false,
      true,
      true,
    ]);
    expect([shows('of=CO-4', open), shows('kind=request', open), shows('product=Tide', open)]).toEqual([
      false,
      false,
      true,
    ]);
    expect([shows('product=no+product', open), shows('waits=nobody', open), shows('late=yes', open)]).toEqual(
      [false, true, false],
    );
  });

  it('lays changes along a strip by age, the young ones first, over each other where they meet', () => {
    const now = Date.now();
    const aged = (number: string, days: number): ChangeRow =>
      row(number, {
        stays: [{ state: 'planned', from: new Date(now - days * DAY).toISOString(), to: null }],
      });
    const [strip] = stripsOf([aged('C', 90), aged('A', 0), aged('B', 0)], ['raised', 'planned'], now);
    expect(strip?.state).toBe('planned');
    expect(strip?.marks.map(({ row: { number }, at, level }) => [number, at, level])).toEqual([
      ['A', 0, 0],
      ['B', 0, 1],
      ['C', 1, 0],
    ]);
    // Of very many, what is late and what has been there longest is drawn; all are counted.
    const many = Array.from({ length: 300 }, (_, at) => aged(`N${at}`, at));
    const [crowded] = stripsOf(many, ['planned'], now);
    expect([crowded?.count, crowded?.marks.length]).toEqual([300, 40]);
    expect(crowded?.marks.at(0)?.days).toBe(260);
  });
});

describe('a change', () => {
  it('is opened where it can be read, also by who traces it', async () => {
    const { address } = show(<TraceScreen />, {
      address: '/trace?item=CO-7',
      answers: { '/api/item': itemView({ number: 'CO-7', kind: 'order' }) },
    });
    await waitFor(() => expect(address()).toBe('/change?change=CO-7'));
  });

  it('is saved as a whole with the version that was seen, and only when something was changed', async () => {
    const { user, sentTo } = one(VIEW, { '/api/change': VIEW });
    const why = await screen.findByLabelText('What is wrong or wanted');
    expect(screen.queryByRole('button', { name: 'Save' })).toBeNull();
    expect(screen.getByText('It names 1 more that you may not see.')).toBeDefined();
    await user.clear(why);
    await user.type(why, 'It hums');
    await user.selectOptions(screen.getByLabelText('In the hands of'), 'ines');
    await user.click(screen.getByRole('button', { name: 'Save' }));
    const [put] = sentTo('/api/change').filter(({ method }) => method === 'PUT');
    expect(put?.body).toMatchObject({
      ...{ change: 'CO-7', version: 'A/2', name: 'Damp it' },
      contents: { why: 'It hums', owner: 'ines', lines: [{ relation: 'affects', item: 'FM-1' }] },
    });
  });

  it('keeps what was typed where saving is refused, and says why', async () => {
    const problem = {
      status: 400,
      code: 'INPUT_INVALID',
      detail: 'CO-7 is at A/3 by now.',
      title: '',
      type: '',
    };
    const { user } = one(VIEW, {
      '/api/change': (sent: { method: string }) =>
        sent.method === 'GET'
          ? VIEW
          : new Response(JSON.stringify(problem), {
              status: 400,
              headers: { 'Content-Type': 'application/problem+json' },
            }),
    });
    const why = await screen.findByLabelText('What is wrong or wanted');
    await user.type(why, ' at night');
    await user.click(screen.getByRole('button', { name: 'Save' }));
    expect(await screen.findByText('CO-7 is at A/3 by now.')).toBeDefined();
    expect((why as HTMLTextAreaElement).value).toBe('It rattles at night');
  });

  it('ticks a task off at once, and shows what is made with its versions', async () => {
    const { user, sentTo } = one();
    await user.click(await screen.findByText('Thicker, Ines Halvorsen', { exact: false }));
    await user.click(screen.getByRole('checkbox', { name: 'Done: Order foam' }));
    expect(sentTo('/api/change/tick').map(({ body }) => body)).toEqual([
      { change: 'CO-7', task: 't', done: true },
    ]);
    expect(screen.getByRole('link', { name: 'A/3 → B/1' })).toBeDefined();
  });

  it('is only read where it is locked', async () => {
    one({ ...VIEW, lane: 'locked', state: 'carried out', locked: 'it is carried out; revise it first' });
    expect(
      await screen.findByText('It cannot be changed now: it is carried out; revise it first.'),
    ).toBeDefined();
    expect(screen.getByLabelText('What is wrong or wanted').getAttribute('readonly')).toBe('');
    expect(screen.queryByRole('button', { name: 'Add a task' })).toBeNull();
  });

  it('shows before and after as redline', async () => {
    const redline: RedlineAnswer = {
      ...{
        change: { number: 'CO-7', name: 'Damp it', version: 'A/2', state: 'under way' },
        hidden: 0,
        cost: null,
      },
      massKg: 0.25,
      rows: [
        {
          ...{
            number: 'FM-1',
            name: 'Rod',
            kind: 'part',
            format: 'step',
            from: 'A/3',
            to: 'B/1',
            says: 'FM-1 from A/3 to B/1: 1 changed.',
          },
          ...{ massKg: { before: 1, after: 1.25 }, cost: null },
          whole: [{ what: 'wall', before: '2 mm', after: '3 mm' }],
          rows: [{ sign: '+', number: 'FM-2', name: 'Foam', before: '', after: 'A/1 ×1', what: 'added' }],
        },
      ],
    };
    one(VIEW, { '/api/change/redline': redline }, '/change?change=CO-7&view=redline');
    const sheet = await screen.findByRole('region', { name: 'FM-1' });
    expect(within(sheet).getByText('2 mm').tagName).toBe('DEL');
    expect(within(sheet).getByText('3 mm').tagName).toBe('INS');
    expect(within(sheet).getByText('A/1 ×1').tagName).toBe('INS');
    expect(screen.getByText(/mass \+/)).toBeDefined();
  });
});

it('draws what a change touches with it in the middle, and what asked for it before it', () => {
  const node = (
    key: string,
    role: 'change' | 'request' | 'makes' | 'document',
    kind: 'order' | 'request' | 'part' | 'drawing',
  ) => ({
    ...{ key, number: `N${key}`, name: '', state: 'draft', role, kind },
  });
  const graph = graphOf({
    ...{ more: 0, hidden: 0 },
    nodes: [
      node('1', 'change', 'order'),
      node('2', 'request', 'request'),
      node('3', 'makes', 'part'),
      node('4', 'document', 'drawing'),
    ],
    edges: [
      { from: '1', to: '2', says: 'answers' },
      { from: '1', to: '3', says: 'affects' },
      { from: '1', to: '3', says: 'makes' },
      { from: '3', to: '4', says: 'shown on' },
    ],
  });
  expect(graph.nodes.map(({ role, opens }) => [role, opens])).toEqual([
    ['focus', '/change?change=N1'],
    ['paper', '/change?change=N2'],
    ['item', '/trace?item=N3'],
    ['paper', '/look?item=N4'],
  ]);
  expect(graph.edges.map(({ from, to, says, isPaper }) => [from, to, says, isPaper])).toEqual([
    ['2', '1', 'answers', false],
    ['1', '3', 'affects, makes', false],
    ['3', '4', 'shown on', true],
  ]);
});
