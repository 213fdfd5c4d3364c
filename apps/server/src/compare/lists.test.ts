/** Comparing with lists that somebody sent, three sides, and comparisons as files. */
import type { BillAnswer, CompareAnswer, ListView, ThreeAnswer } from '@stem-trace/contract';
import ExcelJS from 'exceljs';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { stepFile } from '../../../../packages/formats/src/testing/step-sets.js';
import { Refused, TestStore } from '../testing/test-store.js';

let store: TestStore;
beforeAll(async () => {
  store = await TestStore.open();
  const use = (id: string, count: number): { id: string; locator: string; count: number } => ({
    id,
    locator: `${id}.stp`,
    count,
  });
  await store.intake(
    new Map([
      ['BOLT.stp', stepFile({ id: 'BOLT', name: 'Hexagon bolt' })],
      ['NUT.stp', stepFile({ id: 'NUT' })],
      ['LID.stp', stepFile({ id: 'LID' })],
      ['BOX.stp', stepFile({ id: 'BOX', uses: [use('BOLT', 4), use('NUT', 4), use('LID', 1)] })],
    ]),
    { place: '/box' },
  );
});
afterAll(() => store.close());

const bring = async (name: string, content: string | Uint8Array): Promise<ListView> => {
  const bytes = typeof content === 'string' ? new TextEncoder().encode(content) : content;
  return (
    await store.call('POST', `/api/lists?name=${encodeURIComponent(name)}`, bytes)
  ).json() as Promise<ListView>;
};
const compare = (from: string, to: string, more = ''): Promise<CompareAnswer> =>
  store.json<CompareAnswer>('GET', `/api/compare?from=${from}&to=${to}${more}`);
const said = ({ rows }: CompareAnswer): string[] =>
  rows.map(({ sign, number }) => `${sign} ${number}`).sort();

describe('a list that somebody sent', () => {
  it('is compared with what the store has, whatever its headings are called', async () => {
    const list = await bring(
      'supplier.csv',
      'Pos.;Artikel-Nr.;Bezeichnung;Menge;Preis\n1;bolt;Schraube;4,0;0,12\n2;NUT;Mutter;3;0,05\n\n3;WASHER;Scheibe;8;0,01\n',
    );
    expect(list).toMatchObject({ rows: 3, problems: [], unknown: 1 });
    expect(list.mapping).toMatchObject({
      header: 0,
      decimal: ',',
      columns: { number: 1, quantity: 3, find: 0 },
    });
    const there = await compare('BOX', `list:${list.id}`);
    expect(said(there)).toEqual(['added WASHER', 'changed NUT', 'removed LID', 'same BOLT']);
    expect(there.sentence).toBe('From BOX A/1 to supplier.csv: 1 added, 1 removed, 1 changed.');
    // Nobody has given the store's rows find numbers yet, so that the list has some is no difference.
    const nut = there.rows.find(({ number }) => number === 'NUT');
    expect(nut).toMatchObject({ before: { amount: '4' }, after: { amount: '3', find: '2' }, by: 'item' });
    const back = await compare(`list:${list.id}`, 'BOX');
    expect(said(back)).toEqual(['added LID', 'changed NUT', 'removed WASHER', 'same BOLT']);
  });

  it('is mapped anew, and the meaning is kept under a name for the next one', async () => {
    const odd = await bring('odd.csv', 'a,b,c\nBOLT,x,4\nNUT,y,4\nLID,z,1\n');
    // Nothing says which row has the headings.
    expect(odd).toMatchObject({ rows: 4, mapping: { header: -1 } });
    const mapping = {
      ...odd.mapping,
      header: 0,
      columns: { number: 0, quantity: 2 },
      further: [{ at: 1, name: 'b' }],
    };
    const mapped = await store.json<ListView>('PUT', `/api/lists/${odd.id}`, {
      mapping,
      keepAs: 'odd supplier',
    });
    expect(mapped.kept).toEqual([{ name: 'odd supplier', mapping }]);
    expect((await compare('BOX', `list:${odd.id}`)).sentence).toBe('From BOX A/1 to odd.csv: no difference.');
  });

  it('in a spreadsheet is read with formulas, merged headings and blank lines', async () => {
    const book = new ExcelJS.Workbook();
    const sheet = book.addWorksheet('Offer');
    sheet.addRow(['Offer 12']);
    sheet.mergeCells('A1:D1');
    sheet.addRow([]);
    sheet.addRow(['Part number', 'Description', 'Qty', 'Unit']);
    sheet.addRow(['BOLT', 'bolt', { formula: '2*2', result: 4 }, 'pcs']);
    sheet.addRow([]);
    sheet.addRow(['NUT', 'nut', 4, '']);
    sheet.addRow(['LID', 'lid', 1, '']);
    const list = await bring('offer.xlsx', new Uint8Array(await book.xlsx.writeBuffer()));
    expect(list).toMatchObject({ sheets: ['Offer'], rows: 3, unknown: 0 });
    expect((await compare('BOX', `list:${list.id}`)).counts).toMatchObject({ same: 3, changed: 0 });
  });

  it('of one level is compared with the first level, which counts with all that is below it', async () => {
    await store.intake(
      new Map([
        ['CABINET.stp', stepFile({ id: 'CABINET', uses: [{ id: 'BOX', locator: 'BOX.stp', count: 2 }] })],
      ]),
      { place: '/box' },
    );
    const list = await bring('cabinet.csv', 'Part no,Qty\nBOX,2\n');
    const answer = await compare('CABINET', `list:${list.id}`);
    expect(answer.sentence).toBe(
      'From CABINET A/1 to cabinet.csv: no difference. The list has one level, so only first levels are compared.',
    );
    expect(answer.effect.from).toMatchObject({ lines: 1, pieces: 2 });
    // Totals go through all levels.
    const totals = await compare('CABINET', `list:${list.id}`, '&net=true');
    expect(said(totals)).toEqual(['removed BOLT', 'removed LID', 'removed NUT', 'same BOX']);
  });

  it('offers what is written like a number that the store does not know', async () => {
    const { alike } = await bring('typo.csv', 'Part no,Qty\nBOLTS,4\n');
    expect(alike).toEqual([{ number: 'BOLTS', like: 'BOLT', name: 'Hexagon bolt' }]);
  });

  it('that went out as XML or CycloneDX comes back without a difference', async () => {
    for (const [format, name] of [
      ['xml', 'box.xml'],
      ['cyclonedx', 'box.json'],
    ] as const) {
      const out = await store.call('GET', `/api/bill/file?item=BOX&format=${format}`);
      const list = await bring(name, new Uint8Array(await out.arrayBuffer()));
      expect((await compare('BOX', `list:${list.id}`)).sentence).toBe(
        `From BOX A/1 to ${name}: no difference.`,
      );
    }
  });

  it('that is broken is refused, with where and why, and nothing is kept', async () => {
    await expect(bring('broken.xlsx', 'PK broken')).rejects.toThrow(/broken\.xlsx: .*cannot be/);
    await expect(bring('broken.xml', '<bom>\n<item>\n</bom>')).rejects.toThrow(/broken\.xml \(line \d\)/);
    await expect(bring('virus.exe', 'MZ')).rejects.toThrow(/CSV, an XLSX/);
    await expect(compare('BOX', 'list:00000000-0000-4000-8000-000000000000')).rejects.toThrow(
      /not there any more/,
    );
  });

  it('is also a document of the store, of whichever version; nobody takes one that they may not fetch', async () => {
    await store.intake(new Map([['OFFER.csv', new TextEncoder().encode('Your ref.;Qty\nNUT;3,0\n')]]), {
      place: '/offers',
    });
    const list = await store.json<ListView>('POST', '/api/lists/of', { item: 'OFFER@A/1' });
    expect(list).toMatchObject({ name: 'OFFER.csv', rows: 1, unknown: 0, problems: [] });
    expect(list.mapping.columns).toEqual({ number: 0, quantity: 1 });
    const other = { Authorization: `Bearer ${await store.tokenFor('eve', 'engineer')}` };
    const root = { Authorization: `Bearer ${await store.tokenFor('root', 'administrator')}` };
    await store.call('PUT', '/api/places/access', { place: '/offers', inherits: false, grants: [] }, root);
    await expect(store.call('POST', '/api/lists/of', { item: 'OFFER' }, other)).rejects.toThrow(
      /no item OFFER/,
    );
    await expect(store.call('POST', '/api/lists/of', { item: 'BOX' })).rejects.toThrow(/BOX/);
  });

  it('of 20,000 rows is read in a process of its own and compared', async () => {
    const rows = Array.from({ length: 20_000 }, (_, at) => `P-${at},${1 + (at % 9)}`);
    const list = await bring('large.csv', ['Part no,Qty', ...rows].join('\n'));
    expect(list.rows).toBe(20_000);
    const { counts } = await compare(`list:${list.id}`, `list:${list.id}`, '&net=true');
    expect(counts).toMatchObject({ same: 20_000, added: 0, removed: 0 });
  });

  it('tells nobody what they may not see', async () => {
    await store.intake(new Map([['HUSH.stp', stepFile({ id: 'HUSH', name: 'Secret thing' })]]), {
      place: '/secret',
    });
    const root = { Authorization: `Bearer ${await store.tokenFor('root', 'administrator')}` };
    await store.call('PUT', '/api/places/access', { place: '/secret', inherits: false, grants: [] }, root);
    const list = await bring('probe.csv', 'Part no,Qty\nHUSH,1\nHUSHH,1\n');
    const viewer = { Authorization: `Bearer ${await store.tokenFor('vi', 'viewer')}` };
    const seen = await (await store.call('GET', `/api/lists/${list.id}`, undefined, viewer)).text();
    const compared = await (
      await store.call('GET', `/api/compare?from=BOX&to=list:${list.id}`, undefined, viewer)
    ).text();
    expect(seen + compared).not.toContain('Secret thing');
    expect((JSON.parse(seen) as ListView).unknown).toBe(2);
  });
});

describe('three sides', () => {
  it('say what a variant and its origin changed since, by way of where they come from', async () => {
    await store.derive({ item: 'BOX', copy: 'all', prefix: 'V-', place: '/box/variant' });
    const edit = async (item: string, number: string, amount: string): Promise<void> => {
      const {
        rows,
        item: { version },
      } = await store.json<BillAnswer>('GET', `/api/bill?item=${item}`);
      const position = rows.find((row) => row.number === number)?.position ?? -1;
      await store.json('POST', '/api/bill/rows', {
        item,
        version,
        rows: [{ position, amount }],
        comment: '',
        checkOut: true,
      });
    };
    await edit('BOX', 'BOLT', '6');
    await edit('BOX', 'NUT', '5');
    await edit('V-BOX', 'V-NUT', '7');
    const answer = await store.json<ThreeAnswer>('GET', '/api/compare/three?one=BOX&other=V-BOX');
    expect(answer.base).toMatchObject({ number: 'BOX', version: 'A/1' });
    expect(answer.rows.map(({ number, verdict }) => [number, verdict]).sort()).toEqual([
      ['BOLT', 'one'],
      ['LID', 'same'],
      ['NUT', 'contradict'],
    ]);
    expect(answer.sentence).toBe('Since BOX A/1: 1 changed only in BOX A/3, 1 in conflict.');
    expect(answer.rows.find(({ number }) => number === 'NUT')).toMatchObject({
      oneSays: 'quantity 4 → 5',
      otherSays: 'was NUT; quantity 4 → 7',
    });
  });

  it('without an origin that the store knows ask for one', async () => {
    await expect(store.json('GET', '/api/compare/three?one=BOLT&other=LID')).rejects.toThrow(
      /no common origin/,
    );
  });
});

it('a comparison goes out as a redline, with signs and both sides', async () => {
  const out = (format: string): Promise<Response> =>
    store.call('GET', `/api/compare/file?from=BOX@A/1&to=BOX&format=${format}`);
  const text = await (await out('csv')).text();
  expect(text).toContain('≠');
  expect(text).toContain('quantity 4 → 6');
  const book = new ExcelJS.Workbook();
  await book.xlsx.load(await (await out('xlsx')).arrayBuffer());
  const cells = book.worksheets[0]?.getColumn(1).values.map(String) ?? [];
  expect(cells).toContain('Differences from BOX A/1 to BOX A/3');
  expect(new TextDecoder().decode((await (await out('pdf')).arrayBuffer()).slice(0, 5))).toBe('%PDF-');
  await expect(store.call('GET', '/api/compare/file?from=BOX&to=NONE&format=pdf')).rejects.toBeInstanceOf(
    Refused,
  );
});
