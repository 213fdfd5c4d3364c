import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Occurrence } from '../model/link.js';
import {
  AmountSum,
  decimalOf,
  grossAmount,
  isAmount,
  parseAmount,
  pieces,
  plusAmount,
  sayAmount,
  timesAmount,
} from './amount.js';
import { ROLES } from '../model/amount.js';
import { treeOf } from '../build/make.js';
import { billRows, partRows } from './bill.js';
import { compareTotals } from './compare-totals.js';
import { effectOf } from './effect.js';
import type { BomLine } from './line.js';
import { checkDesignators, parseDesignators, sayDesignators } from './designators.js';
import { checkFinds, findsFromDrawing, proposeFinds } from './find-numbers.js';
import { matchUses } from './match-uses.js';
import { SHIPPED_STATES } from '../lifecycle/shipped.js';

describe('an amount', () => {
  it.each([
    ['4', { value: '4', unit: '', basis: 'each' }],
    ['0.4 m each', { value: '0.4', unit: 'm', basis: 'each' }],
    ['20 Stück', { value: '20', unit: '', basis: 'each' }],
    ['3 µl', { value: '3', unit: 'µl', basis: 'each' }],
    ['20.0 Stk', { value: '20', unit: '', basis: 'each' }],
    ['4 pcs', { value: '4', unit: '', basis: 'each' }],
    ['0.40 m', { value: '0.4', unit: 'm', basis: 'each' }],
    ['2 ml per batch', { value: '2', unit: 'ml', basis: 'batch' }],
    ['1 fixed', { value: '1', unit: '', basis: 'fixed' }],
    ['0.4 m + 5 %', { value: '0.4', unit: 'm', basis: 'each', scrap: '0.05' }],
    ['as required', { value: '', unit: '', basis: 'as required' }],
    ['0.10 kg by-product', { value: '0.1', unit: 'kg', basis: 'each', role: 'by-product' }],
    ['2 Reference', { value: '2', unit: '', basis: 'each', role: 'reference' }],
    ['as required reference', { value: '', unit: '', basis: 'as required', role: 'reference' }],
    ['7 m rounded up to 2', { value: '7', unit: 'm', basis: 'each', step: '2' }],
    [
      '5 ml per batch + 2.5 % rounded up to 0.5 by-product',
      { value: '5', unit: 'ml', basis: 'batch', scrap: '0.025', step: '0.5', role: 'by-product' },
    ],
    ['007', { value: '7', unit: '', basis: 'each' }],
  ])('%s is read, and said as it is read', (text, amount) => {
    expect(parseAmount(text)).toEqual(amount);
    expect(parseAmount(sayAmount(parseAmount(text) ?? pieces(0)))).toEqual(amount);
  });

  it.each([
    '',
    'four',
    '-1',
    '1e5',
    '1.2.3',
    '5 %',
    '1 per week',
    '7 m rounded up to 0',
    '1 reference by-product',
    'reference',
    `1${'0'.repeat(40)}`,
    '1,5 m',
  ])('“%s” is none', (text) => expect(parseAmount(text)).toBeUndefined());

  it('whatever it is, is said so that the same is read back', () => {
    const decimal = fc.tuple(fc.nat(10_000), fc.constantFrom('', '.5', '.25', '.001')).map(([whole, part]) => `${whole}${part}`); // prettier-ignore
    const amounts = fc.record(
      {
        value: decimal,
        unit: fc.constantFrom('', 'm', 'ml', 'kg'),
        basis: fc.constantFrom('each' as const, 'batch' as const, 'fixed' as const),
        scrap: fc.constantFrom('0.05', '0.125'),
        step: fc.constantFrom('0.5', '12'),
        role: fc.constantFrom(...ROLES),
      },
      { requiredKeys: ['value', 'unit', 'basis'] },
    );
    fc.assert(
      fc.property(amounts, (amount) => {
        expect(isAmount(amount)).toBe(true);
        expect(parseAmount(sayAmount(amount))).toEqual(amount);
      }),
    );
  });

  it('is exact, however it is multiplied and added', () => {
    const tenth = { value: '0.1', unit: 'l', basis: 'each' } as const;
    const three = plusAmount(plusAmount(tenth, tenth), tenth);
    expect(three.value).toBe('0.3');
    expect(timesAmount(tenth, '30000000').value).toBe('3000000');
    expect(plusAmount({ ...tenth, unit: 'm' }, { value: '25', unit: 'mm', basis: 'each' }).value).toBe(
      '0.125',
    );
    const whole = fc.bigInt({ min: 0n, max: 10n ** 14n });
    fc.assert(
      fc.property(whole, whole, fc.nat(9), (a, b, digits) => {
        const decimal = (value: bigint): string => {
          const text = String(value).padStart(digits + 1, '0');
          return decimalOf(digits === 0 ? text : `${text.slice(0, -digits)}.${text.slice(-digits)}`) ?? '';
        };
        const sum = plusAmount(
          { value: decimal(a), unit: '', basis: 'each' },
          { value: decimal(b), unit: '', basis: 'each' },
        );
        expect(sum.value).toBe(decimal(a + b));
        expect(timesAmount({ value: decimal(a), unit: '', basis: 'each' }, String(b)).value).toBe(
          decimal(a * b),
        );
      }),
    );
  });

  it('does not grow with its parent where it is fixed, per batch or as required', () => {
    for (const text of ['2 fixed', '2 ml per batch', 'as required']) {
      const amount = parseAmount(text) ?? pieces(0);
      expect(timesAmount(amount, '7')).toEqual(amount);
    }
  });

  it('is bought with what is lost, in the pieces that it comes in', () => {
    expect(grossAmount({ value: '3.1', unit: 'm', basis: 'each', scrap: '0.1', step: '0.5' })).toEqual({
      value: '3.5',
      unit: 'm',
      basis: 'each',
    });
  });

  it('that does not add up to another stays beside it', () => {
    const sum = new AmountSum();
    for (const text of ['2', '3 ml', '0.002 l', '1', '4 ml fixed']) sum.add(parseAmount(text) ?? pieces(0));
    expect(sum.amounts.map(sayAmount)).toEqual(['3', '5 ml', '4 ml fixed']);
  });
});

describe('what is not needed', () => {
  const line = (number: string, amount: string, children: readonly BomLine[] = [], massKg = 1): BomLine => ({
    ...treeOf([], { number, name: number, kind: 'part' }),
    ...{ amount: parseAmount(amount) ?? pieces(0), children, massKg },
  });
  const product = line('P', '1', [
    line('PLATE', '2'),
    line('SCRAP', '0.3 kg by-product', [line('INSIDE', '4')]),
    line('JIG', '1 reference', [line('PLATE', '50'), line('BOLT', '3')]),
    line('FRAME', '1', [line('PLATE', '1'), line('PLATE', '9 reference')]),
  ]);

  it('adds to no total, nor does what lies in it; a by-product stays beside', () => {
    const said = partRows(product).map(({ line: { number }, amounts }) => `${number} ${amounts.map(sayAmount).join(', ')}`); // prettier-ignore
    expect(said).toEqual(['PLATE 3', 'SCRAP 0.3 kg by-product']);
    const total = new Map(
      billRows(product).map(({ line: { number }, total: all }) => [number, sayAmount(all)]),
    );
    expect(total.get('BOLT')).toBe('0');
    expect(total.get('INSIDE')).toBe('0');
    expect(effectOf(product, product, SHIPPED_STATES).to).toMatchObject({
      massKg: 3,
      pieces: 3,
      parts: 1,
      massUnknown: 0,
    });
  });

  it('is a difference where it becomes needed', () => {
    const needed = { ...product, children: product.children.map((each) => ({ ...each, amount: pieces(1) })) };
    const rows = new Map(compareTotals(product, needed).map((row) => [row.after?.line.number, row]));
    expect(rows.get('JIG')?.sign).toBe('added');
    expect(rows.get('SCRAP')?.differs.quantity).toBe(true);
    expect(rows.get('PLATE')?.differs.quantity).toBe(true);
  });
});

describe('designators', () => {
  const read = (text: string): readonly string[] | string => {
    const parsed = parseDesignators(text);
    return parsed.kind === 'problem' ? parsed.says : parsed.designators;
  };

  it.each([
    ['R1–R4, R7', ['R1', 'R2', 'R3', 'R4', 'R7']],
    ['R1-4;C3 C2', ['C2', 'C3', 'R1', 'R2', 'R3', 'R4']],
    ['R1 - R3', ['R1', 'R2', 'R3']],
    ['R1...R3', ['R1', 'R2', 'R3']],
    ['R01–R03', ['R01', 'R02', 'R03']],
    ['X1A, X-1, K1-A2', ['K1-A2', 'X-1', 'X1A']],
    ['R10, R2, R2', ['R2', 'R10']],
    ['', []],
  ])('%s', (text, names) => {
    expect(read(text)).toEqual(names);
  });

  it.each(['R4–R1', 'R1–C4', 'R1–', 'R1–R99999999'])('%s is no range', (text) => {
    expect(read(text)).toMatch(/is no range of designators/);
  });

  it('are said so that they are read back', () => {
    const name = fc
      .tuple(fc.constantFrom('R', 'C', 'IC', 'X', 'TP', 'A1B'), fc.nat(30), fc.constantFrom('', 'A', 'B'))
      .map(([letters, number, more]) => `${letters}${number}${more}`);
    fc.assert(
      fc.property(fc.uniqueArray(name, { maxLength: 60 }), (names) => {
        const said = sayDesignators(names);
        expect(new Set(read(said))).toEqual(new Set(names));
        expect(sayDesignators(read(said) as string[])).toBe(said);
      }),
    );
    expect(sayDesignators(['R3', 'R1', 'R2', 'R7', 'R8'])).toBe('R1–R3, R7, R8');
  });

  it('whatever somebody writes, is read or refused', () => {
    fc.assert(fc.property(fc.string({ maxLength: 60 }), (text) => void parseDesignators(text)));
    fc.assert(
      fc.property(fc.array(fc.constantFrom('R', '1', '2', '–', '-', '..', ',', ' ', 'A')), (parts) => {
        void parseDesignators(parts.join(''));
      }),
    );
  });

  it('given twice, or not as many as there are pieces, are said', () => {
    const faults = checkDesignators([
      { designators: ['R1', 'R2'], pieces: 2 },
      { designators: ['R2', 'R3'], pieces: 3 },
      { designators: [], pieces: 4 },
    ]);
    expect(faults.map(({ says, rows }) => [says, rows])).toEqual([
      ['R2 is named 2 times', [0, 1]],
      ['2 designators for 3 pieces', [1]],
    ]);
  });
});

describe('find numbers', () => {
  it('are given to rows that have none, and to no other', () => {
    expect(proposeFinds(['', '', ''])).toEqual(['1', '2', '3']);
    expect(proposeFinds(['10', '', '30', 'A', ''])).toEqual(['10', '31', '30', 'A', '32']);
  });

  it('that are given twice, missing or left out are said', () => {
    expect(checkFinds(['', ''])).toEqual([]);
    expect(checkFinds(['1', '2', '2', '', '5']).map(({ says }) => says)).toEqual([
      'find number 2 is given 2 times',
      '1 row has no find number',
      'no row has find number 3, 4',
    ]);
    expect(checkFinds(['10', '20', '40']).map(({ says }) => says)).toEqual(['no row has find number 30']);
  });
});

describe('find numbers on a drawing', () => {
  const rows = [
    { number: 'P-1', find: '' },
    { number: 'P-2', find: '7' },
    { number: 'p 3', find: '' },
    { number: 'P-1', find: '' },
    { number: 'P-4', find: '' },
  ];

  it('go to the rows of their items, in order where there are several', () => {
    const parts = [
      { find: '10', number: 'P-1' },
      { find: '20', number: 'P-2' },
      { find: '30', number: 'P-1' },
      { find: '40', number: 'P 3' },
    ];
    expect(findsFromDrawing(rows, parts)).toEqual({ finds: ['10', '20', '40', '30', ''], otherwise: [1] });
  });

  it('go to none where nobody can tell which is meant', () => {
    expect(findsFromDrawing(rows, [{ find: '1', number: 'P-1' }]).finds).toEqual(['', '', '', '', '']);
  });
});

describe('uses of a new version', () => {
  const spot = (name: string, x: number, designator?: string): Occurrence => ({
    name,
    placement: [1, 0, 0, x, 0, 1, 0, 0, 0, 0, 1, 0],
    ...(designator === undefined ? {} : { designator }),
  });

  it('keep find numbers and designators, though the exporter numbers anew', () => {
    const { uses, left } = matchUses(
      [
        { target: 'NUT', find: '20', occurrences: [spot('1', 0), spot('2', 5)] },
        { target: 'R10K', find: '30', occurrences: [spot('3', 10, 'R1'), spot('4', 20, 'R2')] },
        { target: 'C1U', find: '40', occurrences: [spot('5', 30, 'C1')] },
      ],
      [
        { target: 'R10K', find: '', occurrences: [spot('a', 20), spot('b', 10)] },
        { target: 'NUT', find: '', occurrences: [spot('c', 0), spot('d', 5), spot('e', 9)] },
      ],
    );
    expect(uses.map(({ find }) => find)).toEqual(['30', '20']);
    expect(uses[0]?.occurrences.map(({ designator }) => designator)).toEqual(['R2', 'R1']);
    expect(left).toEqual([{ target: 'C1U', find: '40', designators: ['C1'] }]);
  });

  it('go to another part in the same place, and not to two', () => {
    const { uses } = matchUses(
      [{ target: 'R10K', find: '30', occurrences: [spot('1', 10, 'R1'), spot('2', 20, 'R2')] }],
      [
        { target: 'R12K', find: '', occurrences: [spot('1', 10)] },
        { target: 'R10K', find: '', occurrences: [spot('2', 20)] },
      ],
    );
    expect(uses.map(({ find, occurrences }) => [find, occurrences[0]?.designator])).toEqual([
      ['30', 'R1'],
      ['', 'R2'],
    ]);
  });

  it('that are the same in another order lose nothing', () => {
    const use = fc.record({
      target: fc.constantFrom('A', 'B', 'C'),
      xs: fc.uniqueArray(fc.nat(40), { minLength: 1, maxLength: 5 }),
    });
    fc.assert(
      fc.property(fc.uniqueArray(use, { selector: ({ target }) => target }), fc.nat(), (uses, salt) => {
        const before = uses.map(({ target, xs }, at) => ({
          target,
          find: String(at + 1),
          occurrences: xs.map((x) => spot(`${target}${x}`, x + at * 100, `${target}${x}`)),
        }));
        const after = [...before].reverse().map(({ target, occurrences }) => ({
          target,
          find: '',
          // Named anew, in another order.
          occurrences: occurrences
            .map(({ placement }, at) => spot(String((at + salt) % 7), placement[3] ?? 0))
            .reverse(),
        }));
        const { uses: matched, left } = matchUses(before, after);
        expect(left).toEqual([]);
        expect(matched.map(({ find }) => find)).toEqual([...before].reverse().map(({ find }) => find));
        const placed = (occurrences: readonly Occurrence[]): string[] =>
          occurrences.map(({ placement, designator }) => `${placement[3]} ${designator}`).sort();
        expect(matched.map(({ occurrences }) => placed(occurrences))).toEqual(
          [...before].reverse().map(({ occurrences }) => placed(occurrences)),
        );
      }),
    );
  });
});
