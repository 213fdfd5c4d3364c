/** What people draw on a version: whose it is, what becomes of it with the next version, and who is told. */
import type { FindAnswer, MarkMade, MarkUpAnswer, NewMarkRequest, NoticesAnswer } from '@stem-trace/contract';
import { readFile } from '@stem-trace/formats';
import fc from 'fast-check';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { dxf } from '../../../../packages/formats/src/testing/dxf.js';
import { TestStore } from '../testing/test-store.js';

let store: TestStore;
type Headers = Readonly<Record<string, string>>;
let ben: Headers;
let admin: Headers;

beforeAll(async () => {
  store = await TestStore.open();
  const as = async (...who: Parameters<TestStore['tokenFor']>): Promise<Headers> => ({
    Authorization: `Bearer ${await store.tokenFor(...who)}`,
  });
  [ben, admin] = [await as('ben', 'checker'), await as('boss', 'administrator')];
  await store.intake(new Map([['plate.dxf', dxf({ notes: ['Deburr all edges'] })]]), { place: '/marks' });
  await store.intake(new Map([['lid.dxf', dxf({ notes: ['Grind'] })]]), { place: '/marks' });
});
afterAll(() => store.close());

async function asked<T>(method: string, path: string, body?: unknown, headers: Headers = {}): Promise<T> {
  const answer = await store.call(method, path, body, headers);
  return (answer.status === 204 ? undefined : await answer.json()) as T;
}

const BOX: NewMarkRequest = {
  ...{ item: 'plate', sheet: 'Model', kind: 'box', tone: 'change' },
  ...{
    spots: [
      [1, 2],
      [30, 40],
    ],
    words: 'chamfer 0.5 here',
  },
};
const draw = (more: Partial<NewMarkRequest> = {}, headers: Headers = {}): Promise<MarkMade> =>
  asked('POST', '/api/mark-up', { ...BOX, ...more }, headers);
const marksOf = (item = 'plate', headers: Headers = {}): Promise<MarkUpAnswer> =>
  asked('GET', `/api/mark-up?item=${item}`, undefined, headers);

it('is drawn, answered, settled and found; who made the version is told, only who drew it changes it', async () => {
  const { id } = await draw({}, ben);
  expect((await marksOf()).rows).toMatchObject([
    {
      id,
      kind: 'box',
      words: 'chamfer 0.5 here',
      isMine: false,
      version: 'A/1',
      settledBy: null,
      remarks: [],
    },
  ]);
  const { rows: told } = await asked<NoticesAnswer>('GET', '/api/notices');
  expect(told[0]).toMatchObject({ number: 'plate', says: expect.stringContaining('drew on plate A/1') });

  await expect(asked('POST', '/api/mark-up/change', { id, words: 'x' })).rejects.toThrow(/only who drew/);
  await asked('POST', '/api/mark-up/change', { id, words: 'chamfer 1 here', tone: 'question' }, ben);
  await asked('POST', '/api/mark-up/remark', { id, words: 'Is 0.5 not enough?' });
  await expect(asked('POST', '/api/mark-up/remove', { id }, ben)).rejects.toThrow(/Somebody answered/);
  await asked('POST', '/api/mark-up/settle', { id, isSettled: true });
  const [row] = (await marksOf('plate', ben)).rows;
  expect(row).toMatchObject({ words: 'chamfer 1 here', tone: 'question', isMine: true });
  expect([row?.remarks[0]?.words, row?.settledBy === null]).toEqual(['Is 0.5 not enough?', false]);

  const found = async (words: string, headers: Headers = {}): Promise<string[]> =>
    (
      await asked<FindAnswer>('GET', `/api/items?words=${encodeURIComponent(words)}`, undefined, headers)
    ).rows.map(({ number }) => number);
  expect(await found('with mark-up')).toEqual([]);
  expect(await found('remark has "NOT ENOUGH"')).toEqual(['plate']);
  await asked('POST', '/api/mark-up/settle', { id, isSettled: false });
  expect(await found('with mark-up')).toEqual(['plate']);
  expect(await found('without mark-up and remark has chamfer')).toEqual([]);
});

it('is neither shown to nor found by whoever may see the item, but not have its file', async () => {
  const place = '/shut';
  await store.intake(new Map([['shut.dxf', dxf({ notes: ['Weld'] })]]), { place });
  const { id } = await draw({ item: 'shut', words: 'crack here' });
  const grants = [{ to: { kind: 'role', role: 'planner' }, rights: ['see'] }];
  await asked('PUT', '/api/places/access', { place, inherits: true, grants }, admin);
  const eve = { Authorization: `Bearer ${await store.tokenFor('eve', 'planner')}` };
  await asked('PUT', '/api/places/access', { place, inherits: false, grants }, admin);
  const find = (words: string): Promise<FindAnswer> =>
    asked('GET', `/api/items?words=${encodeURIComponent(words)}`, undefined, eve);
  expect((await find('shut')).rows.map(({ number }) => number)).toEqual(['shut']);
  for (const words of ['remark has crack', 'shut and with mark-up'])
    expect((await find(words)).rows).toEqual([]);
  await expect(marksOf('shut', eve)).rejects.toThrow(/may not|right/i);
  await expect(asked('POST', '/api/mark-up/remark', { id, words: 'x' }, eve)).rejects.toThrow(/no such mark/);
  await expect(asked('GET', '/api/print?item=shut', undefined, eve)).rejects.toThrow(/may not|right/i);
  // Whoever is only to look reads what others wrote.
  const ann = { Authorization: `Bearer ${await store.tokenFor('ann', 'viewer')}` };
  expect((await marksOf('plate', ann)).closed).toMatch(/ann may look, not draw/i);
});

it('goes on to the next version while it is open, and is only read once that is released', async () => {
  const open = await draw({ item: 'lid', words: 'open' });
  const done = await draw({ item: 'lid', words: 'done' });
  await asked('POST', '/api/mark-up/settle', { id: done.id, isSettled: true });
  await asked('POST', '/api/holds', { items: ['lid'], reason: '' });
  const { id: sheet } = await store.review(new Map([['lid.dxf', dxf({ notes: ['Grind, then paint'] })]]), {
    place: '/marks',
  });
  await store.carryOut(sheet, 'painted');
  expect((await marksOf('lid')).rows.map(({ words, version }) => [words, version])).toEqual([
    ['open', 'A/1'],
  ]);
  expect((await marksOf('lid@A/1')).rows.map(({ words }) => words)).toEqual(['open', 'done']);

  await asked('POST', '/api/holds/let-go', { items: ['lid'] });
  await asked('POST', '/api/steps', { items: ['lid'], step: 'ask for check' });
  await asked('POST', '/api/steps', { items: ['lid'], step: 'release' }, admin);
  expect((await marksOf('lid')).closed).toMatch(/lid A\/2 is released/);
  await expect(draw({ item: 'lid' })).rejects.toThrow(/Draw on a version that is being worked on/);
  for (const [path, body] of [
    ['remark', { id: open.id, words: 'late' }],
    ['settle', { id: open.id, isSettled: true }],
    ['remove', { id: open.id }],
    ['change', { id: open.id, words: 'late' }],
  ] as const)
    await expect(asked('POST', `/api/mark-up/${path}`, body), path).rejects.toThrow(/is released/);
});

it('is printed with the drawing, on paper of its size, with the list', async () => {
  const print = async (more = ''): Promise<{ text: string; bytes: number }> => {
    const response = await store.call('GET', `/api/print?item=plate${more}`);
    const bytes = new Uint8Array(await response.arrayBuffer());
    expect(response.headers.get('Content-Type')).toBe('application/pdf');
    const reading = await readFile(bytes, 'plate.pdf');
    return { text: reading.text ?? '', bytes: bytes.length };
  };
  const plain = await print();
  expect(plain.text).toContain('Deburr all edges');
  expect(plain.text).not.toContain('chamfer');
  const marked = await print('&marks=true');
  expect(marked.text).toContain('chamfer 1 here');
  expect(marked.text).toContain('Is 0.5 not enough?');
  await expect(print('&scale=900')).rejects.toThrow(/does not fit A0/);
});

it('takes nothing that could not be drawn again, and gives back what it took', async () => {
  const coordinate = fc.double({ min: -1e9, max: 1e9, noNaN: true });
  await fc.assert(
    fc.asyncProperty(
      fc.array(fc.tuple(coordinate, coordinate), { minLength: 2, maxLength: 30 }),
      fc.string({ unit: 'binary', maxLength: 80 }),
      async (spots, words) => {
        const made = await draw({ kind: 'pen', spots, words }).catch((error: unknown) => String(error));
        if (typeof made === 'string') {
          // Signs that a database cannot hold, or that would turn the line around.
          expect(made).toMatch(/words/);
          return;
        }
        const row = (await marksOf()).rows.find(({ id }) => id === made.id);
        expect(row?.spots).toEqual(spots.map(([x, y]) => [x + 0, y + 0]));
        expect(row?.words).toBe(words.trim());
      },
    ),
    { numRuns: 40 },
  );
  for (const [wrong, says] of [
    [{ spots: [[1, 2]] }, /box has 2 spots/],
    [{ kind: 'pin', spots: [[1, 2, 3]] }, /two/],
    [{ kind: 'pin', sheet: 'model', spots: [[1, 2]] }, /three/],
    [{ kind: 'text', spots: [[1, 2]], words: '  ' }, /says something/],
    [{ kind: 'star' }, /kind/],
  ] as const)
    await expect(draw(wrong as Partial<NewMarkRequest>), JSON.stringify(wrong)).rejects.toThrow(says);
});
