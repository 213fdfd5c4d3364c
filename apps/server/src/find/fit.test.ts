/** What fits best comes first, however its name is written; and the row says where the words stand. */
import type { FindAnswer } from '@stem-trace/contract';
import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { stepFile } from '../../../../packages/formats/src/testing/step-sets.js';
import { TestStore } from '../testing/test-store.js';
import { patternOf } from './fit.js';

/** As libraries are named: by people, tools and habits that never met. */
const LIBRARY: Readonly<Record<string, readonly (readonly [file: string, id: string, name: string])[]>> = {
  '/lib/USB_Connectors': [
    ['amph-a.stp', 'AMPH-2040', 'Receptacle type A'],
    ['amph-c.stp', 'AMPH-2050', 'Receptacle type C'],
  ],
  '/lib/Packages': [
    ['dip6.stp', 'DIP-6_W7.62mm', 'Dual in line 6, 16 V'],
    ['dip16.stp', 'DIP-16_W7.62mm', 'Dual in line 16'],
    ['dip160.stp', 'DIP-160', 'Dual in line 160'],
    ['qfn.stp', 'QFN_44_1EP', 'Quad flat'],
    ['heatSink-M3.stp', 'HS-7', 'Cooler'],
    ['sensor.stp', 'SN-1', 'USB connector tester'],
  ],
};

let store: TestStore;
beforeAll(async () => {
  store = await TestStore.open();
  for (const [place, files] of Object.entries(LIBRARY))
    await store.intake(new Map(files.map(([path, id, name]) => [path, stepFile({ id, name })])), { place });
  await store.intake(
    new Map([['note.txt', new TextEncoder().encode('use a usb hub beside the connector')]]),
    {
      place: '/notes',
    },
  );
});
afterAll(() => store.close());

async function find(words: string, more = ''): Promise<FindAnswer['rows']> {
  const answer = await store.json<FindAnswer>('GET', `/api/items?words=${encodeURIComponent(words)}${more}`);
  return answer.rows;
}
const numbers = async (words: string, more = ''): Promise<string[]> =>
  (await find(words, more)).map(({ number }) => number);

describe('words', () => {
  it.each(['QFN 44', 'qfn_44', 'QFN-44', 'qfn44', '44 qfn', 'QFN.44.1ep'])(
    '%s finds QFN_44_1EP',
    async (words) => {
      expect(await numbers(words)).toEqual(['QFN_44_1EP']);
    },
  );

  it('find by names of files and places', async () => {
    expect(await numbers('heatsink')).toEqual(['HS-7']);
    expect((await numbers('usb-connector')).sort()).toEqual(['AMPH-2040', 'AMPH-2050', 'SN-1']);
    expect((await find('heatsink m3'))[0]?.foundIn).toBe('file name');
  });

  it('put a whole word before one that is part of another', async () => {
    expect(await numbers('DIP 16')).toEqual(['DIP-16_W7.62mm', 'DIP-160', 'DIP-6_W7.62mm']);
    expect((await numbers('dip-160'))[0]).toBe('DIP-160');
  });

  it('put number before name, name before place, place and text last, and say which', async () => {
    const rows = await find('usb connector');
    expect(rows.map(({ number, foundIn }) => [number, foundIn])).toEqual([
      ['SN-1', 'name'],
      ['AMPH-2040', 'place'],
      ['AMPH-2050', 'place'],
      ['note', 'text'],
    ]);
    expect((await find('QFN'))[0]?.foundIn).toBe('number');
    expect((await find(''))[0]?.foundIn).toBeNull();
    expect((await find('kind = part'))[0]?.foundIn).toBeNull();
  });

  it('come page by page in one order, and by number where that is asked for', async () => {
    const all = await numbers('dip 16');
    const pages = await Promise.all(
      [0, 1, 2].map((offset) => numbers('dip 16', `&limit=1&offset=${offset}`)),
    );
    expect(pages.flat()).toEqual(all);
    expect(await numbers('dip 16', '&sort=number')).toEqual(['DIP-160', 'DIP-16_W7.62mm', 'DIP-6_W7.62mm']);
  });

  it('are never more than texts, whatever signs are in them', async () => {
    await fc.assert(
      fc.asyncProperty(fc.string({ maxLength: 12 }), async (typed) => {
        const word = typed.replace(/["()=<>≠≤≥\s]/g, '');
        const quoted = `"${typed.replaceAll('"', '""')}"`;
        for (const words of [word, quoted]) {
          const response = await store
            .call('GET', `/api/items?words=${encodeURIComponent(words)}`)
            .catch((error: { status?: number }) => error);
          expect([words, response.status]).toEqual([words, response.status === 400 ? 400 : 200]);
        }
      }),
      { numRuns: 60 },
    );
  });
});

it('a pattern means the same to the database as to this program', () => {
  fc.assert(
    fc.property(fc.string({ minLength: 1 }), (word) => {
      expect(() => new RegExp(patternOf(word), 'u')).not.toThrow();
      const joined = word.toLowerCase().replace(/[-_./]+/g, '');
      if (!/\s/.test(word) && joined !== '') expect(joined).toMatch(new RegExp(patternOf(word)));
    }),
  );
});
