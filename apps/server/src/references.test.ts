/** What references promise: each of these once went wrong. */
import { SHIPPED } from '@stem-trace/core';
import type {
  AuditAnswer,
  CustodyAnswer,
  FetchManifest,
  FindAnswer,
  IntakeView,
  ItemView,
  VerifyAnswer,
} from '@stem-trace/contract';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { dxf } from '../../../packages/formats/src/testing/dxf.js';
import {
  LOCATOR_STYLES,
  stepFile,
  type StepSetFile,
} from '../../../packages/formats/src/testing/step-sets.js';
import { everyNameHasAFile } from './testing/case-sensitive-disk.js';
import { Refused, TestStore, type Files } from './testing/test-store.js';

let store: TestStore;

beforeAll(async () => {
  store = await TestStore.open();
});

afterAll(() => store.close());

const set = (files: Readonly<Record<string, StepSetFile | Uint8Array>>): Files =>
  new Map(
    Object.entries(files).map(([path, file]) => [
      path,
      file instanceof Uint8Array ? file : stepFile({ fileName: path.split('/').at(-1) ?? '', ...file }),
    ]),
  );
const changed = (file: StepSetFile, what = 'again'): Uint8Array =>
  stepFile({ ...file, more: `/* ${what} */\n` });
const text = (bytes: Uint8Array | undefined): string => new TextDecoder().decode(bytes);
const view = (item: string): Promise<ItemView> =>
  store.json('GET', `/api/item?item=${encodeURIComponent(item)}`);
const rowsOf = async (item: string, query = ''): Promise<string[]> =>
  (await store.made(item, query)).rows.map(
    (row) => `${row.number}@${row.version ?? 'gap'}${row.quantity === 1 ? '' : ` ×${row.quantity}`}`,
  );
const hold = (...items: string[]): Promise<CustodyAnswer> =>
  store.json('POST', '/api/holds', { items, reason: '' });

const everyNameIn = ({ files }: { files: Files }): Promise<void> => everyNameHasAFile(files);

async function verify(): Promise<VerifyAnswer> {
  const admin = { Authorization: `Bearer ${await store.tokenFor('root', 'administrator')}` };
  return (await (await store.call('GET', '/api/verify', undefined, admin)).json()) as VerifyAnswer;
}

/** A check-in of a fetched tree, with some files replaced or added. */
async function checkIn(
  { files, manifest }: { files: Files; manifest: FetchManifest },
  changes: Readonly<Record<string, Uint8Array>>,
  overwrite: readonly string[] = [],
): Promise<IntakeView> {
  const sheet = await store.json<IntakeView>('POST', '/api/intakes', { place: '/', manifest });
  for (const [path, bytes] of [...files, ...Object.entries(changes)])
    if (path in changes || overwrite.length > 0)
      await store.call(
        'PUT',
        `/api/intakes/${sheet.id}/files?path=${encodeURIComponent(path)}`,
        changes[path] ?? bytes,
      );
  if (overwrite.length > 0)
    await store.json('PATCH', `/api/intakes/${sheet.id}`, { corrections: {}, overwrite });
  return store.carryOut(sheet.id);
}

describe.each(LOCATOR_STYLES)('a set whose names are said by way of: %s', (style) => {
  const name = style.replaceAll(' ', '');
  const uses = [
    { id: `${name}-P`, locator: 'parts/Plate left.stp', count: 2 },
    { id: `${name}-S`, uses: [{ id: `${name}-Q`, locator: 'parts/q.stp', count: 3 }] },
  ];
  const place = `/styles/${name}`;

  it('comes in, derives and proves right, and has no name without a file', async () => {
    const files = set({
      'top.stp': { id: `${name}-T`, style, uses },
      'parts/Plate left.stp': { id: `${name}-P` },
      'parts/q.stp': { id: `${name}-Q` },
    });
    expect(await store.intake(files, { place })).toMatchObject({ items: 4, gaps: [], problems: [] });
    const variant = await store.derive({
      item: `${name}-T`,
      copy: 'all',
      prefix: 'V-',
      place: `${place}/variant`,
    });
    expect(variant.proof).toMatchObject({ dangling: 0, leaking: 0, references: 3 });
    const fetched = await store.fetch(`V-${name}-T`);
    expect(fetched.files.size).toBe(3);
    await everyNameIn(fetched);
    const shared = await store.derive({
      item: `${name}-T`,
      copy: 'none',
      prefix: 'W-',
      place: `${place}/other`,
    });
    expect(shared.proof).toMatchObject({ dangling: 0, leaking: 0, shared: 2 });
    await everyNameIn(await store.fetch(`W-${name}-T`));
  });

  it('has a gap where a file is missing or cut', async () => {
    const lost = [{ id: `${name}-lost`, locator: 'parts/Plate left.stp' }];
    const cut = stepFile({ id: 'x' }).subarray(0, 200);
    const files = set({ 'top.stp': { id: `${name}-G`, style, uses: lost }, 'parts/Plate left.stp': cut });
    const result = await store.intake(files, { place: `${place}/gaps` });
    expect(result.gaps).toEqual([{ file: 'top.stp', locator: 'parts/Plate left.stp' }]);
  });
});

describe('names', () => {
  it('of files are not changed because a part is called alike', async () => {
    const uses = [
      { id: 'NM-1', name: 'PLATE', locator: 'plate.stp' },
      { id: 'NM-2', name: 'Cover', locator: 'plate cover.stp' },
    ];
    await store.intake(
      set({
        'nm.stp': { id: 'NM', uses },
        'plate.stp': { id: 'NM-1', name: 'PLATE' },
        'plate cover.stp': { id: 'NM-2', name: 'Cover' },
      }),
      { place: '/nm' },
    );
    const variant = await store.derive({
      item: 'NM',
      alsoCopy: ['NM-1'],
      copy: 'none',
      prefix: 'V-',
      replace: [{ from: 'PLATE', to: 'BOARD' }],
    });
    expect(variant.proof).toMatchObject({ dangling: 0, leaking: 0 });
    const fetched = await store.fetch('V-NM');
    expect([...fetched.files.keys()].sort()).toEqual(['V-NM-1.stp', 'V-NM.stp', 'plate cover.stp']);
    await everyNameIn(fetched);
  });

  it('that differ in capitals only, in one folder, stay two', async () => {
    const uses = [
      { id: 'cap-p', locator: 'p.stp' },
      { id: 'CAP-P2', locator: 'P.stp' },
    ];
    const files = set({
      'cap.stp': { id: 'CAP', uses },
      'p.stp': { id: 'cap-p' },
      'P.stp': { id: 'CAP-P2' },
    });
    expect(await store.intake(files, { place: '/cap' })).toMatchObject({ items: 3, gaps: [], problems: [] });
    const fetched = await store.fetch('CAP');
    expect(fetched.files.size).toBe(3);
    await everyNameIn(fetched);
  });

  it('that some system could not hold are encoded at the door, and come out', async () => {
    const names = [
      'leaf:1.stp',
      'a\\b.stp',
      'tab\there.stp',
      'con.stp',
      'end. /x.stp',
      'stem-trace.json/y.stp',
      'Plate%20left.stp',
      'nfd-e\u0301.stp',
    ];
    const uses = names.map((locator, at) => ({ id: `ODD-${at}`, locator }));
    const files = set({
      'odd.stp': { id: 'ODD', uses, style: 'document file' },
      ...Object.fromEntries(names.map((path, at) => [path, { id: `ODD-${at}` }])),
      'stem-trace.json ': { id: 'ODD-LAST' },
    });
    const result = await store.intake(files, { place: '/odd' });
    expect(result).toMatchObject({ items: names.length + 2, gaps: [], problems: [] });
    const fetched = await store.fetch('ODD');
    expect(fetched.files.size).toBe(names.length + 1);
    await everyNameIn(fetched);
    expect((await store.derive({ item: 'ODD', copy: 'all', prefix: 'V-' })).proof).toMatchObject({
      dangling: 0,
      leaking: 0,
    });
  });

  it('of a file and of a place may be the same', async () => {
    const uses = [
      { id: 'SAME-P', locator: 'x.stp/p.stp' },
      { id: 'SAME-X', locator: 'x.stp' },
    ];
    await store.intake(
      set({ 'same.stp': { id: 'SAME', uses: uses.slice(0, 1) }, 'x.stp/p.stp': { id: 'SAME-P' } }),
      { place: '/same' },
    );
    await store.intake(set({ 'x.stp': { id: 'SAME-X' }, 'same.stp': { id: 'SAME', uses } }), {
      place: '/same',
    });
    const fetched = await store.fetch('SAME');
    expect([...fetched.files.keys()].sort()).toEqual(['same.stp', 'x-2.stp', 'x.stp/p.stp']);
    await everyNameIn(fetched);
  });

  it('may have two hundred characters', async () => {
    const number = 'L'.repeat(200);
    expect(await store.intake(set({ 'long.stp': { id: number } }), { place: '/long' })).toMatchObject({
      items: 1,
      problems: [],
    });
    expect((await view(number)).number).toBe(number);
  });
});

describe('what a locator means', () => {
  const uses = [
    { id: 'LEAF', locator: 'left/leaf.stp' },
    { id: 'LEAF', locator: 'right/leaf.stp' },
    { id: 'LEAF', locator: 'leaf.stp' },
  ];
  const targets = async (): Promise<string[]> => (await rowsOf('LT')).sort();

  it('is told apart by its folder, though all files call themselves the same', async () => {
    const leaf = (what: string): Uint8Array => changed({ id: 'LEAF' }, what);
    const result = await store.intake(
      set({
        't.stp': { id: 'LT', uses },
        'left/leaf.stp': leaf('l'),
        'right/leaf.stp': leaf('r'),
        'leaf.stp': leaf('m'),
      }),
      { place: '/leaves' },
    );
    expect(result).toMatchObject({ items: 4, gaps: [], problems: [] });
    expect(new Set(await targets()).size).toBe(3);
    await everyNameIn(await store.fetch('LT'));
  });

  it('stays what it was when the assembly comes in alone, and is not caught by a stranger beside', async () => {
    const before = await targets();
    await store.intake(set({ 't.stp': changed({ id: 'LT', uses }) }), { place: '/leaves' });
    expect(await targets()).toEqual(before);
    await store.intake(
      set({
        'u.stp': { id: 'LU', uses: [{ id: 'SUBP', locator: 'sub/p9.stp' }] },
        'sub/p9.stp': { id: 'SUBP' },
      }),
      { place: '/strange' },
    );
    await store.intake(set({ 'p9.stp': { id: 'STRANGER' } }), { place: '/strange' });
    await store.intake(
      set({ 'u.stp': changed({ id: 'LU', uses: [{ id: 'SUBP', locator: 'sub/p9.stp' }] }) }),
      { place: '/strange' },
    );
    expect(await rowsOf('LU')).toEqual(['SUBP@A/1']);
  });

  it('can be corrected where it was guessed, and the correction lasts', async () => {
    await store.intake(set({ 'one.stp': { id: 'COR-1' }, 'two.stp': { id: 'COR-2' } }), { place: '/cor' });
    const file = { id: 'COR', uses: [{ id: 'COR-1', locator: 'C:\\elsewhere\\gone.stp' }] };
    const review = await store.review(set({ 'c.stp': file }), { place: '/cor/top' });
    const [row] = review.rows;
    expect(row?.doubtful).toEqual([
      { locator: 'C:\\elsewhere\\gone.stp', number: 'COR-1', by: 'product id' },
    ]);
    expect(row?.notes.join()).toMatch(/was taken to mean COR-1 of the store, by its product id/);
    await store.json('PATCH', `/api/intakes/${review.id}`, {
      corrections: { [row?.key ?? '']: { references: { 'C:\\elsewhere\\gone.stp': 'COR-2' } } },
    });
    await store.carryOut(review.id);
    expect(await rowsOf('COR')).toEqual(['COR-2@A/1']);
    await store.intake(set({ 'c.stp': changed(file) }), { place: '/cor/top' });
    expect(await rowsOf('COR')).toEqual(['COR-2@A/1']);
  });

  it.each([
    ['an absolute path', 'C:\\work\\h1.stp', 'h1', ''],
    ['a path, though the assembly was moved meanwhile', 'sub/h2.stp', 'h2', 'sub/'],
  ])('is found when the file comes later: %s', async (_, locator, id, folder) => {
    const file = { id: `HT-${id}`, uses: [{ id, locator }] };
    await store.intake(set({ 'ht.stp': file }), { place: `/heal/${id}` });
    await store
      .json('POST', '/api/items/move', { items: [`HT-${id}`], place: `/moved/${id}` })
      .catch(() => undefined);
    const result = await store.intake(set({ [`${folder}${id}.stp`]: { id } }), { place: `/heal/${id}` });
    expect(result).toMatchObject({ filled: 1, gaps: [] });
    expect(await rowsOf(`HT-${id}`)).toEqual([`${id}@A/1`]);
  });

  it('is healed when the assembly comes in again as it is', async () => {
    const file = { id: 'AGAIN', uses: [{ id: 'unlike', locator: 'z/again-p.stp' }] };
    await store.intake(set({ 'again.stp': file }), { place: '/again' });
    await store.intake(set({ 'again-p.stp': { id: 'AGAIN-P' } }), { place: '/elsewhere/z' });
    expect(await rowsOf('AGAIN')).toEqual(['unlike@gap']);
    const result = await store.intake(set({ 'again.stp': file, 'z/again-p.stp': { id: 'AGAIN-P2' } }), {
      place: '/again',
    });
    expect(result).toMatchObject({ gaps: [], filled: 1 });
    expect(await rowsOf('AGAIN')).toEqual(['AGAIN-P2@A/1']);
  });

  it('is said and kept where it belongs to no product', async () => {
    const files = set({
      'n.stp': { id: 'NONE', more: "#90001=NOBODY_KNOWS((1.),('x','data/curve.stp'));\n" },
      'data/curve.stp': { id: 'CURVE' },
    });
    const review = await store.review(files, { place: '/none' });
    expect(review.rows.find(({ number }) => number === 'NONE')?.notes.join()).toMatch(
      /names 'data\/curve.stp', which belongs to no product/,
    );
    await store.carryOut(review.id);
    expect(await rowsOf('NONE')).toEqual(['CURVE@A/1']);
    expect([...(await store.fetch('NONE')).files.keys()].sort()).toEqual(['data/curve.stp', 'n.stp']);
    const variant = await store.derive({ item: 'NONE', copy: 'all', prefix: 'V-' });
    expect(variant.proof).toMatchObject({ dangling: 0, leaking: 0 });
    await everyNameIn(await store.fetch('V-NONE'));
  });
});

describe('an identity', () => {
  it('is not taken by a file saved under another name in a working copy', async () => {
    const uses = [{ id: 'SA-P', locator: 'sap.stp' }];
    await store.intake(set({ 'sa.stp': { id: 'SA', uses }, 'sap.stp': { id: 'SA-P' } }), { place: '/sa' });
    await hold('SA', 'SA-P');
    const fetched = await store.fetch('SA');
    const done = await checkIn(fetched, {
      'sap long.stp': changed({ id: 'SA-P' }),
      'sa.stp': stepFile({ id: 'SA', uses: [{ id: 'SA-P', locator: 'sap long.stp' }] }),
    });
    expect(done.result).toMatchObject({ items: 1, problems: [], refused: [] });
    expect((await view('SA-P')).version).toBe('A/1');
    expect(await rowsOf('SA')).toEqual(['sap long@A/1']);
  });

  it('is not taken by a product in a stranger’s file', async () => {
    await store.intake(
      set({
        'std.stp': { id: 'STD-1' },
        'user.stp': { id: 'STD-USER', uses: [{ id: 'STD-1', locator: 'std.stp' }] },
      }),
      { place: '/std' },
    );
    await store.database.query(
      `UPDATE revision SET state = 'released' WHERE item_id = (SELECT id FROM item WHERE number = 'STD-1')`,
    );
    const result = await store.intake(set({ 's.stp': { id: 'FOREIGN', uses: [{ id: 'STD-1' }] } }), {
      place: '/foreign',
    });
    expect(result).toMatchObject({ items: 2, problems: [] });
    expect((await view('STD-1')).versions.map(({ version }) => version)).toEqual(['A/1']);
    expect(await rowsOf('FOREIGN')).toEqual(['FOREIGN.STD-1@A/1']);
    expect((await store.fetch('STD-USER')).files.size).toBe(2);
  });

  it('is taken over only by choice of who holds it; what was before still comes out', async () => {
    const uses = [{ id: 'TK-S', locator: 'tks.stp' }];
    await store.intake(set({ 'tk.stp': { id: 'TK', uses }, 'tks.stp': { id: 'TK-S' } }), { place: '/tk' });
    const inside = set({ 'tk.stp': { id: 'TK', uses: [{ id: 'TK-S' }] } });
    const review = await store.review(inside, { place: '/tk' });
    const row = review.rows.find(({ number }) => number === 'TK-S');
    expect(row).toMatchObject({ status: 'refused', canOverwrite: true, takesOver: true });
    expect(row?.notes[0]).toMatch(
      /TK-S is already in the store \(A\/1, draft\), and differs by its file, \/tk\/tks.stp/,
    );
    expect(review.expected.versions).toBe(0);
    const choose = (): Promise<IntakeView> =>
      store.json('PATCH', `/api/intakes/${review.id}`, { corrections: {}, overwrite: [row?.key] });
    expect((await choose()).rows.find(({ number }) => number === 'TK-S')?.notes[0]).toMatch(
      /check it out first/,
    );
    await hold('TK-S');
    await choose();
    expect((await store.carryOut(review.id)).result).toMatchObject({ versions: 2 });
    expect(await rowsOf('TK')).toEqual(['TK-S@A/2']);
    expect([...(await store.fetch('TK@A/1')).files.keys()].sort()).toEqual(['tk.stp', 'tks.stp']);
    expect([...(await store.fetch('TK-S@A/1')).files.keys()]).toEqual(['tks.stp']);
  });

  it('gives no version while it is in check, by whatever door', async () => {
    await store.intake(set({ 'ic.stp': { id: 'IC', uses: [{ id: 'IC-IN' }] } }), { place: '/ic' });
    await store.database.query(
      `UPDATE revision SET state = 'in check' WHERE item_id = (SELECT id FROM item WHERE number = 'IC-IN')`,
    );
    const result = await store.intake(set({ 'ic.stp': changed({ id: 'IC', uses: [{ id: 'IC-IN' }] }) }), {
      place: '/ic',
    });
    expect(result.refused.map(({ reason }) => reason).join()).toMatch(/IC-IN lives in it: it is in check/);
    await hold('IC');
    await expect(store.json('POST', '/api/bring-back', { item: 'IC@A/1', comment: '' })).rejects.toThrow(
      /in check/,
    );
    expect((await view('IC')).versions).toHaveLength(1);
  });

  it('says before that what is released goes on in a new revision', async () => {
    await store.intake(set({ 'rl.stp': { id: 'RL' } }), { place: '/rl' });
    await store.database.query(
      `UPDATE revision SET state = 'released' WHERE item_id = (SELECT id FROM item WHERE number = 'RL')`,
    );
    const review = await store.review(set({ 'rl.stp': changed({ id: 'RL' }) }), { place: '/rl' });
    expect(review.rows[0]?.notes.join()).toMatch(/RL is released; this goes on in a new revision/);
  });
});

describe('a working copy', () => {
  const uses = [{ id: 'WC-P', locator: 'wcp.stp' }];

  it('records the version that it was made with, not the newest', async () => {
    await store.intake(set({ 'wc.stp': { id: 'WC', uses }, 'wcp.stp': { id: 'WC-P' } }), { place: '/wc' });
    await hold('WC');
    const fetched = await store.fetch('WC');
    await store.intake(set({ 'wcp.stp': changed({ id: 'WC-P' }) }), { place: '/wc' });
    expect((await checkIn(fetched, { 'wc.stp': changed({ id: 'WC', uses }) })).result).toMatchObject({
      versions: 1,
    });
    expect(await rowsOf('WC', '&lens=recorded')).toEqual(['WC-P@A/1']);
    expect((await store.made('WC', '&lens=recorded')).rows[0]?.behind).toBe(1);
    expect(await rowsOf('WC', '&lens=newest')).toEqual(['WC-P@A/2']);
  });

  it('of a variant under Released comes back linked to the copy, though that was a gap', async () => {
    await store.intake(
      set({ 'gv.stp': { id: 'GV', uses: [{ id: 'GV-P', locator: 'gvp.stp' }] }, 'gvp.stp': { id: 'GV-P' } }),
      { place: '/gv' },
    );
    await store.derive({ item: 'GV', copy: 'all', prefix: 'V-' });
    await hold('V-GV');
    const fetched = await store.fetch('V-GV@A/1', '&lens=released');
    expect([...fetched.files.keys()]).toEqual(['V-GV.stp']);
    expect(fetched.manifest.left[0]?.reason).toMatch(/V-GV-P has no version under this lens/);
    expect(text(fetched.files.get('V-GV.stp'))).not.toMatch(/'GV-P|gvp\.stp/);
    const bytes = new TextEncoder().encode(
      text(fetched.files.get('V-GV.stp')).replace('DATA;', 'DATA;/* again */'),
    );
    expect((await checkIn(fetched, { 'V-GV.stp': bytes })).result).toMatchObject({ versions: 1, gaps: [] });
    expect(await rowsOf('V-GV')).toEqual(['V-GV-P@A/1']);
  });
});

describe('a circle', () => {
  it('is not made by bringing back', async () => {
    const a = { id: 'CA', uses: [{ id: 'CB', locator: 'cb.stp' }] };
    await store.intake(set({ 'ca.stp': a, 'cb.stp': { id: 'CB' } }), { place: '/circle' });
    await store.intake(set({ 'ca.stp': { id: 'CA' } }), { place: '/circle' });
    expect((await view('CA')).kind).toBe('part');
    await store.intake(set({ 'cb.stp': { id: 'CB', uses: [{ id: 'CA', locator: 'ca.stp' }] } }), {
      place: '/circle',
    });
    await hold('CA');
    await expect(store.json('POST', '/api/bring-back', { item: 'CA@A/1', comment: '' })).rejects.toThrow(
      /CA would contain itself|CB would contain itself/,
    );
    expect((await verify()).faults).toEqual([]);
  });

  it('is not made by releasing', async () => {
    const checker = { Authorization: `Bearer ${await store.tokenFor('cora', 'administrator')}` };
    await store.call('POST', '/api/places', { path: '/rc' });
    // Nothing is released over what is not, unless a lifecycle says so; only then can a circle come of it.
    const steps = SHIPPED.steps.map((each) => ({ ...each, isOverUnreleased: true }));
    const scopes = [{ kind: null, class: null, place: '/rc' }];
    const draft = { id: '', diagram: { ...SHIPPED, name: 'Loose', steps }, scopes, comment: '' };
    await store.call('POST', '/api/lifecycles', draft, checker);
    await store.intake(
      set({ 'ra.stp': { id: 'RA', uses: [{ id: 'RB', locator: 'rb.stp' }] }, 'rb.stp': { id: 'RB' } }),
      { place: '/rc' },
    );
    const release = async (item: string): Promise<void> => {
      await store.call('POST', '/api/steps', { items: [item], step: 'ask for check', reason: '' }, checker);
      await store.call('POST', '/api/steps', { items: [item], step: 'release', reason: '' }, checker);
    };
    await release('RA');
    await store.intake(set({ 'ra.stp': { id: 'RA' } }), { place: '/rc' });
    await store.intake(set({ 'rb.stp': { id: 'RB', uses: [{ id: 'RA', locator: 'ra.stp' }] } }), {
      place: '/rc',
    });
    await expect(release('RB')).rejects.toThrow(/As released .* would contain itself/);
  });

  it('stays a gap where filling one would close it', async () => {
    await store.intake(set({ 'fa.stp': { id: 'FA', uses: [{ id: 'FB', locator: 'fb.stp' }] } }), {
      place: '/fc',
    });
    await store.intake(set({ 'fa.stp': { id: 'FA' } }), { place: '/fc' });
    const result = await store.intake(
      set({ 'fb.stp': { id: 'FB', uses: [{ id: 'FA', locator: 'fa.stp' }] } }),
      { place: '/fc' },
    );
    expect(result).toMatchObject({ items: 1, filled: 0 });
  });

  it('is refused where a file uses itself', async () => {
    const { problems } = await store.intake(
      set({ 'self.stp': { id: 'SELF', uses: [{ id: 'SELF', locator: 'self.stp' }] } }),
      { place: '/self' },
    );
    expect(problems[0]?.reason).toMatch(/used inside itself/);
  });
});

describe('bringing back', () => {
  it('makes an assembly an assembly again', async () => {
    await store.intake(
      set({ 'bk.stp': { id: 'BK', uses: [{ id: 'BK-P', locator: 'bkp.stp' }] }, 'bkp.stp': { id: 'BK-P' } }),
      { place: '/bk' },
    );
    await store.intake(set({ 'bk.stp': { id: 'BK' } }), { place: '/bk' });
    await hold('BK');
    await store.json('POST', '/api/bring-back', { item: 'BK@A/1', comment: '' });
    expect(await view('BK')).toMatchObject({ kind: 'assembly', version: 'A/3' });
  });

  it('does not write what somebody else holds, though it once lived in the file', async () => {
    await store.intake(set({ 'bh.stp': { id: 'BH', uses: [{ id: 'BH-IN' }] } }), { place: '/bh' });
    await store.intake(set({ 'bh.stp': { id: 'BH', uses: [{ id: 'BH-X' }] } }), { place: '/bh' });
    const own = await store.review(set({ 'own.stp': { id: 'BH-IN' } }), { place: '/bh' });
    await store.database.query(
      `INSERT INTO hold (item_id, person_id, reason) SELECT i.id, p.id, '' FROM item i, person p WHERE i.number = 'BH-IN' AND p.login = 'ada'`,
    );
    await store.json('PATCH', `/api/intakes/${own.id}`, {
      corrections: { [own.rows[0]?.key ?? '']: { number: 'BH-IN' } },
    });
    expect((await store.carryOut(own.id)).result).toMatchObject({ versions: 1 });
    const bob = { Authorization: `Bearer ${await store.tokenFor('bob', 'engineer')}` };
    await store.call('POST', '/api/holds', { items: ['BH-IN'], reason: '' }, bob).catch(() => undefined);
    await store.database.query(
      `UPDATE hold SET person_id = (SELECT id FROM person WHERE login = 'bob') WHERE item_id = (SELECT id FROM item WHERE number = 'BH-IN')`,
    );
    await store.database.query(
      `INSERT INTO hold (item_id, person_id, reason) SELECT i.id, p.id, '' FROM item i, person p WHERE i.number = 'BH-IN' AND p.login = 'bob' ON CONFLICT DO NOTHING`,
    );
    await hold('BH');
    await expect(store.json('POST', '/api/bring-back', { item: 'BH@A/1', comment: '' })).rejects.toThrow(
      /bob holds it/,
    );
    expect((await view('BH-IN')).versions).toHaveLength(2);
  });
});

describe('a derivation', () => {
  it('has a trail for everything that it made', async () => {
    await store.intake(
      set({ 'tr.stp': { id: 'TR', uses: [{ id: 'TR-P', locator: 'trp.stp' }] }, 'trp.stp': { id: 'TR-P' } }),
      { place: '/tr' },
    );
    await store.derive({ item: 'TR', copy: 'all', prefix: 'V-' });
    const admin = { Authorization: `Bearer ${await store.tokenFor('root', 'administrator')}` };
    for (const item of ['V-TR', 'V-TR-P']) {
      const answer = (await (
        await store.call('GET', `/api/audit?item=${item}`, undefined, admin)
      ).json()) as AuditAnswer;
      expect(JSON.stringify(answer)).toMatch(`derived ${item} from ${item.slice(2)}`);
    }
  });

  it('does not answer another request that has the key of one before', async () => {
    await store.json('POST', '/api/derive', { item: 'TR', copy: 'all', prefix: 'K-', key: 'key-1' });
    const again = await store.json<{ variant: string }>('POST', '/api/derive', {
      item: 'TR',
      copy: 'all',
      prefix: 'K-',
      key: 'key-1',
    });
    expect(again.variant).toBe('K-TR');
    const refused = await store
      .json('POST', '/api/derive', { item: 'TR', copy: 'all', prefix: 'L-', key: 'key-1' })
      .catch((error: unknown) => error);
    expect(refused).toBeInstanceOf(Refused);
    expect((refused as Refused).problem.code).toBe('KEY_USED');
  });

  it('of drawings that draw on others copies or shares them, title blocks and paths included', async () => {
    await store.intake(
      new Map([
        [
          'd/asm.dxf',
          dxf({
            fields: { DRAWING_NUMBER: 'DA', TITLE: 'Frame' },
            attached: { detail: '..\\parts\\detail.dxf', A3: '../std/a3.dxf' },
          }),
        ],
        [
          'parts/detail.dxf',
          dxf({ fields: { DRAWING_NUMBER: 'DD', TITLE: 'Detail' }, attached: { A3: '../std/a3.dxf' } }),
        ],
        ['std/a3.dxf', dxf({ notes: ['frame'] })],
      ]),
      { place: '/draw' },
    );
    expect((await rowsOf('DA')).sort()).toEqual(['DD@A/1', 'a3@A/1', 'a3@A/1']);
    expect((await store.used('a3')).rows.map(({ number }) => number)).toEqual(
      expect.arrayContaining(['DA', 'DD']),
    );
    const all = await store.derive({ item: 'DA', copy: 'all', prefix: 'V-' });
    expect(all.made).toHaveLength(3);
    expect(all.proof).toMatchObject({ dangling: 0, leaking: 0 });
    const fetched = await store.fetch('V-DA');
    expect(fetched.files.size).toBe(3);
    expect(text(fetched.files.get('V-DA.dxf'))).toMatch(/V-DD\.dxf/);
    expect([...fetched.files.values()].map(text).join()).not.toMatch(/\nD[AD]\r?\n|detail\.dxf|[^-]a3\.dxf/);
    const some = await store.derive({ item: 'DA', prefix: 'W-' });
    expect(some.proof).toMatchObject({ dangling: 0, leaking: 0 });
    expect(some.shared).toContain('a3');
  });

  it('is proved right where one part is in two configurations, or has several placeholders', async () => {
    const uses = [
      { id: 'PH-P', locator: 'php.stp', count: 2 },
      { id: 'PH-P', locator: './php.stp' },
    ];
    await store.intake(set({ 'ph.stp': { id: 'PH', uses }, 'php.stp': { id: 'PH-P' } }), { place: '/ph' });
    expect((await store.derive({ item: 'PH', copy: 'all', prefix: 'V-' })).proof).toMatchObject({
      references: 1,
      copied: 1,
      dangling: 0,
      leaking: 0,
    });
  });

  it('is proved right where a drawing is tied to its part by its name only', async () => {
    await store.intake(new Map([...set({ 'tie.stp': { id: 'TIE' } }), ['tie.dxf', dxf({ notes: ['x'] })]]), {
      place: '/tie',
    });
    const variant = await store.derive({ item: 'TIE', copy: 'all', prefix: 'V-' });
    expect(variant.made).toHaveLength(2);
    expect(variant.proof).toMatchObject({ dangling: 0, leaking: 0 });
  });
});

describe('lenses', () => {
  it('decide which version the root is, too', async () => {
    await store.intake(
      set({ 'ln.stp': { id: 'LN', uses: [{ id: 'LN-P', locator: 'lnp.stp' }] }, 'lnp.stp': { id: 'LN-P' } }),
      { place: '/ln' },
    );
    await store.database.query(
      `UPDATE revision SET state = 'released' WHERE item_id IN (SELECT id FROM item WHERE number LIKE 'LN%')`,
    );
    await store.intake(set({ 'ln.stp': { id: 'LN' } }), { place: '/ln' });
    const made = await store.made('LN', '&lens=released');
    expect([made.item.version, made.rows.map(({ number }) => number)]).toEqual(['A/1', ['LN-P']]);
    expect((await store.made('LN')).item.version).toBe('B/1');
    await expect(store.made('SA', '&lens=released')).rejects.toThrow(/SA has no released version/);
  });

  it('leave uses by old versions out of what is unused', async () => {
    const unused = await store.json<FindAnswer>('GET', '/api/items?words=number+%3D+LN-P+unused');
    expect(unused.rows.map(({ number }) => number)).toEqual(['LN-P']);
  });
});

it('the store is whole after all of this', async () => {
  expect((await verify()).faults).toEqual([]);
});
