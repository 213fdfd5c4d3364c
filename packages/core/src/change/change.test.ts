/** What a change may say, what became different, figures of many, and which step goes along with one of an order. */
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Right } from '../access/rights.js';
import { attempt } from '../lifecycle/standing.js';
import { bookOf, LANES, type Diagram, type DiagramStep } from '../lifecycle/diagram.js';
import { checkDiagram } from '../lifecycle/diagram-check.js';
import { SHIPPED, SHIPPED_ORDERS, SHIPPED_REQUESTS, SHIPPED_STATES } from '../lifecycle/shipped.js';
import { ageDays, countWeeks, DAY_MS, lateDays, sharesBy, timePerState, type BoardChange } from './board.js';
import { isDay } from '../model/day.js';
import { COST_KINDS, NO_CHANGE, refuseContents, sumCosts, type ChangeContents } from './contents.js';
import { effectivityOf, sayChanges, sayTakesEffect } from './say-change.js';
import { stepsAlong } from './together.js';

const SAID: ChangeContents = { ...NO_CHANGE, why: 'It rattles' };
const line = (relation: ChangeContents['lines'][number]['relation'], itemId: string) => ({
  ...{ relation, itemId, note: '', inStock: '', inWork: '' },
});

describe('what a change says', () => {
  it.each<[string, Partial<ChangeContents>, string]>([
    ['nothing', { why: '  ' }, 'Say what is wrong'],
    ['an item twice', { lines: [line('affects', '1'), line('affects', '1')] }, 'stands twice'],
    ['a day that is none', { until: '2026-02-29' }, '“2026-02-29” is no day'],
    ['a task without words', { tasks: [{ key: 'a', what: ' ', who: '', until: '' }] }, 'what is to be done'],
    [
      'two tasks of one key',
      { tasks: ['x', 'y'].map((what) => ({ key: 'a', what, who: '', until: '' })) },
      'the same key',
    ],
    [
      'an amount in words',
      { costs: [{ kind: 'parts', what: '', amount: 'much' }], currency: 'EUR' },
      'is no amount',
    ],
    ['a cost without a currency', { costs: [{ kind: 'parts', what: '', amount: '1' }] }, 'currency'],
    ['another site', { evidence: [{ says: '', address: '//elsewhere/' }] }, 'no view of this'],
    ['a script', { evidence: [{ says: '', address: 'javascript:alert(1)' }] }, 'no view of this'],
    [
      'half a serial number',
      { takesEffect: { kind: 'from serial', product: 'P', serial: '' } },
      'which serial number',
    ],
    ['a day of effect that is none', { takesEffect: { kind: 'on', day: 'soon' } }, '“soon” is no day'],
  ])('is refused where it says %s', (_, wrong, says) => {
    expect(refuseContents('order', { ...SAID, ...wrong })).toContain(says);
  });

  it('is kept otherwise; an order joins nothing, a request answers nothing', () => {
    const whole: ChangeContents = {
      ...{ ...SAID, until: '2028-02-29', owner: 'eva', currency: 'EUR' },
      lines: [line('affects', '1'), line('shows in', '1'), line('answers', '2')],
      evidence: [{ says: 'Here', address: '/look?item=A%40B%2F1' }],
      costs: [{ kind: 'tools', what: 'Jig', amount: '-280.5' }],
      takesEffect: { kind: 'from serial', product: 'FM-1000', serial: '120' },
    };
    expect(refuseContents('order', whole)).toBeUndefined();
    expect(refuseContents('request', whole)).toContain('answers no other');
    expect(refuseContents('order', { ...SAID, lines: [line('joins', '2')] })).toContain('not joined');
  });

  it('knows a day from what only looks like one', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 4000 * 365 }), (day) => {
        const text = new Date(day * DAY_MS).toISOString().slice(0, 10);
        expect(isDay(text)).toBe(true);
      }),
    );
    for (const text of ['2026-13-01', '2026-1-01', '2026-00-10', '26-01-01', '2026-01-32', ''])
      expect(isDay(text)).toBe(false);
  });

  it('sums costs without a rounding error, by kind and in all', () => {
    const amount = fc
      .tuple(fc.boolean(), fc.integer({ min: 0, max: 1e9 }), fc.integer({ min: 0, max: 9999 }))
      .map(([isLess, whole, part]) => `${isLess ? '-' : ''}${whole}.${String(part).padStart(4, '0')}`);
    const cost = fc.record({ kind: fc.constantFrom(...COST_KINDS), what: fc.constant(''), amount });
    fc.assert(
      fc.property(fc.array(cost, { maxLength: 30 }), (costs) => {
        const { kinds, all } = sumCosts(costs);
        const exact = (text: string): bigint => {
          const [, sign = '', whole = '0', part = ''] = /^(-?)(\d+)(?:\.(\d+))?$/.exec(text) ?? [];
          return BigInt(`${sign}${whole}${part.padEnd(4, '0')}`);
        };
        const sum = (texts: readonly string[]): bigint =>
          texts.reduce((total, text) => total + exact(text), 0n);
        expect(exact(all)).toBe(sum(costs.map((each) => each.amount)));
        for (const { kind, amount: said } of kinds)
          expect(exact(said)).toBe(
            sum(costs.filter((each) => each.kind === kind).map((each) => each.amount)),
          );
      }),
    );
    const cents = ['0.10', '0.20', '5'].map((each) => ({ kind: 'parts' as const, what: '', amount: each }));
    expect(sumCosts(cents).all).toBe('5.30');
    expect(sumCosts([]).all).toBe('0');
  });

  it('says what became different, and nothing where nothing did', () => {
    const after: ChangeContents = {
      ...{ ...SAID, why: 'It rattles loudly', urgency: 'soon', owner: 'eva', until: '2026-12-01' },
      ...{ lines: [line('affects', '1'), line('affects', '2')], takesEffect: { kind: 'when used up' } },
      tasks: [{ key: 'a', what: 'Foam', who: '', until: '' }],
    };
    expect(sayChanges(SAID, after)).toEqual([
      ...['reworded', 'urgency whenever it fits → soon', 'in the hands of eva'],
      ...['to be done by no day → 2026-12-01', 'takes effect when released → when used up'],
      ...['2 items added', '1 task added'],
    ]);
    const noted = { ...after, lines: [line('affects', '1'), { ...line('affects', '2'), note: 'both' }] };
    expect(sayChanges(after, noted)).toEqual(['1 item changed']);
    expect(sayChanges(after, after)).toEqual([]);
    expect(sayTakesEffect({ kind: 'from serial', product: 'P', serial: '7' })).toBe('from serial 7 of P');
  });

  it('limits what is made by a day, or by a serial number that is one', () => {
    expect(effectivityOf({ kind: 'on', day: '2026-03-31' })).toEqual({
      planned: { days: { from: '2026-03-31' } },
    });
    const from = (serial: string): unknown => effectivityOf({ kind: 'from serial', product: ' P ', serial });
    expect(from(' 007')).toEqual({ planned: { serials: [{ product: 'P', from: 7 }] } });
    expect([from('A-7'), from('1e3'), from('-1'), from('9'.repeat(12))]).toEqual(Array(4).fill(undefined));
    expect(effectivityOf({ kind: 'when used up' })).toBeUndefined();
  });
});

const NOW = Date.parse('2026-11-25T12:00:00Z');
const board = (changes: Partial<BoardChange>): BoardChange => ({
  ...{ number: 'CO-1', lane: 'open', openedAt: NOW, closedAt: null, dueAt: null },
  ...{ stays: [], products: [], waitsFor: [] },
  ...changes,
});

describe('figures of changes', () => {
  it('count the days that something is late from the day after it was due', () => {
    expect(lateDays(board({ dueAt: NOW + 1 }), NOW)).toBe(0);
    expect(lateDays(board({ dueAt: NOW - 1 }), NOW)).toBe(1);
    expect(lateDays(board({ dueAt: NOW - 5 * DAY_MS, closedAt: NOW - 6 * DAY_MS }), NOW)).toBe(0);
    expect(lateDays(board({}), NOW)).toBe(0);
    expect(ageDays(NOW - 3 * DAY_MS + 1, NOW)).toBe(2);
  });

  it('count each change in the week that holds its day, weeks beginning on Mondays', () => {
    const time = fc.integer({ min: NOW - 400 * DAY_MS, max: NOW });
    const one = fc
      .record({ openedAt: time, closes: fc.boolean(), after: fc.integer({ min: 0, max: 60 * DAY_MS }) })
      .map(({ openedAt, closes, after }) =>
        board({ openedAt, closedAt: closes ? Math.min(NOW, openedAt + after) : null }),
      );
    fc.assert(
      fc.property(fc.array(one, { maxLength: 40 }), fc.integer({ min: 1, max: 30 }), (changes, weeks) => {
        const counted = countWeeks(changes, NOW, weeks);
        expect(counted).toHaveLength(weeks);
        for (const [at, { week, opened, closed }] of counted.entries()) {
          const start = Date.parse(`${week}T00:00:00Z`);
          expect(new Date(start).getUTCDay()).toBe(1);
          if (at > 0) expect(start - Date.parse(`${counted[at - 1]?.week}T00:00:00Z`)).toBe(7 * DAY_MS);
          const within = (when: number | null): boolean =>
            when !== null && when >= start && when < start + 7 * DAY_MS;
          expect(opened).toHaveLength(changes.filter(({ openedAt }) => within(openedAt)).length);
          expect(closed).toHaveLength(changes.filter(({ closedAt }) => within(closedAt)).length);
        }
      }),
    );
  });

  it('say how long half of the stays in a state are, those that have not ended until now', () => {
    const stay = (state: string, days: number, isOpen = false) => ({
      ...{ state, from: NOW - days * DAY_MS, to: isOpen ? null : NOW },
    });
    const changes = [
      board({ number: 'A', stays: [stay('planned', 2), stay('under way', 10, true)] }),
      board({ number: 'B', stays: [stay('planned', 4)] }),
      board({ number: 'C', stays: [stay('planned', 9)] }),
    ];
    expect(timePerState(changes, NOW)).toEqual([
      { state: 'planned', medianDays: 4, longestDays: 9, changes: ['A', 'B', 'C'] },
      { state: 'under way', medianDays: 10, longestDays: 10, changes: ['A'] },
    ]);
  });

  it('share changes out by what each may have several of, once each, with those that have none', () => {
    const changes = [
      board({ number: 'A', products: ['River', 'River', 'Tide'] }),
      board({ number: 'B', products: ['River'] }),
      board({ number: 'C' }),
    ];
    expect(sharesBy(changes, ({ products }) => products, 'no product')).toEqual([
      { name: 'River', changes: ['A', 'B'] },
      { name: 'Tide', changes: ['A'] },
      { name: 'no product', changes: ['C'] },
    ]);
  });
});

describe('the lifecycles of changes that ship', () => {
  it('hold together, and share what a name means with the others', () => {
    const people = (['engineer', 'checker', 'planner', 'administrator'] as const).flatMap((role) => [
      { id: `${role} 1`, role },
      { id: `${role} 2`, role },
    ]);
    for (const diagram of [SHIPPED_REQUESTS, SHIPPED_ORDERS])
      expect(checkDiagram(diagram, { people, book: SHIPPED_STATES })).toEqual([]);
  });

  it('move what an order makes along: to the check, back, and out of it as released', () => {
    const along = (name: string, from: string, to: string, state: string) =>
      stepsAlong({ step: name, from, to }, { diagram: SHIPPED, state }, SHIPPED_STATES);
    const names = (steps: readonly DiagramStep[] | 'stays') =>
      steps === 'stays' ? steps : steps.map(({ name }) => name);
    expect(names(along('begin', 'planned', 'under way', 'draft'))).toBe('stays');
    expect(names(along('ask for check', 'under way', 'in check', 'draft'))).toEqual(['ask for check']);
    expect(names(along('send back', 'in check', 'under way', 'in check'))).toEqual([
      'send back',
      'take back',
    ]);
    expect(names(along('carry out', 'in check', 'carried out', 'in check'))).toEqual(['release']);
    expect(names(along('carry out', 'in check', 'carried out', 'draft'))).toEqual([]);
    expect(names(along('abandon', 'under way', 'abandoned', 'draft'))).toBe('stays');
    expect(names(along('ask for check', 'under way', 'in check', 'in check'))).toBe('stays');
  });
});

describe('a step that goes along', () => {
  it('leads, in any diagram, from where something stands to what is locked as for the order, and passes no signature by', () => {
    const names = fc.uniqueArray(fc.stringMatching(/^[a-f]{1,3}$/), { minLength: 2, maxLength: 7 });
    const diagram = names.chain((all) =>
      fc
        .record({
          lanes: fc.array(fc.constantFrom(...LANES), { minLength: all.length, maxLength: all.length }),
          steps: fc.array(
            fc.tuple(fc.constantFrom(...all), fc.constantFrom(...all), fc.integer({ min: 0, max: 3 })),
            { maxLength: 12 },
          ),
        })
        .map(({ lanes, steps }): Diagram => ({
          ...{ name: 'random', first: all[0] ?? '' },
          states: all.map((name, at) => ({
            ...{ name, lane: lanes[at] ?? 'open', isReleased: lanes[at] === 'locked', glyph: 'diamond' },
          })),
          steps: steps.map(([from, to, count], at) => ({
            ...{
              name: `step ${at}`,
              done: 'did …',
              from: [from],
              to,
              notByAuthors: false,
              asksReason: false,
            },
            ...{ isOverUnreleased: false, then: [], who: [{ kind: 'role', role: 'checker' }] as const },
            ...(count > 0
              ? { signatures: { count, of: [{ kind: 'role', role: 'checker' }] as const, isInOrder: false } }
              : {}),
          })),
        })),
    );
    fc.assert(
      fc.property(diagram, diagram, fc.nat(), fc.nat(), (order, own, a, b) => {
        const book = bookOf([
          ...order.states.map((each) => ({ ...each, name: `O ${each.name}` })),
          ...own.states,
        ]);
        const leads = order.steps[a % Math.max(1, order.steps.length)];
        const state = own.states[b % own.states.length]?.name ?? '';
        if (!leads) return;
        const of = { step: leads.name, from: `O ${leads.from[0]}`, to: `O ${leads.to}` };
        const steps = stepsAlong(of, { diagram: own, state }, book);
        if (steps === 'stays') return;
        for (const step of steps) {
          expect(step.from).toContain(state);
          expect(book.get(step.to)?.lane).toBe(book.get(of.to)?.lane);
          const by = { id: 'one', role: 'checker', rights: new Set<Right>(['release', 'change']) } as const;
          const one = attempt(
            own,
            { state, signatures: [] },
            { step: step.name, by, reason: 'r' },
            { authors: new Set() },
          );
          expect(one.kind).toBe((step.signatures?.count ?? 0) > 1 ? 'signed' : 'taken');
        }
      }),
    );
  });

  it('is refused to what an order makes, if it is not the order that takes it', () => {
    const by = { id: 'eva', role: 'engineer', rights: new Set<Right>(['change']) } as const;
    const subject = { authors: new Set<string>(), movedBy: 'CO-0001' };
    expect(
      attempt(
        SHIPPED,
        { state: 'draft', signatures: [] },
        { step: 'ask for check', by, reason: '' },
        subject,
      ),
    ).toEqual({
      kind: 'refused',
      why: 'CO-0001 makes it, and moves all that it makes together; ask for check that instead',
    });
  });
});
