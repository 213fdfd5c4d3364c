/** The BOM of an item over HTTP: what is said of its rows, how that is changed, and that it outlasts a new file. */
import type {
  BillAnswer,
  BillRow,
  BillRowEdit,
  ColumnSet,
  CompareAnswer,
  FindProposal,
  IntakeView,
  ListView,
} from '@stem-trace/contract';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { dxf } from '../../../../packages/formats/src/testing/dxf.js';
import { board } from '../testing/board.js';
import { Refused, TestStore, type Files } from '../testing/test-store.js';

let store: TestStore;
beforeAll(async () => {
  store = await TestStore.open();
});
afterAll(() => store.close());

const bill = (item: string, more = ''): Promise<BillAnswer> =>
  store.json<BillAnswer>('GET', `/api/bill?item=${item}${more}`);
const said = ({ rows }: BillAnswer): Record<string, [string, string, string]> =>
  Object.fromEntries(
    rows.map(({ number, find, amount, designators }) => [number, [find, amount.said, designators]]),
  );
const rowOf = ({ rows }: BillAnswer, number: string): BillRow => {
  const row = rows.find((each) => each.number === number);
  if (!row) throw new Error(`no row of ${number}`);
  return row;
};
const edit = async (item: string, rows: readonly BillRowEdit[]): Promise<unknown> => {
  const { version } = (await bill(item)).item;
  return store.json('POST', '/api/bill/rows', { item, version, rows, comment: '', checkOut: true });
};

const finds = (item: string): Promise<FindProposal> =>
  store.json<FindProposal>('GET', `/api/bill/finds?item=${item}`);

const FILE: Files = new Map([
  [
    'board.stp',
    board('BOARD', [
      { id: 'R10K', at: [['1', 0, 'R1'], ['2', 10, 'R2'], ['3', 20, 'R3']] }, // prettier-ignore
      { id: 'C1U', at: [['4', 30]] },
      { id: 'WIRE', at: [['5', 40]] },
    ]),
  ],
]);

it('has the designators that its file gives, and find numbers and amounts that are said of it', async () => {
  await store.intake(FILE, { place: '/boards' });
  expect(said(await bill('BOARD'))).toEqual({
    R10K: ['', '3', 'R1–R3'],
    C1U: ['', '1', ''],
    WIRE: ['', '1', ''],
  });
  const { rows: proposed, drawing } = await finds('BOARD');
  expect(drawing).toBeNull();
  expect(proposed.map(({ find }) => find)).toEqual(['1', '2', '3']);
  const before = await bill('BOARD');
  await edit('BOARD', [
    ...proposed,
    { position: rowOf(before, 'C1U').position ?? 0, find: '2', designators: 'C7' },
    { position: rowOf(before, 'WIRE').position ?? 0, find: '3', amount: '0.4 m + 5 %' },
  ].filter((row, at, rows) => rows.findLastIndex(({ position }) => position === row.position) === at)); // prettier-ignore
  const after = await bill('BOARD');
  expect(after.item.version).toBe('A/2');
  expect(said(after)).toEqual({
    R10K: ['1', '3', 'R1–R3'],
    C1U: ['2', '1', 'C7'],
    WIRE: ['3', '0.4 m + 5 %', ''],
  });
  expect(after.faults).toEqual([]);
  // The version before says what it said.
  expect(said(await bill('BOARD@A/1')).C1U).toEqual(['', '1', '']);
});

it('keeps them when the file comes back from an exporter that numbers anew; what went is said', async () => {
  const { id } = await store.json<IntakeView>('POST', '/api/intakes', { place: '/boards', prefix: '' });
  await store.call('POST', '/api/holds', { items: ['BOARD'], reason: '' });
  const again = board('BOARD', [
    { id: 'WIRE', at: [['a', 40]] },
    { id: 'R10K', at: [['b', 20], ['c', 0], ['d', 60]] }, // prettier-ignore
  ]);
  await store.call('PUT', `/api/intakes/${id}/files?path=board.stp`, again);
  const done = await store.carryOut(id, 'Exported again');
  expect(done.state).toBe('done');
  expect(done.result?.rowsLeft).toEqual([{ number: 'BOARD', says: 'C1U, find number 2, C7' }]);
  const now = await bill('BOARD');
  expect(said(now)).toEqual({ R10K: ['1', '3', 'R1–R3'], WIRE: ['3', '0.4 m + 5 %', ''] });
  expect(now.faults.map(({ says }) => says)).toEqual(['no row has find number 2']);
});

it('takes find numbers from the list on its drawing, counts on beside it, and says what is otherwise', async () => {
  const list = [
    ['Pos.', 'Item no.', 'Qty'],
    ['30', 'LID', '1'],
    ['10', 'SCREW', '2'],
    ['20', 'NONE', '1'],
  ];
  const fields = { DRAWING_NUMBER: 'D-CASE', TITLE: 'Case', PART_NUMBER: 'CASE' };
  const parts = ['LID', 'SCREW', 'SEAL'].map((id, at) => ({ id, at: [[id, at * 10]] as const }));
  await store.intake(
    new Map([
      ['case.stp', board('CASE', parts)],
      ['case.dxf', dxf({ fields, list })],
    ]),
    {
      place: '/cases',
    },
  );
  const proposed = await finds('CASE');
  expect(proposed).toMatchObject({ drawing: 'D-CASE', drawn: 2, otherwise: [] });
  expect(proposed.rows.map(({ find }) => find)).toEqual(['30', '10', '31']);
  const [lid] = proposed.rows;
  await edit('CASE', [{ position: lid?.position ?? 0, find: '5' }]);
  expect(await finds('CASE')).toMatchObject({ drawn: 1, otherwise: ['LID'] });
  // A drawing that cannot be read any more is kept, belongs where it did, and gives no numbers.
  await store.call('POST', '/api/holds', { items: ['D-CASE', 'CASE'], reason: '' });
  await store.call('POST', '/api/items/belong', { item: 'D-CASE', model: 'CASE' });
  const odd = new TextEncoder().encode('Binary DXF \r\n\u001a\u0000');
  await store.intake(new Map([['case.dxf', odd]]), { place: '/cases' });
  expect(await finds('CASE')).toMatchObject({ drawing: null, drawn: 0 });
  await store.call('POST', '/api/bring-back', { item: 'D-CASE@A/1' });
  await store.call('POST', '/api/holds/let-go', { items: ['D-CASE', 'CASE'] });
  expect(await finds('CASE')).toMatchObject({ drawing: 'D-CASE' });
  // Who may not fetch the drawing is told nothing that stands on it.
  const root = { Authorization: `Bearer ${await store.tokenFor('root', 'administrator')}` };
  await store.call('POST', '/api/items/move', { items: ['D-CASE'], place: '/sheets' }, root);
  await store.call('PUT', '/api/places/access', { place: '/sheets', inherits: false, grants: [] }, root);
  expect(await finds('CASE')).toMatchObject({ drawing: null, drawn: 0, otherwise: [] });
});

it('comes along with a variant', async () => {
  await store.derive({ item: 'BOARD', copy: 'all', prefix: 'V-', place: '/boards/variants' });
  expect(said(await bill('V-BOARD'))).toMatchObject({ 'V-WIRE': ['3', '0.4 m + 5 %', ''] });
  const { counts } = await store.json<CompareAnswer>('GET', '/api/compare?from=BOARD&to=V-BOARD');
  expect(counts).toMatchObject({ added: 0, removed: 0, changed: 0, replaced: 0, same: 2 });
});

it('refuses what a row cannot say, and says of which row; nothing is changed', async () => {
  const now = await bill('BOARD');
  const position = rowOf(now, 'R10K').position ?? 0;
  await expect(edit('BOARD', [{ position, designators: 'R1–R9' }])).rejects.toThrow(
    /^R10K: 9 designators for 3 places in the file/,
  );
  await expect(edit('BOARD', [{ position, amount: 'some' }])).rejects.toThrow(/“some” is no amount/);
  await expect(edit('BOARD', [{ position: 77, find: '1' }])).rejects.toThrow(/has no such row any more/);
  expect((await bill('BOARD')).item.version).toBe(now.item.version);
  // The position of a row means nothing in another version.
  await expect(
    store.call('POST', '/api/bill/rows', { item: 'BOARD', version: 'A/1', rows: [{ position, find: '9' }] }),
  ).rejects.toThrow(/BOARD is at A\/\d by now; you edited the rows of A\/1\. Nothing was changed\./);
  const teodor = { Authorization: `Bearer ${await store.tokenFor('teo', 'viewer')}` };
  await expect(
    store.call(
      'POST',
      '/api/bill/rows',
      { item: 'BOARD', version: now.item.version, rows: [{ position, find: '9' }] },
      teodor,
    ),
  ).rejects.toBeInstanceOf(Refused);
});

it('adds up parts over all levels, with where each comes from, and other amounts beside', async () => {
  await store.intake(
    new Map([
      ...FILE,
      ['box.stp', board('BOX', [{ id: 'BOARD', at: [['1', 0], ['2', 5]] }, { id: 'C1U', at: [['3', 9]] }])], // prettier-ignore
    ]),
    { place: '/box', prefix: 'X-' },
  );
  const flat = await bill('X-BOX', '&flat=true');
  expect(
    flat.rows.map(({ number, total, from }) => [number, total.map((amount) => amount.said), from]),
  ).toEqual([
    ['X-BOX.BOARD', ['2'], [{ number: 'X-BOX', said: '2' }]],
    ['X-BOX.C1U', ['1'], [{ number: 'X-BOX', said: '1' }]],
  ]);
});

it('names what may be used instead, anywhere or in one user, and never adds it up', async () => {
  const alternate = {
    item: 'R10K',
    other: 'C1U',
    onlyIn: '',
    rank: 1,
    note: 'same case',
    from: null,
    to: null,
  };
  await store.call('PUT', '/api/alternates', alternate);
  await store.call('PUT', '/api/alternates', { ...alternate, other: 'WIRE', onlyIn: 'V-BOARD', rank: 2 });
  const { alternates, total } = rowOf(await bill('BOARD'), 'R10K');
  expect(alternates).toMatchObject([{ number: 'C1U', onlyIn: null, note: 'same case', approvedBy: null }]);
  expect(total.map((amount) => amount.said)).toEqual(['3']);
  const checker = { Authorization: `Bearer ${await store.tokenFor('maren', 'checker')}` };
  await store.call('POST', '/api/alternates/approve', alternate, checker);
  expect(rowOf(await bill('BOARD'), 'R10K').alternates[0]?.approvedBy).toBe('maren');
  await store.call('POST', '/api/alternates/remove', alternate);
  expect(rowOf(await bill('BOARD'), 'R10K').alternates).toEqual([]);
  await expect(store.call('POST', '/api/alternates/remove', alternate)).rejects.toThrow(
    /Nobody says \(any more\) that C1U/,
  );
  const told = await store.database.query(
    `SELECT detail->>'says' AS says FROM event WHERE detail->>'says' LIKE '%C1U%R10K%' ORDER BY id`,
  );
  expect(told).toMatchObject([
    { says: expect.stringContaining('said that C1U may be used instead of R10K') as string },
    { says: 'maren approved C1U as an alternate of R10K' },
    { says: expect.stringContaining('took back C1U as an alternate of R10K') as string },
  ]);
  await expect(store.call('PUT', '/api/alternates', { ...alternate, other: 'R10K' })).rejects.toThrow(
    /no alternate of itself/,
  );
});

it('says in what two versions differ themselves, though no row does', async () => {
  await store.intake(new Map([['lone.stp', board('LONE', [])]]), { place: '/box' });
  const set = { items: ['LONE'], set: { finish: 'tinned' }, comment: '', checkOut: true };
  await store.json('POST', '/api/items/properties', set);
  const answer = await store.json<CompareAnswer>('GET', '/api/compare?from=LONE@A/1&to=LONE');
  expect(answer.whole).toEqual([{ what: 'finish', before: '', after: 'tinned' }]);
  expect(answer.sentence).toMatch(/no row differs, but the versions themselves do/);
});

it('is compared in the columns that are asked for, with pairs that somebody says', async () => {
  const compared = (more: string): Promise<CompareAnswer> =>
    store.json<CompareAnswer>('GET', `/api/compare?from=BOARD@A/2&to=BOARD${more}`);
  // What lives in the file has a new version with it.
  const plain = await compared('');
  expect(plain.rows.map(({ sign, number, by }) => [number, sign, by])).toEqual([
    ['C1U', 'removed', null],
    ['WIRE', 'changed', 'item'],
    ['R10K', 'changed', 'item'],
  ]);
  expect(plain.rows[1]?.differs).toMatchObject({ version: true, quantity: false, find: false });
  const hand = JSON.stringify([['C1U', 'WIRE']]);
  const byHand = await compared(`&hand=${encodeURIComponent(hand)}`);
  expect(byHand.rows.find(({ by }) => by === 'hand')).toMatchObject({
    sign: 'replaced',
    before: { number: 'C1U' },
    after: { number: 'WIRE' },
  });
  await expect(compared('&hand=nonsense')).rejects.toThrow(/must be a list of pairs of ways/);
  await expect(compared('&by=colour')).rejects.toThrow(/must be some of item, lineage/);
});

it('sets of columns are one’s own until they are shared', async () => {
  const put = await store.call('PUT', '/api/column-sets', {
    name: 'for purchasing',
    columns: ['find', 'total'],
  });
  expect(await put.json()).toEqual([
    { name: 'for purchasing', columns: ['find', 'total'], isShared: false, by: null },
  ]);
  const other = { Authorization: `Bearer ${await store.tokenFor('other', 'planner')}` };
  const seen = async (): Promise<ColumnSet[]> =>
    (await (await store.call('GET', '/api/column-sets', undefined, other)).json()) as ColumnSet[];
  expect(await seen()).toEqual([]);
  await store.call('PUT', '/api/column-sets', { name: 'for purchasing', columns: ['find'], isShared: true });
  expect(await seen()).toEqual([{ name: 'for purchasing', columns: ['find'], isShared: true, by: 'ada' }]);
});

it('goes out as a file of every format, with what it says', async () => {
  const out = async (format: string, more = ''): Promise<Response> =>
    store.call('GET', `/api/bill/file?item=BOARD&format=${format}${more}`);
  const csv = await out('csv');
  expect(csv.headers.get('content-disposition')).toBe("attachment; filename*=UTF-8''BOARD%20A-3.csv");
  expect((await csv.text()).split('\r\n').slice(0, 2)).toEqual([
    'Level,Find,Number,Name,Quantity,Unit,Counted,Total,Designators,Version',
    '1,3,WIRE,WIRE,0.4,m,each + 5 %,0.4,,A/3',
  ]);
  const xml = await (await out('xml')).text();
  expect(xml).toContain('<quantity unit="m" scrap="0.05">0.4</quantity>');
  expect(await (await store.call('GET', '/api/bill.xsd')).text()).toContain(
    'targetNamespace="urn:stem-trace:bom:1"',
  );
  const cyclonedx = (await (await out('cyclonedx')).json()) as { components: { name: string }[] };
  expect(cyclonedx.components.map(({ name }) => name)).toEqual(['WIRE', 'R10K']);
  expect(new TextDecoder().decode((await (await out('pdf')).arrayBuffer()).slice(0, 5))).toBe('%PDF-');
  expect((await (await out('xlsx', '&sheets=levels')).arrayBuffer()).byteLength).toBeGreaterThan(2000);
});

it('written as a table and brought back is the same, whatever its quantities say', async () => {
  const now = await bill('BOARD');
  const amounts = [
    '4 per batch',
    '0.4 m + 5 % rounded up to 2',
    'as required',
    '2 reference',
    '0.1 kg by-product',
  ];
  for (const amount of amounts) {
    await edit('BOARD', [{ position: rowOf(now, 'WIRE').position ?? 0, amount }]);
    expect(rowOf(await bill('BOARD'), 'WIRE').amount.said).toBe(amount);
    for (const format of ['csv', 'xlsx']) {
      const file = await store.call('GET', `/api/bill/file?item=BOARD&format=${format}`);
      const sent = new Uint8Array(await file.arrayBuffer());
      const list = (await (await store.call('POST', `/api/lists?name=b.${format}`, sent)).json()) as ListView;
      const { rows } = await store.json<CompareAnswer>('GET', `/api/compare?from=BOARD&to=list:${list.id}`);
      expect(rows.map(({ number, differs }) => [amount, number, differs.quantity])).toEqual(
        rows.map(({ number }) => [amount, number, false]),
      );
    }
  }
  await edit('BOARD', [
    { position: rowOf(now, 'WIRE').position ?? 0, amount: rowOf(now, 'WIRE').amount.said },
  ]);
});
