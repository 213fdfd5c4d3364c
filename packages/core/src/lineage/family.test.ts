import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { pieces } from '../bom/amount.js';
import type { BomLine } from '../bom/line.js';
import { treeOf } from '../build/make.js';
import { familyOf, sharesOf, type FamilyVerdict } from './family.js';

const line = (
  id: string,
  {
    stem = id,
    version = 'A/1',
    count = 1,
    from,
  }: { stem?: string; version?: string; count?: number; from?: string } = {},
  children: readonly BomLine[] = [],
): BomLine => ({
  ...treeOf([], {
    itemId: id,
    stem,
    number: id,
    name: `Name of ${id}`,
    version,
    versionId: `${id} ${version}`,
  }),
  ...{
    amount: pieces(count),
    children,
    massKg: 2,
    originVersions: from === undefined ? [] : [from],
    kind: 'part',
  },
});
const say = (rows: ReturnType<typeof familyOf>): string[] =>
  rows.map(
    ({ level, line: { number }, cells }) =>
      `${level} ${number}: ${cells.map(({ verdict }) => verdict).join(' ')}`,
  );

describe('a family', () => {
  const origin = line('O', {}, [
    line('ARM', {}, [line('TUBE'), line('BOLT', { count: 4 })]),
    line('BOX', {}, [line('LID')]),
  ]);

  it('says of every position what each variant has', () => {
    // A copy of the arm with a tube of its own; the lid is omitted; a sensor is added.
    const one = line('V', { stem: 'O' }, [
      line('V-ARM', { stem: 'ARM', from: 'ARM A/1' }, [
        line('V-TUBE', { stem: 'TUBE', version: 'A/2' }),
        line('BOLT', { count: 4 }),
      ]),
      line('BOX', {}, []),
      line('SENSOR'),
    ]);
    // Everything shared, but more bolts; the same sensor twice.
    const other = line('W', { stem: 'O' }, [
      line('ARM', {}, [line('TUBE'), line('BOLT', { count: 6 })]),
      line('BOX', {}, [line('LID')]),
      line('SENSOR'),
      line('SENSOR'),
    ]);
    const rows = familyOf(origin, [one, other]);
    expect(say(rows)).toEqual([
      '1 ARM: same same',
      '2 TUBE: own same',
      '2 BOLT: same same',
      '1 BOX: same same',
      '2 LID: omitted same',
      '1 SENSOR: added added',
      '1 SENSOR: absent added',
    ]);
    const bolt = rows.find(({ line: { number } }) => number === 'BOLT');
    expect(bolt?.cells.map(({ isOtherAmount }) => isOtherAmount)).toEqual([false, true]);
    expect(rows.map(({ kinds }) => kinds)).toEqual([1, 2, 1, 1, 1, 1, 1]);
    // Of tube, four bolts and lid, nothing is common: each variant has another of one, or none, or more.
    expect(sharesOf(rows)).toEqual({
      positions: { common: 0, all: 3 },
      massKg: { common: 0, all: 12 },
      cost: { common: 0, all: 0 },
    });
    expect(sharesOf(familyOf(origin, [origin])).massKg).toEqual({ common: 12, all: 12 });
  });

  it('tells nothing of what may not be seen, whatever has become of it', () => {
    const hidden = (version: string): BomLine => ({
      ...line('SECRET', { version, stem: 'SECRET' }),
      ...{ number: 'not visible to you', name: '', version: '', isHidden: true },
    });
    const told = (before: string, after: string): unknown =>
      familyOf(line('O', {}, [hidden(before), line('TUBE')]), [
        line('V', {}, [hidden(after), line('TUBE')]),
      ]).map(({ kinds, cells }) => [
        kinds,
        cells.map(({ verdict, isOtherAmount }) => [verdict, isOtherAmount]),
      ]);
    expect(told('A/1', 'A/1')).toEqual(told('A/1', 'B/7'));
    expect(told('A/1', 'B/7')).toEqual([
      [0, [['hidden', false]]],
      [1, [['same', false]]],
    ]);
  });

  it('of any variants that are made of it by known decisions says these decisions, and nothing else', () => {
    const verdicts: FamilyVerdict[] = ['same', 'own', 'omitted'];
    const shape = fc.array(fc.nat(3), { minLength: 1, maxLength: 6 });
    const decided = fc.array(fc.array(fc.constantFrom(...verdicts), { minLength: 30, maxLength: 30 }), {
      minLength: 1,
      maxLength: 4,
    });
    fc.assert(
      fc.property(shape, decided, fc.boolean(), (counts, decisions, isCopied) => {
        const numbers = counts.map((count, at) => [
          `A${at}`,
          ...Array.from({ length: count }, (_, of) => `P${at}-${of}`),
        ]);
        const build = (variant: number | undefined): BomLine => {
          let at = 0;
          const next = (): FamilyVerdict =>
            variant === undefined ? 'same' : (decisions[variant]?.[at++] ?? 'same');
          const made = (id: string, verdict: FamilyVerdict, children: readonly BomLine[] = []): BomLine[] => {
            if (verdict === 'omitted') return [];
            if (variant === undefined || (verdict === 'same' && !isCopied)) return [line(id, {}, children)];
            const copy = `V${variant}-${id}`;
            return verdict === 'same'
              ? [line(copy, { stem: id, from: `${id} A/1` }, children)]
              : [line(copy, { stem: id, version: 'B/7' }, children)];
          };
          return line(
            'TOP',
            {},
            numbers.flatMap(([assembly = '', ...parts]) => {
              const verdict = next();
              const inside = parts.flatMap((part) => made(part, next()));
              return made(assembly, verdict, inside);
            }),
          );
        };
        const rows = familyOf(
          build(undefined),
          decisions.map((_, at) => build(at)),
        );
        const expected = numbers.flatMap(([assembly = '', ...parts]) => [assembly, ...parts]);
        expect(rows.map(({ line: { number } }) => number)).toEqual(expected);
        for (const [variant, said] of decisions.entries()) {
          let at = 0;
          for (const [assembly = '', ...parts] of numbers) {
            const verdict = said[at++] ?? 'same';
            const cell = (number: string): FamilyVerdict | undefined =>
              rows.find(({ line: each }) => each.number === number)?.cells[variant]?.verdict;
            expect(cell(assembly)).toBe(verdict);
            // With an assembly goes all that lies in it.
            for (const part of parts) {
              const own = said[at++] ?? 'same';
              expect(cell(part)).toBe(verdict === 'omitted' ? 'omitted' : own);
            }
          }
        }
      }),
    );
  });
});
