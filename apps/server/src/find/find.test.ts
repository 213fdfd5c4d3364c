/** Finding in a real store: what the language means in SQL, counts, tables, and searches that are kept. */
import type {
  FindAnswer,
  FindCounts,
  FindRanges,
  LikePropertiesAnswer,
  NoticesAnswer,
  PropertiesAnswer,
  SavedRow,
} from '@stem-trace/contract';
import { parseQuery, type QueryWords } from '@stem-trace/core';
import ExcelJS from 'exceljs';
import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { readExchangeSet } from '../../../../packages/formats/src/testing/exchange-files.js';
import { Refused, TestStore } from '../testing/test-store.js';
import { compileQuery } from './query-compiler.js';

let store: TestStore;
beforeAll(async () => {
  store = await TestStore.open();
  const admin = await store.tokenFor('boss', 'administrator');
  for (const definition of [
    { name: 'wall thickness', kind: 'number', unit: 'mm', choices: [] },
    { name: 'finish', kind: 'choice', unit: '', choices: ['as machined', 'painted'] },
  ])
    await store.call('PUT', '/api/properties/definition', definition, { Authorization: `Bearer ${admin}` });
  await store.intake(readExchangeSet('s1_pe_214'), {
    place: '/plane',
    comment: 'Imported from the old archive',
  });
  await store.json('POST', '/api/holds', { items: ['TAIL_TURBINE'], reason: '' });
  await store.json<PropertiesAnswer>('POST', '/api/items/properties', {
    items: ['TAIL_TURBINE'],
    set: { 'wall thickness': '0.5 in', finish: 'painted' },
    comment: 'Measured anew',
  });
});
afterAll(() => store.close());

async function find(words: string, more = ''): Promise<FindAnswer> {
  return store.json('GET', `/api/items?words=${encodeURIComponent(words)}${more}`);
}

async function numbers(words: string): Promise<string[]> {
  return (await find(words)).rows.map(({ number }) => number);
}

describe('finding', () => {
  it('by words in number, name, comments; a word alone may be a number that comes first', async () => {
    expect(await numbers('tail turbine')).toEqual(['TAIL_TURBINE']);
    expect((await find('old archive')).total).toBe((await find('')).total);
    expect(await numbers('"measured anew"')).toEqual(['TAIL_TURBINE']);
    expect((await numbers('tail_asm'))[0]).toBe('TAIL_ASM');
  });

  it.each([
    ['>= 0 mm', ['TAIL_TURBINE']],
    ['> 0 mm', ['TAIL_TURBINE']],
    ['<= 0 mm', []],
    ['< 0 mm', []],
    ['= 0 mm..20 mm', ['TAIL_TURBINE']],
    ['= 0', []],
  ])('by a property from or up to nothing at all: %s', async (range, found) => {
    expect(await numbers(`wall thickness ${range}`)).toEqual(found);
  });

  it('by properties with any unit that fits', async () => {
    expect(await numbers('wall thickness = 12.7')).toEqual(['TAIL_TURBINE']);
    expect(await numbers('wall thickness = 1 cm..2 cm')).toEqual(['TAIL_TURBINE']);
    expect(await numbers('wall thickness > 0.5 in')).toEqual([]);
    expect(await numbers('finish = painted and with wall thickness')).toEqual(['TAIL_TURBINE']);
    expect(await numbers('finish != painted without finish TAIL_TURB')).toEqual([]);
  });

  it('by state, kind, people, days, holds, places', async () => {
    const all = (await find('')).total;
    expect((await find('state = draft')).total).toBe(all);
    expect((await find('not state = released, withdrawn')).total).toBe(all);
    expect((await find('kind = part')).total + (await find('kind = assembly')).total).toBe(all);
    expect((await find('by = ada changed = today')).total).toBe(all);
    expect((await find('created < today')).total).toBe(0);
    expect(await numbers('held by me')).toEqual(['TAIL_TURBINE']);
    expect((await find('in /Plane')).total).toBe(all);
    expect((await find('number = tail*')).total).toBeGreaterThan(1);
    expect((await find('revision = A')).total).toBe(all);
  });

  it('by structure: used in, made of, behind, unused', async () => {
    const made = await store.made('TAIL_ASM', '&lens=newest');
    expect((await numbers('used in TAIL_ASM')).sort()).toEqual(
      [...new Set(made.rows.map(({ number }) => number))].sort(),
    );
    const used = await store.used('TAIL_TURBINE', '&lens=newest');
    expect((await numbers('made of TAIL_TURBINE')).sort()).toEqual(
      [...new Set(used.rows.map(({ number }) => number))].sort(),
    );
    // The turbine has a new version that nothing records yet.
    expect(await numbers('behind')).toEqual(
      [...new Set(used.rows.filter(({ level }) => level === 1).map(({ number }) => number))].sort(),
    );
    const tops = await numbers('unused kind = assembly');
    expect(tops.length).toBeGreaterThan(0);
  });

  it('says where a search is wrong and what would be right', async () => {
    const refused = await find('finsh = painted').catch((error: unknown) => error);
    expect(refused).toBeInstanceOf(Refused);
    expect((refused as Refused).problem).toMatchObject({
      code: 'QUERY_WRONG',
      at: { from: 0, to: 5 },
      detail: expect.stringContaining('Did you mean finish?') as string,
    });
    await expect(find('used in NOBODY')).rejects.toThrow(/no item NOBODY/);
  });

  it('names numbers that are written alike where nothing is found', async () => {
    const { total, near } = await find('tail_turb1ne');
    expect(total).toBe(0);
    expect(near[0]?.number).toBe('TAIL_TURBINE');
  });

  it('orders by properties and shows them', async () => {
    const answer = await find(
      'tail',
      '&sort=property:wall%20thickness&order=down&columns=Wall%20thickness;finish',
    );
    expect(answer.rows[0]).toMatchObject({
      number: 'TAIL_TURBINE',
      properties: { 'wall thickness': '0.5 in', finish: 'painted' },
    });
  });

  it('counts what it finds by kind, state, place and person, and ranges of numbers', async () => {
    const counts = await store.json<FindCounts>('GET', '/api/find/counts?words=in%20%2Fplane');
    const { total } = await find('in /plane');
    expect(counts.total).toBe(total);
    for (const rows of [counts.kind, counts.state, counts.class, counts.place, counts.changedBy])
      expect(rows.reduce((sum, { count }) => sum + count, 0)).toBe(total);
    expect(counts.changedBy).toEqual([{ value: 'ada', count: total }]);
    const ranges = await store.json<FindRanges>('GET', '/api/find/ranges?words=&property=wall%20thickness');
    expect(ranges.ranges.reduce((sum, { count }) => sum + count, 0)).toBe(1);
    const texts = await store.json<FindRanges>('GET', '/api/find/ranges?words=&property=finish');
    expect(texts.values).toEqual([{ value: 'painted', count: 1 }]);
  });

  it('gives away all of it as CSV and XLSX, in the order asked for', async () => {
    const rows = (await find('in /plane', '&sort=name&order=down&limit=1000')).rows;
    const query = '/api/find/table?words=in%20%2Fplane&sort=name&order=down&columns=number;property:finish';
    const csv = await (await store.call('GET', query)).text();
    const lines = csv.trim().split('\r\n');
    expect(lines).toHaveLength(rows.length + 1);
    expect(lines[1]?.startsWith(`${rows[0]?.number},`)).toBe(true);
    const bytes = await (await store.call('GET', `${query}&format=xlsx`)).arrayBuffer();
    const book = new ExcelJS.Workbook();
    await book.xlsx.load(bytes);
    const sheet = book.worksheets[0];
    expect(sheet?.rowCount).toBe(rows.length + 1);
    expect(sheet?.getCell(2, 1).value).toBe(rows[0]?.number);
  });

  it('gives the columns that are shown, in groups; numbers as numbers under their unit, times as times', async () => {
    const owner = { Authorization: `Bearer ${await store.tokenFor('dora', 'administrator')}` };
    await store.call(
      'PUT',
      '/api/properties/definition',
      { name: 'Bore', kind: 'number', unit: 'mm' },
      owner,
    );
    await store.json('POST', '/api/items/properties', {
      ...{ items: ['TAIL_TURBINE', 'FOOT_BACK'], set: { Bore: '0.5 in' }, comment: '', checkOut: true },
    });
    const columns = encodeURIComponent('kind;number;property:Bore;changed');
    const query = `/api/find/table?words=with%20Bore&group=kind&columns=${columns}`;
    const csv = await (await store.call('GET', query)).text();
    expect(csv.split('\r\n')[0]).toBe('Kind,Number,Bore [mm],Changed');
    expect(csv.split('\r\n')[1]).toMatch(/^part,FOOT_BACK,12\.7,\d{4}-\d\d-\d\dT/);
    const book = new ExcelJS.Workbook();
    await book.xlsx.load(await (await store.call('GET', `${query}&format=xlsx`)).arrayBuffer());
    const row = book.worksheets[0]?.getRow(2);
    expect(row?.getCell(3).value).toBe(12.7);
    expect(row?.getCell(4).value).toBeInstanceOf(Date);
    await expect(store.call('GET', '/api/find/table?columns=nonsense')).rejects.toMatchObject({
      status: 400,
    });
  });
});

describe('the lens', () => {
  it('finds as released what has a released version, though a newer draft has been begun, and says so', async () => {
    const owner = { Authorization: `Bearer ${await store.tokenFor('dora', 'administrator')}` };
    for (const step of ['ask for check', 'release'])
      await store.call('POST', '/api/steps', { items: ['HEAD_FRONT'], step, reason: '' }, owner);
    const released = (lens: string): Promise<FindAnswer> =>
      find('HEAD_FRONT state = released', `&lens=${lens}`);
    expect((await released('newest')).rows[0]).toMatchObject({ version: 'A/1', released: null });
    await store.json('POST', '/api/revise', { items: ['HEAD_FRONT'], reason: '' });
    expect((await released('newest')).rows).toEqual([]);
    expect((await released('recorded')).rows[0]).toMatchObject({
      ...{ number: 'HEAD_FRONT', version: 'B/1', state: 'draft', released: 'A/1' },
    });
    expect((await find('in /', '&lens=released')).rows.map(({ number }) => number)).toEqual(['HEAD_FRONT']);
    const counts = await store.json<{ total: number }>('GET', '/api/find/counts?words=&lens=released');
    expect(counts.total).toBe(1);
    await store.json('POST', '/api/holds/let-go', { items: ['HEAD_FRONT'] });
  });
});

describe('a saved search', () => {
  it('is counted, shared, and tells its owner when the count changes', async () => {
    await store.json('POST', '/api/saved', {
      kind: 'search',
      name: 'Held by anybody',
      address: '/find?words=held',
      isShared: true,
      tells: true,
    });
    const other = await store.tokenFor('ben', 'engineer');
    const asBen = { Authorization: `Bearer ${other}` };
    const rows = (await (await store.call('GET', '/api/saved', undefined, asBen)).json()) as SavedRow[];
    expect(rows).toEqual([expect.objectContaining({ name: 'Held by anybody', count: 1, isMine: false })]);
    await expect(store.call('DELETE', `/api/saved/${rows[0]?.id}`, undefined, asBen)).rejects.toThrow(
      /no such saved/,
    );
    await store.json('POST', '/api/holds', { items: ['TAIL_ASM'], reason: '' });
    await store.json('POST', '/api/items/properties', {
      items: ['TAIL_ASM'],
      set: { finish: 'painted' },
      comment: '',
    });
    let notice: NoticesAnswer['rows'][number] | undefined;
    for (let tries = 0; tries < 100 && !notice; tries++) {
      await new Promise((done) => setTimeout(done, 100));
      const { rows: notices } = await store.json<NoticesAnswer>('GET', '/api/notices');
      notice = notices.find(({ says }) => says.includes('finds 2 now'));
    }
    expect(notice).toMatchObject({ address: '/find?words=held', number: null });
    expect(notice?.says).toBe('Your search “Held by anybody” finds 2 now; it was 1. New: TAIL_ASM.');
    const told = (await (await store.call('GET', '/api/notices', undefined, asBen)).json()) as NoticesAnswer;
    expect(told.rows).toEqual([]);
    const left = await store.json<SavedRow[]>('DELETE', `/api/saved/${rows[0]?.id}`);
    expect(left).toEqual([]);
  });
});

describe('likeness by properties', () => {
  const like = (item: string): Promise<LikePropertiesAnswer> =>
    store.json<LikePropertiesAnswer>('GET', `/api/like/properties?item=${item}`);

  it('finds what says about the same, in whatever unit, and explains it', async () => {
    const set = async (item: string, values: Record<string, string>): Promise<void> => {
      await store.json('POST', '/api/holds', { items: [item], reason: '' });
      await store.json('POST', '/api/items/properties', { items: [item], set: values, comment: '' });
    };
    await set('TAIL_MIDDLE_PART', { 'wall thickness': '12 mm', finish: 'painted' });
    await set('HEAD_BACK', { 'wall thickness': '40 mm', finish: 'painted' });
    const { of, rows } = await like('TAIL_TURBINE');
    const at = of.findIndex(({ name }) => name === 'wall thickness');
    expect(of[at]?.shown).toBe('0.5 in');
    expect(rows.map(({ number }) => number).slice(0, 2)).toEqual(['TAIL_MIDDLE_PART', 'HEAD_BACK']);
    expect(rows[0]?.properties[at]?.shown).toBe('12 mm');
    expect(rows[0]?.properties[at]?.closeness).toBeCloseTo(12 / 12.7, 6);
    expect(rows[1]?.properties[at]?.closeness).toBeCloseTo(12.7 / 40, 6);
  });

  it('says so where nothing is said of an item', async () => {
    await store.intake(new Map([['a note.txt', new TextEncoder().encode('Nothing is said of it.')]]));
    await expect(like('a note')).rejects.toThrow(/has no properties by which others could be like it/);
  });
});

describe('any query', () => {
  const pieces = [
    ...['mass', 'state', 'changed', 'by', 'held', 'in', '/x', 'with', 'drawing', 'gap', 'behind', 'unused'],
    ...[
      'or',
      'not',
      '(',
      ')',
      '"a b"',
      '=',
      '<',
      'has',
      '8',
      'mm',
      'draft',
      'today',
      'name',
      'text',
      'finish',
    ],
    ...["';--", '$1', '%', '\\', "'", 'é', '*', '..', ','],
  ];
  const words: QueryWords = {
    properties: [
      { name: 'mass', kind: 'number', unit: 'kg', choices: [] },
      { name: 'finish', kind: 'text', unit: '', choices: [] },
    ],
    states: [],
    classes: ['Fastener'],
    people: [{ login: 'ada', name: 'Ada' }],
    places: [],
    me: 'ada',
    today: '2026-11-25',
  };

  it('becomes SQL that has nothing of the text in it', () => {
    const marked = fc
      .array(fc.constantFrom(...pieces, 'ZQX'), { maxLength: 12 })
      .map((list) => list.join(' '))
      .filter((text) => text.includes('ZQX'));
    fc.assert(
      fc.property(marked, (text) => {
        const parsed = parseQuery(text, words);
        if (parsed.kind === 'problem') return;
        const { sql, values } = compileQuery(parsed.query, new Map());
        expect(sql.toLowerCase()).not.toContain('zqx');
        const used = new Set([...sql.matchAll(/\$(\d+)/g)].map(([, at]) => Number(at)));
        expect(used.size).toBe(values.length);
      }),
      { numRuns: 5000 },
    );
  });

  it('runs, and finds with its opposite exactly everything', async () => {
    const all = (await find('')).total;
    const text = fc
      .array(fc.constantFrom(...pieces), { minLength: 1, maxLength: 7 })
      .map((list) => list.join(' '))
      .filter((each) => parseQuery(each, words).kind === 'query' && !/finish|mass/.test(each));
    await fc.assert(
      fc.asyncProperty(text, async (each) => {
        const [found, others] = await Promise.all([find(each), find(`not (${each})`)]);
        expect(found.total + others.total).toBe(all);
      }),
      { numRuns: 120 },
    );
  });
});
