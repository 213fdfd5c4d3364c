import type { FileTextAnswer, FindAnswer, IntakeView, ItemView } from '@stem-trace/contract';
import { applyTitleBlock, DEFAULT_TITLE_BLOCK } from '@stem-trace/core';
import { readDxf, readPartsList } from '@stem-trace/formats';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { dxf } from '../../../../packages/formats/src/testing/dxf.js';
import { readExchangeSet } from '../../../../packages/formats/src/testing/exchange-files.js';
import { TestStore } from '../testing/test-store.js';

let store: TestStore;
const bytes = (text: string): Uint8Array => new TextEncoder().encode(text);
const sheet = (number: string, shown: string): Uint8Array =>
  dxf({
    fields: { DRAWING_NUMBER: number, TITLE: 'Tail', PART_NUMBER: shown },
    attached: { frame: '../frames/A3.dxf' },
    notes: ['Galvanise after welding'],
    list: [
      ['Pos.', 'Part no.'],
      ['1', 'TAIL_MIDDLE_PART'],
      ['2', 'TAIL_TURBINE'],
      ['3', 'NOT_IN_IT'],
    ],
  });

beforeAll(async () => {
  store = await TestStore.open();
  await store.intake(readExchangeSet('s1_pe_214'), { place: '/plane' });
  await store.intake(
    new Map([
      ['drawings/tail.dxf', sheet('D-TAIL', 'TAIL_ASM')],
      ['frames/A3.dxf', dxf({ notes: ['frame'] })],
      ['notes.txt', bytes('The rudder is heavy, see "Ruderlager"')],
      ['tail_asm.pdf', bytes('%PDF-1.7 broken')],
      ['photo.svg', bytes('<svg xmlns="http://www.w3.org/2000/svg"><script>alert(1)</script></svg>')],
    ]),
    { place: '/plane' },
  );
});
afterAll(() => store.close());

const view = (item: string): Promise<ItemView> =>
  store.json('GET', `/api/item?item=${encodeURIComponent(item)}`);
const find = async (words: string): Promise<string[]> =>
  (await store.json<FindAnswer>('GET', `/api/items?words=${encodeURIComponent(words)}`)).rows.map(
    ({ number }) => number,
  );

describe('files of every kind', () => {
  it('come in with what belongs together linked', async () => {
    const tail = await view('TAIL_ASM');
    expect(tail.beside.map(({ number, relation, isUser }) => [number, relation, isUser])).toEqual([
      ['TAIL_ASM-PDF', 'describes', true],
      ['D-TAIL', 'depicts', true],
    ]);
    const drawing = await view('D-TAIL');
    expect(drawing).toMatchObject({ kind: 'drawing', format: 'dxf', name: 'Tail', gaps: 0 });
    expect(drawing.beside.map(({ number, relation }) => [number, relation])).toEqual([
      ['TAIL_ASM', 'depicts'],
      ['A3', 'draws on'],
    ]);
  });

  it('do not count as use, nor as what an assembly is made of', async () => {
    expect((await view('TAIL_ASM')).usedIn).toBe(
      (await store.used('TAIL_ASM', '')).rows.filter(({ level }) => level === 1).length,
    );
    expect((await store.made('TAIL_ASM')).rows.map(({ number }) => number)).not.toContain('D-TAIL');
  });

  it('are found by the words in them', async () => {
    expect(await find('ruderl')).toEqual(['notes']);
    expect(await find('galvanise tail')).toEqual(['D-TAIL']);
    expect(await find(`rudder ' \\ : & | !`)).toEqual([]);
    expect((await store.json<FileTextAnswer>('GET', '/api/text?item=notes')).text).toContain('rudder');
  });

  it('are handed to the browser so that nothing in them runs', async () => {
    const picture = await store.call('GET', '/api/file?item=photo');
    expect(picture.headers.get('content-type')).toMatch(/^image\/svg\+xml/);
    expect(picture.headers.get('content-security-policy')).toMatch(/sandbox.*default-src 'none'/);
    expect(picture.headers.get('x-content-type-options')).toBe('nosniff');
    const step = await store.call('GET', '/api/file?item=TAIL_ASM');
    expect(step.headers.get('content-disposition')).toMatch(/^attachment/);
  });

  it('fill gaps of drawings when what they show comes in later', async () => {
    await store.intake(new Map([['late.dxf', sheet('D-LATE', 'LATE-PART')]]), { place: '/late' });
    expect((await view('D-LATE')).gaps).toBe(2);
    await store.intake(new Map([['x.stp', bytes(partText('LATE-PART'))]]), { place: '/elsewhere' });
    const drawing = await view('D-LATE');
    expect(drawing.beside).toContainEqual(
      expect.objectContaining({ number: 'LATE-PART', relation: 'depicts' }),
    );
  });

  it('can be told where they belong in the review', async () => {
    const review = await store.review(new Map([['loose.pdf', bytes('%PDF-1.7')]]), { place: '/loose' });
    expect(review.rows[0]).toMatchObject({ belongsTo: null, notes: [expect.stringMatching(/Kept whole/)] });
    const told = await store.json<IntakeView>('PATCH', `/api/intakes/${review.id}`, {
      corrections: { 'loose.pdf#0': { belongsTo: 'head_asm' } },
    });
    expect(told.rows[0]?.belongsTo).toBe('HEAD_ASM');
    await store.carryOut(review.id);
    expect((await view('HEAD_ASM')).beside.map(({ number }) => number)).toContain('loose');
  });
});

describe('belonging', () => {
  it('is said by hand for what one holds, and kept when the file changes', async () => {
    const post = (path: string, body: unknown): Promise<unknown> => store.json('POST', path, body);
    const besides = async (): Promise<string[]> => (await view('notes')).beside.map(({ number }) => number);
    expect(await besides()).toEqual([]);
    await expect(post('/api/items/belong', { item: 'notes', model: 'TAIL_ASM' })).rejects.toMatchObject({
      problem: { code: 'NOT_HELD' },
    });
    await post('/api/holds', { items: ['notes', 'TAIL_ASM'], reason: '' });
    await expect(post('/api/items/belong', { item: 'TAIL_ASM', model: '' })).rejects.toThrow(
      /only drawings and documents/,
    );
    await post('/api/items/belong', { item: 'notes', model: 'tail_asm' });
    expect(await besides()).toEqual(['TAIL_ASM']);
    await store.intake(new Map([['notes.txt', bytes('Rewritten')]]), { place: '/plane' });
    expect([(await view('notes')).version, await besides()]).toEqual(['A/3', ['TAIL_ASM']]);
    await post('/api/items/belong', { item: 'notes', model: '' });
    expect(await besides()).toEqual([]);
    await post('/api/holds/let-go', { items: ['notes', 'TAIL_ASM'] });
  });
});

describe('drawings', () => {
  it('are fetched with the files that they draw on, under their present names', async () => {
    await store
      .json('POST', '/api/items/rename', { item: 'A3', fileName: 'Frame A3.dxf' })
      .catch(() => undefined);
    const { files } = await store.fetch('D-TAIL');
    expect([...files.keys()].sort()).toEqual(['drawings/tail.dxf', 'frames/Frame A3.dxf']);
    expect(readDxf(files.get('drawings/tail.dxf') ?? new Uint8Array()).products[1]?.locator).toBe(
      '../frames/Frame A3.dxf',
    );
  });

  it('come along with a tree where that is wished', async () => {
    const without = await store.fetch('TAIL_ASM');
    const withDrawings = await store.fetch('TAIL_ASM', '&drawings=true');
    expect(
      [...withDrawings.files.keys()].filter((path) => !without.files.has(path) && path.endsWith('.dxf')),
    ).toHaveLength(2);
  });

  it('follow what they show into a variant, and name the copy', async () => {
    const result = await store.derive({ item: 'TAIL_ASM', prefix: 'V-' });
    expect(result.made).toContainEqual({ from: 'D-TAIL', to: 'V-D-TAIL' });
    expect(result.proof).toMatchObject({ dangling: 0, leaking: 0, faults: [] });
    const copy = await view('V-D-TAIL');
    expect(copy.beside.map(({ number }) => number)).toContain('V-TAIL_ASM');
    const { files } = await store.fetch('V-D-TAIL');
    const drawn = [...files].find(([path]) => path.includes('V-D-TAIL'))?.[1] ?? new Uint8Array();
    const { products } = applyTitleBlock(readDxf(drawn), DEFAULT_TITLE_BLOCK);
    expect(products.map(({ id }) => id)).toEqual(['V-D-TAIL', '', 'V-TAIL_ASM']);
    // Its list of parts names the copies, and the others as they were.
    expect(readPartsList(drawn).map(({ number }) => number)).toEqual([
      ...['NOT_IN_IT', 'V-TAIL_TURBINE', 'V-TAIL_MIDDLE_PART'],
    ]);
    // Also once the assembly has come in anew, whose file names the copies by then.
    const fetched = [...(await store.fetch('V-TAIL_ASM')).files].find(([path]) =>
      /V-TAIL_ASM\.[^.]+$/.test(path),
    );
    const [path = '', content = new Uint8Array()] = fetched ?? [];
    await store.call('POST', '/api/holds', { items: ['V-TAIL_ASM'], reason: '' });
    const changed = bytes(new TextDecoder().decode(content).replace('DATA;', 'DATA;/* again */'));
    await store.intake(new Map([[path.split('/').at(-1) ?? '', changed]]), { place: copy.place });
    expect((await view('V-TAIL_ASM')).version).toBe('A/2');
    const again = [...(await store.fetch('V-D-TAIL')).files].find(([each]) => each.includes('V-D-TAIL'))?.[1];
    expect(again && readPartsList(again).map(({ number }) => number)).toEqual([
      ...['NOT_IN_IT', 'V-TAIL_TURBINE', 'V-TAIL_MIDDLE_PART'],
    ]);
  });

  it('stay with the origin where what they show is shared', async () => {
    const result = await store.derive({ item: 'TAIL_ASM', copy: 'none', prefix: 'W-' });
    expect(result.made.map(({ from }) => from)).toEqual(['TAIL_ASM']);
  });
});

function partText(number: string): string {
  return `ISO-10303-21;
HEADER;
FILE_DESCRIPTION((''),'2;1');
FILE_NAME('x.stp','2026-01-01T00:00:00',(''),(''),'','','');
FILE_SCHEMA(('AUTOMOTIVE_DESIGN'));
ENDSEC;
DATA;
#1=APPLICATION_CONTEXT('automotive design');
#2=PRODUCT_CONTEXT('',#1,'mechanical');
#3=PRODUCT('${number}','${number}','',(#2));
#4=PRODUCT_DEFINITION_FORMATION('','',#3);
#5=PRODUCT_DEFINITION_CONTEXT('part definition',#1,'design');
#6=PRODUCT_DEFINITION('design','',#4,#5);
ENDSEC;
END-ISO-10303-21;
`;
}
