/** Bills and structures for tests, made up at random. */
import fc from 'fast-check';
import { pieces } from '../bom/amount.js';
import { newBill } from '../build/make.js';
import type { BuildBill, BuildRow, EngineeringBase, EngineeringRow } from '../build/model.js';

export const BASE: EngineeringBase = {
  ...{ itemId: '1', number: 'P-1', versionId: '10', version: 'A/1', lens: 'newest' },
};

export interface Sketch {
  readonly key: string;
  readonly level: number;
  readonly count: number;
  readonly item?: string;
}

export function engineering(sketches: readonly Sketch[]): EngineeringRow[] {
  return sketches.map(({ key, level, count, item = key }) => ({
    ...{ key, level, number: item, name: `Name of ${item}`, version: 'A/1', itemId: item, stem: item },
    ...{ amount: pieces(count), find: '', designators: '' },
  }));
}

export function billOf(rows: readonly EngineeringRow[]): BuildBill {
  return newBill(BASE, rows);
}

export function added(id: string, name = id): BuildRow {
  return {
    ...{ id, level: 1, kind: 'text', number: '', name, version: '', amount: pieces(1), find: '' },
    ...{ designators: '', isPhantom: false, isWhole: false, values: {} },
  };
}

/** Structures of up to three levels, each row an item of its own. */
export const structures: fc.Arbitrary<EngineeringRow[]> = fc
  .array(fc.record({ dive: fc.integer({ min: -2, max: 1 }), count: fc.integer({ min: 1, max: 5 }) }), {
    minLength: 1,
    maxLength: 14,
  })
  .map((steps) => {
    let level = 1;
    return engineering(
      steps.map(({ dive, count }, at) => {
        level = at === 0 ? 1 : Math.min(3, Math.max(1, level + dive));
        return { key: `K${at}`, level, count };
      }),
    );
  });
