import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { PropertyValue } from '../model/reading.js';
import { handOnProperties, mergeProperties, type CarrySide, type Sides } from './merge.js';

type Table = Readonly<Record<string, string>>;

const NAMES = ['finish', 'mass', 'colour', 'volume'] as const;
const table = fc.dictionary(fc.constantFrom(...NAMES), fc.constantFrom('a', 'b', 'c'));
const values = (of: Table): PropertyValue[] =>
  Object.entries(of).map(([name, text]) => ({ name, kind: 'text', text }));
const tableOf = (properties: readonly PropertyValue[]): Table =>
  Object.fromEntries(properties.flatMap((each) => (each.kind === 'text' ? [[each.name, each.text]] : [])));

function merge(
  { base, origin, copy }: Sides<Table>,
  {
    decided = {},
    file = 'origin' as CarrySide,
  }: { decided?: Record<string, CarrySide>; file?: CarrySide } = {},
) {
  const { properties, ...rest } = mergeProperties(
    { base: values(base), origin: values(origin), copy: values(copy) },
    { decided: new Map(Object.entries(decided)), file, ofFile: new Set(['volume']) },
  );
  return { ...rest, said: tableOf(properties) };
}

describe('properties of an origin and its copy', () => {
  it('are those that either side changed, for any three', () => {
    fc.assert(
      fc.property(table, table, table, (base, origin, copy) => {
        const { said, contradictions } = merge({ base, origin, copy });
        for (const name of NAMES) {
          const [was, one, other] = [base[name], origin[name], copy[name]];
          const isTorn = contradictions.some(({ field }) => field === name);
          if (name === 'volume') expect([said[name], isTorn]).toEqual([one, false]);
          else if (was === one) expect([said[name], isTorn]).toEqual([other, false]);
          else if (was === other || one === other) expect([said[name], isTorn]).toEqual([one, false]);
          else expect(isTorn).toBe(true);
        }
      }),
    );
  });

  it('are the same seen from either side, and every decision is kept', () => {
    fc.assert(
      fc.property(table, table, table, fc.boolean(), (base, origin, copy, takesOrigin) => {
        const [side, otherSide]: CarrySide[] = takesOrigin ? ['origin', 'copy'] : ['copy', 'origin'];
        const all = (to: CarrySide): Record<string, CarrySide> =>
          Object.fromEntries(NAMES.map((name) => [name, to]));
        const there = merge({ base, origin, copy }, { decided: all(side ?? 'copy') });
        const back = merge(
          { base, origin: copy, copy: origin },
          { decided: all(otherSide ?? 'copy'), file: 'copy' },
        );
        expect(back.said).toEqual(there.said);
        for (const { field } of there.contradictions)
          expect(there.said[field]).toBe((takesOrigin ? origin : copy)[field]);
      }),
    );
  });

  it('change nothing where one side changed nothing', () => {
    fc.assert(
      fc.property(table, table, (base, changed) => {
        const { volume: _, ...own } = changed;
        expect(merge({ base, origin: base, copy: changed }, { file: 'copy' }).said).toEqual(changed);
        expect(merge({ base, origin: changed, copy: base }).said).toEqual(changed);
        expect(merge({ base, origin: changed, copy: base }, { file: 'copy' }).said).toMatchObject(own);
      }),
    );
  });

  it('know units, and what is said several times', () => {
    const mass = (value: number, unit: string): PropertyValue => ({
      name: 'mass',
      kind: 'number',
      value,
      unit,
    });
    const note = (text: string): PropertyValue => ({ name: 'note', kind: 'text', text });
    const { properties, contradictions, kept } = mergeProperties(
      {
        base: [mass(1, 'kg'), note('x'), note('y')],
        origin: [mass(2, 'kg'), note('x'), note('y')],
        copy: [mass(1000, 'g'), note('x'), note('z'), { name: 'site', kind: 'text', text: 'Weir' }],
      },
      { decided: new Map(), file: 'origin', ofFile: new Set() },
    );
    expect(properties).toEqual([
      mass(2, 'kg'),
      note('x'),
      note('z'),
      { name: 'site', kind: 'text', text: 'Weir' },
    ]);
    expect([contradictions, kept]).toEqual([[], ['note', 'site']]);
  });
});

describe('properties of a new file', () => {
  const handOn = (before: { properties: Table; stated?: Table }, file: Table): Table =>
    tableOf(
      handOnProperties(
        {
          properties: values(before.properties),
          ...(before.stated ? { stated: values(before.stated) } : {}),
        },
        values(file),
      ).properties,
    );

  it('are what the file says now, and what people said besides', () => {
    const before = {
      properties: { mass: '2', finish: 'zinc', site: 'Weir' },
      stated: { mass: '1', grade: '8.8' },
    };
    // The mass was corrected and the grade taken away by people; the file says neither anew.
    expect(handOn(before, { mass: '1', grade: '8.8' })).toEqual(before.properties);
    expect(handOn(before, { mass: '3', grade: '8.8', volume: '5' })).toEqual({
      ...{ mass: '3', finish: 'zinc', site: 'Weir', volume: '5' },
    });
    expect(handOn({ properties: { mass: '1', grade: '8.8' } }, { mass: '1' })).toEqual({ mass: '1' });
  });

  it('are never lost and never stale, for any file, edits and next file', () => {
    fc.assert(
      fc.property(table, table, table, (stated, given, file) => {
        const said = handOn({ properties: given, stated }, file);
        for (const name of NAMES) {
          const isNews = file[name] !== stated[name];
          expect(said[name]).toBe(isNews ? file[name] : given[name]);
        }
        // Once more with the same file changes nothing.
        const known = handOnProperties({ properties: values(given), stated: values(stated) }, values(file));
        expect(handOnProperties(known, values(file))).toEqual(known);
      }),
    );
  });
});
