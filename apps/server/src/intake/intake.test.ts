import type { CompareAnswer, FindAnswer, ItemView } from '@stem-trace/contract';
import { annotateStepPart, writeStepAssembly } from '@stem-trace/formats';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { stepFile } from '../../../../packages/formats/src/testing/step-sets.js';
import { readExchangeFile } from '../../../../packages/formats/src/testing/exchange-files.js';
import { TestStore, type Files } from '../testing/test-store.js';

const CUBE = readExchangeFile('../cube-fcstd/cube.step');
const part = (id: string, description = ''): Uint8Array =>
  annotateStepPart(CUBE, {
    id,
    name: `Name of ${id}`,
    description,
    version: '',
    source: 'made',
    properties: [{ name: 'material', kind: 'text', text: 'Bronze CuSn8' }],
    fileName: id,
    time: '',
  });
const assembly = (id: string, children: readonly string[], x = 0): Uint8Array =>
  writeStepAssembly({
    id,
    name: id,
    fileName: id,
    time: '',
    children: children.map((child) => ({ id: child, name: child, locator: `${child}.stp` })),
    uses: children.map((child, index) => ({
      child: index,
      name: child,
      placement: [1, 0, 0, x + index * 10, 0, 1, 0, 0, 0, 0, 1, 0],
    })),
  });
const files = (entries: Readonly<Record<string, Uint8Array>>): Files =>
  new Map(Object.entries(entries).map(([name, bytes]) => [`${name}.stp`, bytes]));

let store: TestStore;
beforeAll(async () => {
  store = await TestStore.open();
});
afterAll(() => store.close());

const view = (item: string): Promise<ItemView> =>
  store.json('GET', `/api/item?item=${encodeURIComponent(item)}`);

describe('coming in again', () => {
  it('makes new versions of just what changed, with one comment; what refers to it is behind', async () => {
    await store.intake(files({ TOP: assembly('TOP', ['P', 'Q']), P: part('P'), Q: part('Q') }), {
      comment: 'first',
    });
    const again = await store.intake(
      files({ TOP: assembly('TOP', ['P', 'Q']), P: part('P', 'thicker'), Q: part('Q') }),
      { comment: 'P is thicker' },
    );
    expect(again).toMatchObject({ items: 0, versions: 1, links: 0 });
    expect((await view('P')).versions.map(({ version, comment }) => [version, comment])).toEqual([
      ['A/2', 'P is thicker'],
      ['A/1', 'first'],
    ]);
    expect((await view('TOP')).versions).toHaveLength(1);

    const recorded = await store.made('TOP');
    expect(recorded.rows.map((row) => [row.number, row.version, row.behind])).toEqual([
      ['P', 'A/1', 1],
      ['Q', 'A/1', 0],
    ]);
    expect((await store.made('TOP', '&lens=newest')).rows.map((row) => row.version)).toEqual(['A/2', 'A/1']);
    expect(await store.intake(files({ P: part('P', 'thicker') }))).toMatchObject({ versions: 0 });
  });

  it('of an assembly alone finds its parts in the store, and compares as moved and removed', async () => {
    const result = await store.intake(files({ TOP: assembly('TOP', ['P'], 5) }), { comment: 'Q left out' });
    expect(result).toMatchObject({ items: 0, versions: 1, gaps: [] });
    const answer = await store.json<CompareAnswer>('GET', '/api/compare?from=TOP@A/1&to=TOP@A/2');
    expect(answer.sentence).toBe('TOP from A/1 to A/2: 1 removed, 1 moved.');
    expect(answer.rows[0]).toMatchObject({
      sign: 'moved',
      // What is not among the files was seen in the version that it was recorded in before.
      differs: { version: false, quantity: false, placement: true },
    });
    expect((await store.json<CompareAnswer>('GET', '/api/compare?from=TOP@A/2&to=TOP@A/1')).sentence).toBe(
      'TOP from A/2 to A/1: 1 added, 1 moved.',
    );
  });

  it('opens the next revision where the newest is released', async () => {
    await store.database.query(
      `UPDATE revision SET state = 'released' WHERE item_id = (SELECT id FROM item WHERE number = 'Q')`,
    );
    await store.intake(files({ Q: part('Q', 'new alloy') }));
    expect((await view('Q')).versions.map(({ version, state }) => [version, state])).toEqual([
      ['B/1', 'draft'],
      ['A/1', 'released'],
    ]);
    expect(
      (await store.made('TOP@A/1', '&lens=released')).rows.map((row) => [row.number, row.version]),
    ).toEqual([
      ['P', null],
      ['Q', 'A/1'],
    ]);
  });
});

describe('gaps', () => {
  it('stay visible until the missing file comes in', async () => {
    const result = await store.intake(files({ G: assembly('G', ['LATE']) }), { place: '/gap' });
    expect(result.gaps).toEqual([{ file: 'G.stp', locator: 'LATE.stp' }]);
    expect((await store.made('G')).rows).toMatchObject([
      { number: 'LATE', gap: true, version: null, kind: null },
    ]);
    const fetched = await store.fetch('G');
    expect(fetched.manifest.left).toEqual([
      { file: 'G.stp', reason: "'LATE.stp' is a gap: LATE is not in the store" },
    ]);
    expect(await store.intake(files({ LATE: part('LATE') }), { place: '/gap' })).toMatchObject({ filled: 1 });
    expect((await store.made('G')).rows).toMatchObject([{ number: 'LATE', gap: false, version: 'A/1' }]);
  });
});

describe('the review', () => {
  it('lets numbers and names be corrected and rows be left out; what is fetched says the corrected number', async () => {
    const review = await store.review(
      files({ R1: assembly('R1', ['R2', 'R3']), R2: part('R2'), R3: part('R3') }),
      { place: '/review' },
    );
    const [r1, r2, r3] = review.rows.map((row) => row.key);
    await store.call('PATCH', `/api/intakes/${review.id}`, {
      corrections: { [r1 ?? '']: { number: 'N-100', name: 'Frame' }, [r3 ?? '']: { leaveOut: true } },
    });
    const done = await store.carryOut(review.id);
    expect(done.result).toMatchObject({ items: 2, gaps: [{ file: 'R1.stp', locator: 'R3.stp' }] });
    expect(r2).toBeDefined();
    const { files: fetched } = await store.fetch('N-100');
    expect(new TextDecoder().decode(fetched.get('R1.stp'))).toContain("PRODUCT('N-100','Frame'");
  });

  it('is closed once carried out, and belongs to who began it', async () => {
    const review = await store.review(files({ ONCE: part('ONCE') }));
    await store.carryOut(review.id);
    await expect(
      store.call('PUT', `/api/intakes/${review.id}/files?path=x.stp`, part('X')),
    ).rejects.toMatchObject({ problem: { code: 'INTAKE_CLOSED' } });
    expect((await store.carryOut(review.id)).result).toMatchObject({ items: 1 });
    const other = await store.tokenFor('bob', 'engineer');
    await expect(
      store.call('GET', `/api/intakes/${review.id}`, undefined, { Authorization: `Bearer ${other}` }),
    ).rejects.toMatchObject({ status: 404 });
  });
});

describe('bad input', () => {
  it('is refused file by file; the rest comes in', async () => {
    const whole = assembly('CUT', ['P']);
    const result = await store.intake(
      new Map([
        ['cut.stp', whole.subarray(0, whole.length - 40)],
        ['text.stp', new TextEncoder().encode('hello')],
        ['Thumbs.db', new TextEncoder().encode('hello')],
        ['loop-a.stp', assembly('LOOP-A', ['loop-b'])],
        ['loop-b.stp', assembly('LOOP-B', ['loop-a'])],
        ['good.stp', part('GOOD')],
      ]),
      { place: '/bad' },
    );
    expect(result).toMatchObject({ files: 5, items: 1, passedOver: [{ file: 'Thumbs.db' }] });
    expect(result.problems.map(({ file, line, reason }) => `${file}:${line} ${reason}`)).toEqual([
      expect.stringMatching(/^cut\.stp:\d+ /) as string,
      "text.stp:1 not a STEP file: it does not begin with 'ISO-10303-21;'",
      'loop-a.stp:0 contains itself: LOOP-A › LOOP-B › LOOP-A',
      'loop-b.stp:0 contains itself: LOOP-A › LOOP-B › LOOP-A',
    ]);
  });

  it('that would close a circle through the store changes nothing', async () => {
    await store.intake(files({ UP: assembly('UP', ['DOWN']), DOWN: part('DOWN') }), { place: '/circle' });
    const review = await store.review(files({ DOWN: assembly('DOWN', ['UP']) }), { place: '/circle' });
    const done = await store.carryOut(review.id);
    expect(done).toMatchObject({
      state: 'failed',
      failure: expect.stringMatching(/DOWN.*would contain itself/) as string,
    });
    expect((await view('DOWN')).versions).toHaveLength(1);
  });

  it.each(['../up.stp', '/abs.stp', 'a/../b.stp', 'C:/x.stp', 'a\u0000b.stp', '', `${'x/'.repeat(40)}y.stp`])(
    'never takes the path %j',
    async (path) => {
      const review = await store.review(new Map());
      await expect(
        store.call('PUT', `/api/intakes/${review.id}/files?path=${encodeURIComponent(path)}`, part('X')),
      ).rejects.toMatchObject({ status: 400, problem: { code: 'INPUT_INVALID' } });
    },
  );
});

describe('find', () => {
  it('needs every word in number, name or properties; an exact number comes first', async () => {
    await store.intake(
      files({
        'ZZ-1': part('ZZ-1', 'long lever'),
        'AA-ZZ-1': part('AA-ZZ-1', 'short lever'),
        'P_%': part('P_%'),
      }),
      { place: '/find' },
    );
    const find = async (words: string): Promise<string[]> =>
      (await store.json<FindAnswer>('GET', `/api/items?words=${encodeURIComponent(words)}`)).rows.map(
        (row) => row.number,
      );
    expect(await find('zz-1')).toEqual(['ZZ-1', 'AA-ZZ-1']);
    expect(await find('lever SHORT')).toEqual(['AA-ZZ-1']);
    expect(await find('bronze lever long')).toEqual(['ZZ-1']);
    expect(await find('_%')).toEqual(['P_%']);
    expect(await find('lever nothing')).toEqual([]);
  });
});

it('a version never changes, whoever asks the database', async () => {
  const owner = await store.owner();
  await expect(owner.query(`UPDATE version SET comment = 'other'`)).rejects.toThrow(/never changes/);
  await expect(owner.query('DELETE FROM version')).rejects.toThrow(/never changes|violates/);
  await expect(owner.query('UPDATE link SET quantity = 9 WHERE target_item_id IS NOT NULL')).rejects.toThrow(
    /never changes/,
  );
});

describe('a folder that comes in again and again', () => {
  it('records the version of a child that came with it, though only the parent changed', async () => {
    const parent = (name: string): Uint8Array =>
      stepFile({ id: 'AG-TOP', name, uses: [{ id: 'AG-PART', locator: 'ag-part.stp' }] });
    const bring = (top: string, part: string): Promise<unknown> =>
      store.intake(
        new Map([
          ['ag-top.stp', parent(top)],
          ['ag-part.stp', stepFile({ id: 'AG-PART', name: part })],
        ]),
        { place: '/again' },
      );
    await bring('Top', 'Part');
    await store.call('POST', '/api/holds', { items: ['AG-TOP', 'AG-PART'], reason: '' });
    await bring('Top', 'Part, longer');
    await store.call('POST', '/api/holds', { items: ['AG-TOP'], reason: '' }).catch(() => undefined);
    await bring('Top, wider', 'Part, longer');
    const { rows } = await store.made('AG-TOP', '&lens=recorded');
    expect(rows.map(({ number, version }) => [number, version])).toEqual([['AG-PART', 'A/2']]);
    const { manifest } = await store.fetch('AG-TOP');
    expect(manifest.files.flatMap(({ items }) => items)).toContainEqual({
      number: 'AG-PART',
      version: 'A/2',
    });
  });
});
