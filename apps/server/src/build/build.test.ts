/** Bills over HTTP: taken from engineering, edited, carried over, checked, released, and sent to planning. */
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import type {
  BillAnswer,
  BillRelease,
  BillSummary,
  BuildAnswer,
  CarryAnswer,
  CompareAnswer,
  IntakeView,
  ReadinessAnswer,
  SaveBillRequest,
  UsedBesidesAnswer,
  VersionMade,
} from '@stem-trace/contract';
import ExcelJS from 'exceljs';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { ServerSettings } from '../server-settings.js';
import { board } from '../testing/board.js';
import { Refused, TestStore } from '../testing/test-store.js';

/** Planning as it may be: away at first, and it takes under each key what comes first. */
class Planning {
  readonly taken = new Map<string, string>();
  tries = 0;
  private away = 2;
  private readonly server: Server = createServer((request, response) => {
    let text = '';
    request.setEncoding('utf8');
    request.on('data', (part: string) => (text += part));
    request.on('end', () => {
      this.tries++;
      if (this.away-- > 0) response.writeHead(503).end('closed for maintenance');
      else {
        const key = String(request.headers['idempotency-key']);
        if (!this.taken.has(key)) this.taken.set(key, text);
        response.writeHead(201).end();
      }
    });
  });

  async open(): Promise<string> {
    await new Promise<void>((done) => this.server.listen(0, '127.0.0.1', done));
    return `http://127.0.0.1:${(this.server.address() as AddressInfo).port}`;
  }

  close(): void {
    this.server.close();
  }
}

const planning = new Planning();
let store: TestStore;
beforeAll(async () => {
  const planningAddress = await planning.open();
  store = await TestStore.open(undefined, {
    settings: new ServerSettings({ planningAddress }),
    worksInBackground: true,
  });
  await store.intake(new Map([['board.stp', FIRST]]), { place: '/boards' });
});
afterAll(async () => {
  await store.close();
  planning.close();
});

const FIRST = board('BOARD', [
  { id: 'R10K', at: [['1', 0, 'R1'], ['2', 10, 'R2'], ['3', 20, 'R3']] }, // prettier-ignore
  { id: 'C1U', at: [['4', 30]] },
  { id: 'WIRE', at: [['5', 40]] },
]);
/** Engineering moves on: one resistor more, the wire gone, a socket come. */
const SECOND = board('BOARD', [
  { id: 'R10K', at: [['1', 0, 'R1'], ['2', 10, 'R2'], ['3', 20, 'R3'], ['6', 50, 'R4']] }, // prettier-ignore
  { id: 'C1U', at: [['4', 30]] },
  { id: 'SOCKET', at: [['7', 60]] },
]);

const open = (bill = 'BILL'): Promise<BuildAnswer> => store.json('GET', `/api/build?bill=${bill}`);
const say = ({ bill }: BuildAnswer): string[] =>
  bill.rows.map(({ number, name, amount }) => `${number || name} ${amount.value}${amount.unit}`);
/** A bill as it would be saved unchanged. */
const saved = ({ item, bill }: BuildAnswer): SaveBillRequest => ({
  ...{
    bill: item.number,
    version: item.version,
    columns: bill.columns,
    reasons: bill.reasons,
    outputs: bill.outputs,
  },
  rows: bill.rows.map(({ itemId: _, ...row }) => row),
  comment: '',
});
const text = (name: string): SaveBillRequest['rows'][number] => ({
  ...{ id: name, level: 1, kind: 'text', number: '', name, version: '', find: '', designators: '' },
  ...{ amount: { value: '2', unit: 'ml', basis: 'each' }, isPhantom: false, isWhole: false, values: {} },
});
const save = (request: SaveBillRequest): Promise<VersionMade> => store.json('PUT', '/api/build', request);
const refusal = async (work: Promise<unknown>): Promise<string> =>
  work.then(
    () => 'done',
    (error: unknown) => (error as Refused).problem.detail,
  );

it('is taken from engineering, with its rows, and held by whoever made it', async () => {
  const made = await store.json<VersionMade>('POST', '/api/bills', {
    ...{ item: 'BOARD', lens: 'newest', number: 'BILL', name: 'Board for the line' },
  });
  expect(made).toEqual({ number: 'BILL', version: 'A/1' });
  const answer = await open();
  expect(say(answer)).toEqual(['R10K 3', 'C1U 1', 'WIRE 1']);
  expect(answer.item.heldBy?.login).toBe('ada');
  expect(answer.behind).toBe(0);
  const [summary] = await store.json<BillSummary[]>('GET', '/api/bills?item=BOARD');
  expect(summary).toMatchObject({ number: 'BILL', forNumber: 'BOARD', releases: 0 });
  for (const [request, why] of [
    [{ item: 'BOARD', number: 'BILL', name: 'x' }, /is taken/],
    [{ item: 'C1U', number: 'B2', name: 'x' }, /made of nothing/],
    [{ item: 'NONE', number: 'B2', name: 'x' }, /no item NONE/],
  ] as const)
    expect(await refusal(store.call('POST', '/api/bills', request))).toMatch(why);
});

it('gets rows and columns of its own, version by version, and refuses what it cannot say', async () => {
  const before = saved(await open());
  const column = {
    id: 'torque',
    name: 'Torque',
    type: 'number',
    unit: 'N*m',
    choices: [],
    isRequired: false,
  } as const;
  const label = { ...text('x'), id: 'label', kind: 'item', number: 'C1U', name: 'whatever' } as const;
  await save({
    ...before,
    columns: [...before.columns, column],
    rows: [...before.rows, text('Adhesive'), label],
  });
  const after = await open();
  expect(say(after)).toEqual(['R10K 3', 'C1U 1', 'WIRE 1', 'Adhesive 2ml', 'C1U 2ml']);
  // The store says what an item is called.
  expect(after.bill.rows.at(-1)?.name).toBe('C1U');
  expect(after.item.before).toBe('A/1');
  // Nobody overwrites what somebody else saved meanwhile.
  expect(await refusal(save(before))).toMatch(/is at A\/2 by now; you edited A\/1/);
  const now = saved(after);
  for (const [rows, why] of [
    [[...now.rows, { ...text('x'), level: 3 }], /lies in no row/],
    [[...now.rows, now.rows[0]], /same id/],
    [[...now.rows, { ...label, id: 'y', number: 'NONE' }], /no item NONE/],
    [[...now.rows, { ...now.rows[0], id: 'z', from: 'nowhere' }], /engineering does not have/],
    [[{ ...now.rows[0], values: { torque: 'much' } }], /takes a number/],
  ] as const)
    expect(await refusal(save({ ...now, rows: rows as SaveBillRequest['rows'] }))).toMatch(why);
  expect((await open()).item.version).toBe('A/2');
});

it('reads as a BOM: compared with its version before, and as a file', async () => {
  const bom = await store.json<BillAnswer>('GET', '/api/bill?item=BILL');
  expect(bom.rows.map(({ number }) => number)).toContain('Adhesive');
  const { rows } = await store.json<CompareAnswer>('GET', '/api/compare?from=BILL@A/1&to=BILL@A/2');
  expect(rows.filter(({ sign }) => sign === 'added').map(({ number }) => number)).toEqual([
    'Adhesive',
    'C1U',
  ]);
  expect(await (await store.call('GET', '/api/bill/file?item=BILL&format=csv')).text()).toContain(
    'Adhesive,2,ml',
  );
});

it('is carried over when engineering moves on: all of it, and every row of its own stays', async () => {
  const { id } = await store.json<IntakeView>('POST', '/api/intakes', { place: '/boards', prefix: '' });
  await store.call('POST', '/api/holds', { items: ['BOARD'], reason: '' });
  await store.call('PUT', `/api/intakes/${id}/files?path=board.stp`, SECOND);
  await store.carryOut(id);
  const before = await open();
  expect(before.behind).toBeGreaterThan(0);
  const changed = saved(before);
  await save({
    ...changed,
    rows: changed.rows.map((row) =>
      row.number === 'R10K' ? { ...row, amount: { ...row.amount, value: '5' } } : row,
    ),
  });
  const preview = await store.json<CarryAnswer>('GET', '/api/build/carry?bill=BILL');
  expect(preview.brought.map(({ kind, number }) => `${kind} ${number}`)).toEqual(
    expect.arrayContaining(['added SOCKET', 'removed WIRE']),
  );
  expect(preview.contradictions).toMatchObject([
    { number: 'R10K', what: 'quantity', base: '3', mine: '5', theirs: '4' },
  ]);
  const { version } = (await open()).item;
  const carry = { bill: 'BILL', version, to: preview.to, decisions: {}, comment: '' };
  expect(await refusal(store.call('POST', '/api/build/carry', carry))).toMatch(
    /1 contradiction is not decided/,
  );
  expect((await open()).item.version).toBe(version);
  const [{ key } = { key: '' }] = preview.contradictions;
  await store.call('POST', '/api/build/carry', { ...carry, decisions: { [key]: 'theirs' } });
  const after = await open();
  expect(after.behind).toBe(0);
  expect(say(after).sort()).toEqual(['Adhesive 2ml', 'C1U 1', 'C1U 2ml', 'R10K 4', 'SOCKET 1']);
});

it('is not released before it is ready; what stands in the way is said', async () => {
  const check = await store.json<ReadinessAnswer>('GET', '/api/build/check?bill=BILL');
  expect(check.failures.map(({ rule }) => rule).sort()).toEqual(['account', 'base released']);
  await store.call('POST', '/api/holds/let-go', { items: ['BILL', 'BOARD'] });
  await store.call('POST', '/api/steps', { items: ['BILL'], step: 'ask for check' });
  const checker = { Authorization: `Bearer ${await store.tokenFor('carl', 'checker')}` };
  const release = (items: readonly string[]): Promise<Response> =>
    store.call('POST', '/api/steps', { items, step: 'release', reason: 'First batch', below: true }, checker);
  expect(await refusal(release(['BILL']))).toMatch(
    /BILL is not ready: BOARD .* is draft, not released, and 1 more/,
  );
  // A difference from engineering is meant once somebody says why, for that very difference.
  await store.call(
    'POST',
    '/api/steps',
    { items: ['BILL'], step: 'send back', reason: 'C1U twice?' },
    checker,
  );
  await store.call('POST', '/api/holds', { items: ['BILL'], reason: '' });
  const now = await open();
  const capacitor = now.bill.rows.find(({ number }) => number === 'C1U')?.itemId ?? '';
  const reasons = { [capacitor]: { difference: '+2 ml', reason: 'spare' } };
  await save({ ...saved(now), reasons });
  await store.call('POST', '/api/holds/let-go', { items: ['BILL'] });
  await store.call('POST', '/api/steps', {
    ...{ items: ['BOARD', 'BILL'], step: 'ask for check', below: true },
  });
  await release(['BOARD']);
  expect((await store.json<ReadinessAnswer>('GET', '/api/build/check?bill=BILL')).failures).toEqual([]);
  await release(['BILL']);
});

it(
  'a release has its files, and reaches planning once, however often that was away',
  { timeout: 60_000 },
  async () => {
    let [release] = await store.json<BillRelease[]>('GET', '/api/build/releases?bill=BILL');
    while (release?.planning.state !== 'sent') {
      await new Promise((done) => setTimeout(done, 200));
      [release] = await store.json<BillRelease[]>('GET', '/api/build/releases?bill=BILL');
    }
    expect(release).toMatchObject({
      by: 'carl',
      notes: 'First batch',
      planning: { tries: 3, problem: null },
    });
    expect(planning.tries).toBe(3);
    expect([...planning.taken.values()]).toEqual([expect.stringContaining('number="SOCKET"')]);
    const file = async (name: string): Promise<ArrayBuffer> =>
      (
        await store.call(
          'GET',
          `/api/issued/file?item=BILL&file=${release?.files.find((each) => each.name === name)?.id ?? ''}`,
        )
      ).arrayBuffer();
    const [sheet, xml] = release.files.map(({ name }) => name);
    const book = new ExcelJS.Workbook();
    await book.xlsx.load(await file(sheet ?? ''));
    const texts: unknown[] = [];
    book.worksheets[0]?.eachRow((row) => texts.push(row.values));
    expect(JSON.stringify(texts)).toContain('"Adhesive",2,"ml"');
    expect(JSON.stringify(texts)).not.toContain('{{');
    expect(new TextDecoder().decode(await file(xml ?? ''))).toBe([...planning.taken.values()][0]);
    expect(await refusal(store.call('GET', '/api/issued/file?item=BILL&file=999999'))).toMatch(
      /no such issued/,
    );
  },
);

it('says of an item which bills need it, under which lens, and what it may be used instead of', async () => {
  const besides = (item: string, lens = 'newest'): Promise<UsedBesidesAnswer> =>
    store.json('GET', `/api/used/besides?item=${item}&lens=${lens}`);
  const needs = async (item: string, lens?: string): Promise<string[]> =>
    (await besides(item, lens)).bills.map(({ number, version, amount }) => `${number} ${version} ${amount}`);
  const { version } = (await open()).item;
  expect(await needs('C1U')).toEqual([`BILL ${version} 1 and 2 ml`]);
  expect(await needs('R10K', 'released')).toEqual([`BILL ${version} 4`]);
  // It was in earlier versions alone.
  expect(await needs('WIRE')).toEqual([]);
  expect(await needs('C1U', '2001-01-01')).toEqual([]);
  await store.call('PUT', '/api/alternates', { item: 'R10K', other: 'C1U', onlyIn: 'BOARD', note: 'x' });
  expect((await besides('C1U')).insteadOf).toMatchObject([
    { number: 'R10K', onlyIn: 'BOARD', approvedBy: null },
  ]);
  const boss = { Authorization: `Bearer ${await store.tokenFor('boss', 'administrator')}` };
  await store.call('POST', '/api/items/move', { items: ['BILL'], place: '/plans' }, boss);
  const closed = (inherits: boolean): Promise<unknown> =>
    store.call('PUT', '/api/places/access', { place: '/plans', inherits, grants: [] }, boss);
  await closed(false);
  expect(await besides('C1U')).toMatchObject({ bills: [], hidden: 1 });
  await closed(true);
});

it('what may not be seen is counted and named nowhere, and nobody judges or saves over it', async () => {
  const boss = { Authorization: `Bearer ${await store.tokenFor('boss', 'administrator')}` };
  await store.call('POST', '/api/items/move', { items: ['SOCKET'], place: '/secret' }, boss);
  await store.call('PUT', '/api/places/access', { place: '/secret', inherits: false, grants: [] }, boss);
  const seen = await open();
  expect(seen.hidden).toBe(2);
  // Whether engineering moved on would tell of what may not be seen.
  expect(seen.behind).toBeNull();
  expect(JSON.stringify(seen)).not.toContain('SOCKET');
  expect(await refusal(store.call('GET', '/api/build/carry?bill=BILL'))).toMatch(/not visible to you/);
  const { failures } = await store.json<ReadinessAnswer>('GET', '/api/build/check?bill=BILL');
  expect(failures.map(({ says }) => says)).toEqual([expect.stringMatching(/^Cannot be judged: 2 rows/)]);
  await store.call('POST', '/api/revise', { items: ['BILL'], reason: 'next' });
  const now = await open();
  expect(await refusal(save(saved(now)))).toMatch(/rows that are not visible to you|no item not visible/);
  expect(await refusal(store.call('POST', '/api/bills', { item: 'BOARD', number: 'B3', name: 'x' }))).toMatch(
    /not visible to you/,
  );
  await store.call('PUT', '/api/places/access', { place: '/secret', inherits: true, grants: [] }, boss);
});

it('goes on in the next revision, comes back to an earlier version, and follows renames', async () => {
  await store.call('POST', '/api/items/rename', { item: 'SOCKET', name: 'Socket, wide' });
  expect((await open()).bill.rows.map(({ name }) => name)).toContain('Socket, wide');
  await save(saved(await open()));
  const back = await store.json<VersionMade>('POST', '/api/bring-back', { item: 'BILL@A/1' });
  expect(say(await open())).toEqual(['R10K 3', 'C1U 1', 'WIRE 1']);
  expect((await open()).item.version).toBe(back.version);
});

it('has no variants, and says what to do instead', async () => {
  for (const path of ['/api/derive/preview', '/api/derive'])
    expect(await refusal(store.call('POST', path, { item: 'BILL', copy: 'all', prefix: 'V-' }))).toMatch(
      /BILL is a bill/,
    );
});

it('a file never becomes a version of a bill, whatever it is called', async () => {
  const file = new TextEncoder().encode('no bill');
  const before = (await open()).item.version;
  for (const name of ['BILL.txt', 'BILL.bill.json', 'bill.step']) {
    const { rows, id } = await store.review(new Map([[name, file]]), { place: '/boards' });
    expect(rows.filter(({ status }) => status === 'new version')).toEqual([]);
    await store.carryOut(id).catch(() => undefined);
  }
  expect((await open()).item.version).toBe(before);
});

it(
  'a release with a template that is wrong says which placeholder, and makes its files once that is mended',
  { timeout: 60_000 },
  async () => {
    const template = async (cell: string): Promise<Uint8Array> => {
      const book = new ExcelJS.Workbook();
      book.addWorksheet('List').addRow([cell]);
      return new Uint8Array(await book.xlsx.writeBuffer());
    };
    await store.intake(new Map([['TPL.xlsx', await template('{{bill.colour}}')]]), { place: '/boards' });
    const bill = 'BILL-T';
    await store.call('POST', '/api/bills', { item: 'BOARD', number: bill, name: 'With a template' });
    expect(await refusal(save({ ...saved(await open(bill)), outputs: ['NONE'] }))).toMatch(/no item NONE/);
    await save({ ...saved(await open(bill)), outputs: ['TPL'] });
    await store.call('POST', '/api/holds/let-go', { items: [bill] });
    await store.call('POST', '/api/steps', { items: [bill], step: 'ask for check' });
    const checker = { Authorization: `Bearer ${await store.tokenFor('carl', 'checker')}` };
    await store.call('POST', '/api/steps', { items: [bill], step: 'release', reason: '' }, checker);
    const release = async (until: (release: BillRelease) => boolean): Promise<BillRelease> => {
      for (;;) {
        const [found] = await store.json<BillRelease[]>('GET', `/api/build/releases?bill=${bill}`);
        if (found && until(found)) return found;
        await new Promise((done) => setTimeout(done, 200));
      }
    };
    expect((await release(({ problem }) => problem !== null)).problem).toMatch(
      /\{\{bill.colour\}\} in cell List!A1 means nothing/,
    );
    await store.call('POST', '/api/holds', { items: ['TPL'], reason: '' });
    const { id } = await store.json<IntakeView>('POST', '/api/intakes', { place: '/boards', prefix: '' });
    await store.call('PUT', `/api/intakes/${id}/files?path=TPL.xlsx`, await template('{{bill.number}}'));
    await store.carryOut(id);
    expect((await release(({ files }) => files.length === 2)).problem).toBeNull();
  },
);
