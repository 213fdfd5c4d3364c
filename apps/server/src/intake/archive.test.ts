/** Archives: folders and working copies that come as one ZIP, and those that mean harm. */
import type { IntakeSheetRow, IntakeView, ItemView } from '@stem-trace/contract';
import { strToU8, zipSync, type Zippable } from 'fflate';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { readExchangeSet } from '../../../../packages/formats/src/testing/exchange-files.js';
import { TestStore } from '../testing/test-store.js';

let store: TestStore;
beforeAll(async () => {
  store = await TestStore.open();
});
afterAll(() => store.close());

async function send(archive: Uint8Array, query = 'place=/zip'): Promise<IntakeView> {
  const response = await store.call('POST', `/api/intakes/archive?${query}`, archive);
  let view = (await response.json()) as IntakeView;
  while (view.state === 'unpacking') {
    await new Promise((done) => setTimeout(done, 20));
    view = await store.json<IntakeView>('GET', `/api/intakes/${view.id}`);
  }
  return view;
}

const filesOnSheet = async (id: string): Promise<number> => {
  const [row]: { files: number }[] = await store.database.query(
    'SELECT count(*)::int AS files FROM intake_file WHERE intake_id = $1',
    [id],
  );
  return row?.files ?? 0;
};

const ship = (): Zippable => Object.fromEntries(readExchangeSet('s1_pe_214'));

/** Writes another name over one of the same length, in the entry and in the directory. */
function renamedInside(archive: Uint8Array, from: string, to: string): Uint8Array {
  return Uint8Array.from(Buffer.from(Buffer.from(archive).toString('latin1').replaceAll(from, to), 'latin1'));
}

describe('an archive', () => {
  it('comes in as the folder that it holds', async () => {
    const view = await send(zipSync({ ship: ship() }), 'place=/zip&prefix=Z-');
    expect(view).toMatchObject({ state: 'collecting', workingCopy: null });
    const done = await store.carryOut(view.id);
    expect(done.result).toMatchObject({ files: 13, items: 13, links: 12, gaps: [], problems: [] });
    expect((await store.json<ItemView>('GET', '/api/item?item=Z-TAIL_ASM')).place).toBe('/zip/ship');
  });

  it('that is a working copy is a check-in of what changed', async () => {
    await store.intake(readExchangeSet('s1_pe_214'), { place: '/plane' });
    await store.json('POST', '/api/holds', { items: ['TAIL_ASM'], reason: '' });
    const response = await store.call('GET', '/api/fetch?item=TAIL_ASM');
    const { unzipSync } = await import('fflate');
    const entries = unzipSync(new Uint8Array(await response.arrayBuffer()));
    const path = Object.keys(entries).find((name) => /tail_asm/i.test(name)) ?? '';
    entries[path] = strToU8(
      Buffer.from(entries[path] ?? [])
        .toString('latin1')
        .replace('/* ', '/*  ')
        .replace('DATA;', 'DATA; '),
    );
    const view = await send(zipSync(entries));
    expect(view.workingCopy?.item).toBe('TAIL_ASM');
    expect(view.rows.map(({ path: row, status }) => [row, status])).toEqual([[path, 'new version']]);
    await store.carryOut(view.id, 'Blanks');
    expect((await store.json<ItemView>('GET', '/api/item?item=TAIL_ASM')).version).toBe('A/2');
  });
});

describe('an archive that means harm', () => {
  const plain = zipSync({ 'aaaa/bb.stp': strToU8('x') });
  const encrypted = Uint8Array.from(plain);
  // General purpose bit 0 of the local header and of the directory entry (APPNOTE 4.4.4).
  encrypted[6] = 1;
  const directory = Buffer.from(encrypted).indexOf(Uint8Array.of(0x50, 0x4b, 1, 2));
  encrypted[directory + 8] = 1;
  const lying = Uint8Array.from(zipSync({ 'a.stp': new Uint8Array(5000) }));
  const entry = Buffer.from(lying).indexOf(Uint8Array.of(0x50, 0x4b, 1, 2));
  // Says that it unpacks to 10 bytes.
  new DataView(lying.buffer).setUint32(entry + 24, 10, true);

  it.each<readonly [string, Uint8Array, RegExp]>([
    ['climbs out', renamedInside(plain, 'aaaa/bb.stp', '../../b.stp'), /invalid relative path|not a path/],
    ['begins at the root', renamedInside(plain, 'aaaa/bb.stp', '/aaa/bb.stp'), /absolute path|not a path/],
    ['names a drive', renamedInside(plain, 'aaaa/bb.stp', 'C:aa/bb.stp'), /absolute path|not a path/],
    [
      'climbs out with backslashes',
      renamedInside(plain, 'aaaa/bb.stp', '..\\a/bb.stp'),
      /invalid relative path|not a path/i,
    ],
    ['is encrypted', encrypted, /encrypted/],
    [
      'is a link',
      zipSync({ 'a.stp': [strToU8('/etc/passwd'), { os: 3, attrs: (0o120777 << 16) >>> 0 }] }),
      /a link, not a file/,
    ],
    ['is a bomb', zipSync({ 'a.stp': new Uint8Array(60_000_000) }), /more than 500 times/],
    ['lies about its size', lying, /too many bytes|size|cannot be unpacked/],
    [
      'names a file twice',
      renamedInside(zipSync({ 'a/B.stp': strToU8('1'), 'a/b.stp': strToU8('2') }), 'a/B.stp', 'a/b.stp'),
      /in it twice/,
    ],
    ['is cut off', zipSync(ship()).subarray(0, 20_000), /cannot be opened|end of central/i],
    ['is no archive', strToU8('hello'), /cannot be opened|end of central/i],
    [
      'has a false manifest',
      zipSync({ 'stem-trace.json': strToU8('{"format":"stem-trace working copy"}'), 'a.stp': strToU8('x') }),
      /not a working copy/,
    ],
  ])('is refused where it %s, and nothing of it is kept', async (_, archive, reason) => {
    const view = await send(archive);
    expect([view.state, view.failure]).toEqual(['failed', expect.stringMatching(reason) as string]);
    expect(view.failure).toMatch(/Nothing of it was kept/);
    expect(await filesOnSheet(view.id)).toBe(0);
  });
});

describe('sheets', () => {
  it('that are not done with are listed, and gone once given up', async () => {
    const sheets = (): Promise<IntakeSheetRow[]> => store.json('GET', '/api/intakes');
    const review = await store.review(new Map([['a.txt', strToU8('a')]]), { place: '/left' });
    expect((await sheets())[0]).toMatchObject({
      id: review.id,
      place: '/left',
      state: 'collecting',
      files: 1,
    });
    const cancelled = await store.json<IntakeView>('POST', `/api/intakes/${review.id}/cancel`);
    expect(cancelled.state).toBe('cancelled');
    expect((await sheets()).map(({ id }) => id)).not.toContain(review.id);
    expect(await filesOnSheet(review.id)).toBe(0);
    await expect(store.carryOut(review.id)).resolves.toMatchObject({ state: 'cancelled' });
  });

  it('stop with nothing written where that is asked for in the midst, and can be carried out again', async () => {
    const review = await store.review(readExchangeSet('s1-c5-214'), { place: '/stopped' });
    // Asked for as soon as somebody does it, so that the first look at it comes in time.
    const owner = await store.owner();
    await owner.query(
      `CREATE FUNCTION ask() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN NEW.cancel_asked := true; RETURN NEW; END $$;
       CREATE TRIGGER ask BEFORE INSERT ON job_progress FOR EACH ROW EXECUTE FUNCTION ask()`,
    );
    const stopped = await store.carryOut(review.id);
    await owner.query('DROP TRIGGER ask ON job_progress; DROP FUNCTION ask');
    expect(stopped).toMatchObject({ state: 'collecting', failure: null });
    const [row]: { items: number }[] = await store.database.query(
      `SELECT count(*)::int AS items FROM item i JOIN place p ON p.id = i.place_id WHERE p.path LIKE '/stopped%'`,
    );
    expect(row?.items).toBe(0);
    expect((await store.carryOut(review.id)).state).toBe('done');
  });

  it('go on after the server was stopped', async () => {
    const review = await store.review(new Map([['later.txt', strToU8('later')]]), { place: '/restart' });
    await store.database.query(`UPDATE intake SET state = 'carrying out' WHERE id = $1`, [review.id]);
    const { IntakeRunner } = await import('./intake-runner.js');
    await store.server.app.get(IntakeRunner).onApplicationBootstrap();
    let view = await store.json<IntakeView>('GET', `/api/intakes/${review.id}`);
    while (view.state === 'carrying out') view = await store.json('GET', `/api/intakes/${review.id}`);
    expect(view).toMatchObject({ state: 'done', result: { items: 1 } });
  });

  it('keep every correction of a row, whichever came first', async () => {
    const review = await store.review(new Map([['b.txt', strToU8('b')]]), { place: '/both' });
    const path = `/api/intakes/${review.id}`;
    await store.json('PATCH', path, { corrections: { 'b.txt#0': { number: 'N-1' } } });
    const view = await store.json<IntakeView>('PATCH', path, { corrections: { 'b.txt#0': { name: 'Bee' } } });
    expect(view.rows[0]).toMatchObject({ number: 'N-1', name: 'Bee' });
  });

  it('takes names apart that only differ in capitals, backslashes as slashes, and a manifest of others as a file', async () => {
    const view = await send(
      renamedInside(
        zipSync({
          'a/B.stp': strToU8('1'),
          'a/b.stp': strToU8('2'),
          'cccc/d.txt': strToU8('3'),
          'stem-trace.json': strToU8('{"format":"x"}'),
        }),
        'cccc/d.txt',
        'cc\\c/d.txt',
      ),
    );
    expect(view.failure).toBeNull();
    expect(view.rows.map(({ path }) => path)).toEqual(
      expect.arrayContaining(['cc/c/d.txt', 'stem-trace.json']),
    );
    expect(await filesOnSheet(view.id)).toBe(4);
  });
});
