/** From when until when uses count: read, said, looked at, and what follows one another in one place. */
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { effectivity } from '../testing/builders.js';
import {
  checkEffectivity,
  effectivityFrom,
  isInEffect,
  parseSpans,
  saySpans,
  type EffectiveAt,
  type Effectivity,
} from './effectivity.js';

const day = (text: string): EffectiveAt => ({ kind: 'day', day: text });
const piece = (product: string, serial: number): EffectiveAt => ({ kind: 'serial', product, serial });

function of(planned: string, actual = ''): Effectivity | undefined {
  const read = effectivityFrom(planned, actual);
  if ('says' in read) throw new Error(read.says);
  return read.effectivity;
}

describe('limits as they are written', () => {
  it.each([
    ['', {}],
    [' ; ', {}],
    ['2026-03-01', { days: { from: '2026-03-01', to: '2026-03-01' } }],
    ['from 2026-03-01', { days: { from: '2026-03-01' } }],
    ['to 2026-05-31', { days: { to: '2026-05-31' } }],
    ['2026-03-01 to 2026-05-31', { days: { from: '2026-03-01', to: '2026-05-31' } }],
    ['from 2026-03-01  to 2026-05-31', { days: { from: '2026-03-01', to: '2026-05-31' } }],
    ['FM-1000 from 100', { serials: [{ product: 'FM-1000', from: 100 }] }],
    ['FM-1000 to 99', { serials: [{ product: 'FM-1000', to: 99 }] }],
    ['FM 10 00 1 to 99', { serials: [{ product: 'FM 10 00', from: 1, to: 99 }] }],
    ['to go 7', { serials: [{ product: 'to go', from: 7, to: 7 }] }],
    ['2026-03-31 from 5', { serials: [{ product: '2026-03-31', from: 5 }] }],
    [
      'FM-1 007; from 2026-03-01; FM-2 to 8',
      {
        days: { from: '2026-03-01' },
        serials: [
          { product: 'FM-1', from: 7, to: 7 },
          { product: 'FM-2', to: 8 },
        ],
      },
    ],
  ])('%j', (text, spans) => {
    expect(parseSpans(text)).toEqual({ kind: 'spans', spans });
  });

  it.each([
    ['soon', /“soon” is no range/],
    ['from 2026-02-30', /no day 2026-02-30/],
    ['FM-1 from 2026-03-01', /days belong to no product/],
    ['from 100', /which product's serial numbers/],
    ['FM-1 9 to 1', /ends before it begins/],
    ['2026-03-02 to 2026-03-01', /ends before it begins/],
    ['from 2026-03-01 to 99', /mixes a day with a serial number/],
    ['FM-1 from 1234567890', /too many digits/],
    ['FM-1 1 to 2; fm-1 from 9', /fm-1 is limited twice/],
    ['2026-03-02; from 2026-04-01', /Days are limited twice/],
    [Array.from({ length: 21 }, (_, at) => `P${at}x from 1`).join(';'), /at most 20 products/],
  ])('not %j', (text, says) => {
    const read = parseSpans(text);
    expect(read.kind === 'problem' ? read.says : 'read').toMatch(says);
  });

  it('are read again as they are said', () => {
    fc.assert(
      fc.property(effectivity, ({ planned = {} }) => {
        const said = saySpans(planned);
        const read = parseSpans(said);
        if (read.kind === 'spans') expect(saySpans(read.spans)).toBe(said);
        else expect(read.says).toMatch(/ends before it begins/);
      }),
    );
  });

  it('never fail, whatever is typed', () => {
    fc.assert(
      fc.property(
        fc.oneof(
          fc.string(),
          fc
            .array(fc.constantFrom('from', 'to', ';', ' ', '9', '2026-03-01', 'FM-1'), { maxLength: 9 })
            .map((each) => each.join(' ')),
        ),
        (text) => {
          const read = parseSpans(text);
          if (read.kind === 'spans') expect(parseSpans(saySpans(read.spans))).toEqual(read);
        },
      ),
    );
  });
});

describe('a use', () => {
  it('counts from its first to its last day, and always where nothing is said', () => {
    const spring = of('2026-03-01 to 2026-05-31');
    expect(
      ['2026-02-28', '2026-03-01', '2026-05-31', '2026-06-01'].map((each) => isInEffect(spring, day(each))),
    ).toEqual([false, true, true, false]);
    expect(isInEffect(undefined, day('2026-01-01'))).toBe(true);
    expect(isInEffect(spring, piece('FM-1', 5))).toBe(true);
  });

  it('counts in the pieces of a product, and says nothing of others', () => {
    const later = of('FM-1000 from 100');
    expect([99, 100, 1e6].map((serial) => isInEffect(later, piece('fm-1000', serial)))).toEqual([
      false,
      true,
      true,
    ]);
    expect(isInEffect(later, piece('FM-2000', 1))).toBe(true);
    expect(isInEffect(later, day('2026-01-01'))).toBe(true);
  });

  it('counts by what became of it, end by end, where that is known', () => {
    const late = of('2026-03-01 to 2026-05-31', 'from 2026-03-09');
    expect(
      ['2026-03-08', '2026-03-09', '2026-05-31', '2026-06-01'].map((each) => isInEffect(late, day(each))),
    ).toEqual([false, true, true, false]);
    const read = effectivityFrom('to 2026-05-31', 'from 2026-06-09');
    expect('says' in read ? read.says : '').toMatch(/ends \(2026-05-31\) before it begins \(2026-06-09\)/);
  });
});

describe('what shares a place', () => {
  const row = (
    named: string,
    planned: string,
    place = '10',
  ): Parameters<typeof checkEffectivity>[0][number] => {
    const effectivity = of(planned);
    return { named, place, ...(effectivity ? { effectivity } : {}) };
  };
  const faults = (...rows: ReturnType<typeof row>[]): string[] =>
    checkEffectivity(rows).map(({ says }) => says);

  it.each([
    [['to 2026-05-31', 'from 2026-06-01'], []],
    [['from 2026-06-01', 'to 2026-05-31'], []],
    [['to 2026-05-31', 'from 2026-06-03'], ['neither A nor B counts from 2026-06-01 to 2026-06-02']],
    [['to 2026-05-31', 'from 2026-06-02'], ['neither A nor B counts on 2026-06-01']],
    [['to 2026-06-01', 'from 2026-06-01'], ['A and B both count on 2026-06-01']],
    [['from 2026-06-01', ''], ['B and A both count from 2026-06-01']],
    [['', ''], []],
    [['P-1 1 to 9', 'P-1 from 10'], []],
    [['P-1 1 to 9', 'P-1 from 12'], ['neither A nor B counts for P-1 from 10 to 11']],
    [['P-1 1 to 9', 'P-2 from 4'], []],
    [['P-1 1 to 9', 'from 2026-06-01'], []],
    [
      ['2026-01-01 to 2026-12-31', '2026-02-01 to 2026-02-09', 'from 2027-01-01'],
      ['A and B both count from 2026-02-01 to 2026-02-09'],
    ],
  ])('%j', (planned, says) => {
    expect(faults(...planned.map((each, at) => row('ABC'[at] ?? '', each)))).toEqual(says);
  });

  it('is looked at place by place; what has no place shares none', () => {
    expect(faults(row('A', 'to 2026-05-31'), row('B', 'from 2026-07-01', '20'))).toEqual([]);
    expect(faults(row('A', 'to 2026-05-31', ''), row('B', 'from 2026-05-01', ''))).toEqual([]);
  });

  it('has no fault exactly where one counts on every day from the first to the last', () => {
    const days = Array.from({ length: 14 }, (_, at) => `2026-03-${String(at + 1).padStart(2, '0')}`);
    const span = fc
      .tuple(fc.nat(9), fc.nat(4))
      .map(([from, length]) => `${days[from]} to ${days[from + length]}`);
    fc.assert(
      fc.property(fc.array(span, { minLength: 2, maxLength: 4 }), (planned) => {
        const rows = planned.map((each, at) => row(String(at), each));
        const counts = days.map(
          (each) => rows.filter((one) => isInEffect(one.effectivity, day(each))).length,
        );
        const [first, last] = [
          counts.findIndex((count) => count > 0),
          counts.findLastIndex((count) => count > 0),
        ];
        const isWhole = counts.slice(first, last + 1).every((count) => count === 1);
        expect(checkEffectivity(rows).length === 0).toBe(isWhole);
      }),
    );
  });
});
