/** The command line against a running server: exit codes, sentences, and the JSON forms of docs/cli.md. */
import { execFile } from 'node:child_process';
import { createHash } from 'node:crypto';
import { cpSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import { EXCHANGE_FOLDER } from '../../../../packages/formats/src/testing/exchange-files.js';
import { runStem, type Outcome } from '../../../cli/src/stem.js';
import { terminalOf } from '../../../cli/src/terminal.js';
import { TestStore } from '../testing/test-store.js';

const MAIN = join(import.meta.dirname, '../../../cli/dist/main.js');

let store: TestStore;
let folder: string;
beforeAll(async () => {
  store = await TestStore.open();
  folder = mkdtempSync(join(tmpdir(), 'stem-trace-cli-'));
  cpSync(join(EXCHANGE_FOLDER, 's1_pe_214'), join(folder, 'ship'), { recursive: true });
});
afterAll(async () => {
  await store.close();
  rmSync(folder, { recursive: true, force: true });
});

function environment(env: NodeJS.ProcessEnv): NodeJS.ProcessEnv {
  const known = { STEM_URL: store.server.address, STEM_TOKEN: store.token, INIT_CWD: folder };
  return { ...known, ...env };
}

/** What the program does, without the time that a process takes to start; the program itself is tried at the end. */
function stem(args: readonly string[], env: Readonly<Record<string, string>> = {}): Promise<Outcome> {
  const around = { stdin: process.stdin, stdout: process.stdout, cwd: () => folder, once: () => process };
  return runStem(args, terminalOf({ ...around, env: environment(env) }));
}

/** The program as its users start it. */
function program(args: readonly string[], input = '', env: NodeJS.ProcessEnv = {}): Promise<Outcome> {
  return new Promise((done) => {
    const options = { env: { PATH: process.env.PATH, ...environment(env) } };
    const started = execFile(process.execPath, [MAIN, ...args], options, (error, out, err) =>
      done({ code: error ? Number(error.code ?? 1) : 0, out, err }),
    );
    started.stdin?.end(input);
  });
}

async function json(...args: string[]): Promise<unknown> {
  const { code, out, err } = await stem([...args, '--json']);
  expect({ code, err }).toEqual({ code: 0, err: '' });
  return JSON.parse(out);
}

async function refusal(...args: string[]): Promise<string> {
  const { code, out, err } = await stem(args);
  expect({ code, out }).toEqual({ code: 1, out: '' });
  return err;
}

describe('from a folder to a variant', () => {
  it('intake', async () => {
    expect(await json('intake', 'ship', '--prefix', 'S-', '--comment', 'first')).toEqual({
      files: 13,
      items: 13,
      versions: 13,
      links: 12,
      gaps: [],
      problems: [],
      passedOver: [],
      filled: 0,
      refused: [],
    });
    expect(await json('intake', 'ship', '--prefix', 'S-')).toMatchObject({ items: 0, versions: 0, links: 0 });
    expect(await refusal('intake', 'nowhere')).toMatch(/nowhere is neither a folder nor a file/);
  });

  it('find', async () => {
    expect(await json('find', 'tail', '--limit', '2')).toEqual({
      total: 3,
      rows: [
        { number: 'S-TAIL_ASM', name: 'S-TAIL_ASM', kind: 'assembly', version: 'A/1', state: 'draft' },
        {
          number: 'S-TAIL_MIDDLE_PART',
          name: 'S-TAIL_MIDDLE_PART',
          kind: 'part',
          version: 'A/1',
          state: 'draft',
        },
      ],
    });
  });

  it('made and used', async () => {
    expect(await json('made', 'S-TAIL_ASM@A/1', '--lens', 'newest')).toMatchObject({
      item: { number: 'S-TAIL_ASM', version: 'A/1' },
      lens: 'newest',
      rows: [
        {
          level: 1,
          number: 'S-TAIL_MIDDLE_PART',
          quantity: 1,
          total: 1,
          parent: 'S-TAIL_ASM',
          behind: 0,
          gap: false,
        },
        { level: 1, number: 'S-TAIL_TURBINE', kind: 'part', version: 'A/1', quantity: 2, total: 2 },
      ],
    });
    expect(await json('used', 'S-TAIL_TURBINE', '--tops')).toMatchObject({
      rows: [{ number: 'S-S1_PE_TOP', total: 2 }],
    });
    expect((await stem(['made', 'S-S1_PE_TOP', '--all'])).out).toMatch(
      /^S-S1_PE_TOP +A\/1 .*\n {2}S-MAINBODY_ASM +A\/1 +×1 +=/,
    );
    expect(await refusal('made', 'NONE')).toBe(
      'There is no item NONE in the store. Check the number, or find it by a word.\n',
    );
  });

  it('effect, and parts that are alike', async () => {
    const effect = (await json('effect', 'S-TAIL_TURBINE')) as { rows: { part: string; number: string }[] };
    expect(effect.rows.map(({ part, number }) => `${part} ${number}`)).toContain('assembly S-TAIL_ASM');
    const [file = ''] = readdirSync(join(folder, 'ship')).filter((name) => /turbine/i.test(name));
    const like = (await json('like', join('ship', file))) as { rows: unknown[] };
    expect(Array.isArray(like.rows)).toBe(true);
    expect(await refusal('like', 'S-SPACESHIP')).toMatch(/no geometry of its own|no item/);
    expect(await refusal('like', 'S-SPACESHIP', '--by', 'smell')).toContain('write shape or properties');
  });

  it('what was found as a table', async () => {
    expect(await json('find', 'kind = part', '--table', 'found.csv')).toEqual({ file: 'found.csv' });
    expect(readFileSync(join(folder, 'found.csv'), 'utf8')).toContain('S-TAIL_TURBINE');
    expect(await refusal('find', 'kind = thing')).toMatch(/kind is one of part, assembly/);
  });

  it('derive and compare', async () => {
    expect(
      await json('derive', 'S-TAIL_ASM', '--copy', 'all', '--replace', 'S-=V-', '--dry-run'),
    ).toMatchObject({ variant: 'V-TAIL_ASM', proof: null });
    expect(await json('derive', 'S-TAIL_ASM', '--copy', 'S-TAIL_TURBINE', '--replace', 'S-=V-')).toEqual({
      variant: 'V-TAIL_ASM',
      made: [
        { from: 'S-TAIL_ASM', to: 'V-TAIL_ASM' },
        { from: 'S-TAIL_TURBINE', to: 'V-TAIL_TURBINE' },
      ],
      shared: ['S-TAIL_MIDDLE_PART'],
      omitted: [],
      swapped: [],
      proof: { references: 2, copied: 1, shared: 1, dangling: 0, leaking: 0 },
      notes: [],
    });
    expect(await refusal('derive', 'S-TAIL_ASM', '--copy', 'all')).toMatch(
      /The variant was not made.*needs a new number/,
    );
    expect(await refusal('derive', 'S-TAIL_ASM', '--replace', 'nothing')).toMatch(/write FROM=TO/);
    expect(await json('compare', 'S-TAIL_ASM', 'V-TAIL_ASM')).toMatchObject({
      from: { number: 'S-TAIL_ASM', version: 'A/1' },
      sentence: 'From S-TAIL_ASM A/1 to V-TAIL_ASM A/1: no difference.',
      counts: { added: 0, removed: 0, changed: 0, replaced: 0, moved: 0, same: 2 },
      rows: [
        { sign: 'same', number: 'S-TAIL_MIDDLE_PART', by: 'item' },
        { sign: 'same', before: { number: 'S-TAIL_TURBINE' }, after: { number: 'V-TAIL_TURBINE' } },
      ],
    });
  });

  it('drift and family', async () => {
    expect(await json('drift', 'V-TAIL_ASM')).toMatchObject({
      rows: [
        { level: 1, number: 'S-TAIL_ASM', from: null },
        {
          level: 2,
          number: 'V-TAIL_ASM',
          from: { number: 'S-TAIL_ASM' },
          drift: { origin: 0, variant: 0, contradict: 0 },
        },
      ],
    });
    expect((await stem(['drift', 'V-TAIL_ASM'])).out).toMatch(
      /\n {2}V-TAIL_ASM +A\/1 +from S-TAIL_ASM A\/1 +origin 0, variant 0, both 0/,
    );
    const told = (await stem(['family', 'S-TAIL_ASM'])).out;
    expect(told).toMatch(/^S-TAIL_ASM A\/1: 2 of 2 parts in common\n +V-TAIL_ASM\n/);
    expect(told).toMatch(/\nS-TAIL_TURBINE +×2 +=/);
    expect(await refusal('family', 'NONE')).toMatch(/no item NONE/);
    expect(await refusal('drift')).toMatch(/drift NUMBER/);
  });

  it('fetch', async () => {
    expect(await json('fetch', 'V-TAIL_ASM', '--to', 'variant')).toEqual({
      root: 'V-TAIL_ASM.stp',
      files: 3,
      rewritten: 3,
      left: [],
    });
    expect(readdirSync(join(folder, 'variant')).sort()).toEqual([
      'V-TAIL_ASM.stp',
      'V-TAIL_TURBINE.stp',
      'stem-trace.json',
      'tail_middle_part_prt.stp',
    ]);
    expect(await refusal('fetch', 'V-TAIL_ASM', '--to', 'variant')).toMatch(
      /is not empty. Nothing was written/,
    );
    expect(await refusal('fetch', 'V-TAIL_ASM')).toMatch(/Say where to/);
  });
});

describe('custody', () => {
  it('checkout, checkin, history, letgo', async () => {
    expect(await json('checkout', 'V-TAIL_ASM', '--levels', 'all', '--reason', 'try')).toMatchObject({
      done: [{ number: 'V-TAIL_ASM' }, { number: 'S-TAIL_MIDDLE_PART' }, { number: 'V-TAIL_TURBINE' }],
      refused: [],
    });
    const path = join(folder, 'variant/V-TAIL_TURBINE.stp');
    writeFileSync(path, readFileSync(path, 'latin1').replace('DATA;', 'DATA;\n/* again */'), 'latin1');
    rmSync(join(folder, 'variant/tail_middle_part_prt.stp'));
    expect(await json('checkin', 'variant', '--comment', 'turned', '--keep')).toMatchObject({
      versions: 1,
      items: 0,
      unchanged: 1,
      refused: [],
      missing: ['tail_middle_part_prt.stp'],
    });
    expect(await json('history', 'V-TAIL_TURBINE')).toMatchObject({
      number: 'V-TAIL_TURBINE',
      versions: [{ version: 'A/2', comment: 'turned' }, { version: 'A/1' }],
    });
    expect(await json('catchup', 'V-TAIL_ASM')).toEqual({
      done: [{ number: 'V-TAIL_ASM', version: 'A/2' }],
      refused: [],
    });
    expect(await json('bringback', 'V-TAIL_TURBINE@A/1')).toEqual({
      number: 'V-TAIL_TURBINE',
      version: 'A/3',
    });
    expect(await json('holds')).toMatchObject({
      rows: [
        { number: 'S-TAIL_MIDDLE_PART' },
        { number: 'V-TAIL_ASM', reason: 'try' },
        { number: 'V-TAIL_TURBINE' },
      ],
    });
    expect(await json('letgo', 'V-TAIL_ASM', 'V-TAIL_TURBINE', 'S-TAIL_MIDDLE_PART')).toMatchObject({
      refused: [],
    });
    expect(await refusal('letgo', 'V-TAIL_ASM')).toBe('V-TAIL_ASM: you do not hold it\n');
    expect(await refusal('checkin', 'ship')).toMatch(/is not a working copy/);
  });

  it('step, revise, inbox', async () => {
    expect(await json('step', 'ask for check', 'S-HEAD_ASM')).toMatchObject({
      done: [{ number: 'S-HEAD_ASM', version: 'A/1' }],
    });
    expect(await refusal('step', 'release', 'S-HEAD_ASM')).toMatch(/may not release/);
    expect(await refusal('revise', 'S-HEAD_ASM')).toBe(
      'S-HEAD_ASM: it is in check, not locked; only what is locked is revised\n',
    );
    expect(await json('inbox')).toMatchObject({ unread: 0, rows: [] });
  });

  it('waits, sheet, agree, sendback', async () => {
    const { rows } = (await json('waits')) as { rows: { id: string; title: string; isMine: boolean }[] };
    expect(rows[0]).toMatchObject({ title: expect.stringMatching(/^S-HEAD_ASM/) as string, isMine: false });
    const id = rows[0]?.id ?? '';
    expect((await stem(['sheet', id])).out).toMatch(/S-HEAD_ASM A\/1 +in check, undecided +opened by nobody/);
    expect(await json('agree', id)).toMatchObject({
      address: expect.stringMatching(new RegExp(`^http://127\\.0\\.0\\.1:\\d+/check/${id}$`)) as string,
    });
    expect(await refusal('sheet', 'x')).toMatch(/stem waits lists them/);
    expect(await refusal('sendback', id, '--reason', 'thin')).toMatch(/Nothing on it waits for you/);
    const STEM_TOKEN = await store.tokenFor('chloe', 'checker');
    expect((await stem(['waits'], { STEM_TOKEN })).out).toMatch(/waits for you +0 of 1 decided/);
    const back = await stem(['sendback', id, '--reason', 'thin'], { STEM_TOKEN });
    expect(back.out).toBe('S-HEAD_ASM A/1: send back\n');
    expect((await json('step', 'ask for check', 'S-HEAD_ASM', '--leave-out')) as object).toMatchObject({
      done: [{ number: 'S-HEAD_ASM' }],
    });
  });

  it('change', async () => {
    const made = await json(
      'change',
      'new',
      'request',
      'Noise',
      '--why',
      'It rattles',
      '--shows',
      'S-TAIL_ASM',
    );
    expect(made).toEqual({ number: 'CR-0001', version: 'A/1' });
    const order = ['change', 'new', 'order', 'Damp it', '--why', 'Foam', '--answers', 'CR-0001'];
    expect((await stem([...order, '--affects', 'S-TAIL_ASM'])).out).toBe('CO-0001 A/1\n');
    expect((await stem(['change', 'list', '--item', 'S-TAIL_ASM'])).out).toMatch(
      /CO-0001 +order +planned +engineer \/ planner +Damp it\nCR-0001 +request +taken on/,
    );
    expect((await stem(['change', 'add', 'CO-0001', 'refers to', 'S-TAIL_ASM'])).out).toBe('CO-0001 A/2\n');
    expect(await refusal('change', 'add', 'CO-0001', 'likes', 'S-TAIL_ASM')).toContain(
      "say 'shows in', 'affects'",
    );
    expect(await refusal('change', 'new', 'wish', 'x')).toContain('make a request or an order');
    expect(await refusal('change')).toContain('stem change list');
    const began = await stem(['change', 'step', 'begin', 'CO-0001']);
    expect(began.out).toBe('CO-0001 A/2: begin\n');
    const held = await json('checkout', 'S-TAIL_ASM', '--for', 'CO-0001', '--reason', 'foam');
    expect(held).toMatchObject({ done: [{ number: 'S-TAIL_ASM' }] });
    await json('set', 'S-TAIL_ASM', '--property', 'damping=foam');
    await json('letgo', 'S-TAIL_ASM');
    const shown = (await stem(['change', 'show', 'CO-0001'])).out;
    expect(shown).toMatch(/^CO-0001 A\/2 {2}order, under way {2}Damp it\n {2}Foam\n/);
    expect(shown).toMatch(/makes +S-TAIL_ASM +A\/\d+ → A\/\d+ +draft/);
    const redline = await stem(['change', 'redline', 'CO-0001', '--xml', join(folder, 'notice.xml')]);
    expect(redline.out).toMatch(/^S-TAIL_ASM A\/\d+ → A\/\d+: /);
    expect(readFileSync(join(folder, 'notice.xml'), 'utf8')).toContain('urn:stem-trace:change-notice:1');
  });

  it('verify', async () => {
    expect(await refusal('verify')).toMatch(/Only an administrator/);
    const STEM_TOKEN = await store.tokenFor('dora', 'administrator');
    const { code, out } = await stem(['verify'], { STEM_TOKEN });
    expect([code, out]).toEqual([0, expect.stringMatching(/^Whole: 17 items, 22 versions/)]);
  });

  it('audit', async () => {
    expect(await refusal('audit')).toMatch(/Only an administrator/);
    const STEM_TOKEN = await store.tokenFor('dora', 'administrator');
    const { code, out } = await stem(['audit', '--kind', 'fetch', '--person', 'ada'], { STEM_TOKEN });
    expect([code, out]).toEqual([
      0,
      expect.stringMatching(/^\d{4}-\d\d-\d\d \d\d:\d\d +fetch +ada fetched V-TAIL_ASM A\/1, 3 files/m),
    ]);
    const file = join(folder, 'trail.csv');
    expect((await stem(['audit', '--csv', file], { STEM_TOKEN })).code).toBe(0);
    expect(readFileSync(file, 'utf8').split('\r\n')[0]).toBe('at,person,kind,number,says');
  });
});

describe('what goes wrong', () => {
  it('is said in a sentence, with what to do', async () => {
    expect(await refusal()).toMatch(/Say what to do/);
    expect(await refusal('dance')).toMatch(/There is no verb 'dance'/);
    expect(await refusal('made')).toMatch(/Usage: stem made/);
    expect((await stem(['find'], { STEM_TOKEN: 'st_wrong' })).err).toMatch(/Sign in first, or send a token/);
    expect((await stem(['find'], { STEM_URL: 'http://127.0.0.1:9' })).err).toMatch(
      /Nothing answers at http:\/\/127.0.0.1:9/,
    );
    expect(
      (await stem(['find'], { STEM_URL: '', STEM_TOKEN: '', STEM_CLI_FILE: join(folder, 'none.json') })).err,
    ).toMatch(/No token was found/);
  });
});

describe('places, properties and numbers', () => {
  it('are set from the terminal', async () => {
    await json('mkplace', '/yard');
    await json('move', 'S-NOZZLE', '/yard').catch(() => undefined);
    await json('mkplace', '/yard/old');
    await json('mvplace', '/yard/old', '/yard/new');
    expect(await json('places')).toMatchObject({
      rows: expect.arrayContaining([{ path: '/yard/new', items: 0, watched: false }]) as unknown,
    });
    await json('bin', '/yard/new');
    expect(await json('inbin')).toMatchObject({ rows: [{ path: '/yard/new', items: 0 }] });
    await json('restore', '/yard/new');
    expect(await json('inbin')).toEqual({ rows: [] });
    expect(await refusal('restore', '/yard/new')).toMatch(/is not in your bin/);
  });

  it('access is looked at by all and changed by those who may', async () => {
    expect(await json('access', '/yard')).toMatchObject({
      inherits: true,
      grants: [],
      mine: expect.arrayContaining(['change']) as unknown,
    });
    expect(await refusal('access', '/yard', '--grant', 'role:viewer=see')).toMatch(/may not administer/);
    const token = await store.tokenFor('olga', 'administrator');
    const { out } = await stem(['access', '/yard', '--grant', 'ada=see,change', '--json'], {
      STEM_TOKEN: token,
    });
    expect(JSON.parse(out)).toMatchObject({
      grants: [{ to: { kind: 'person', login: 'ada' }, rights: ['see', 'change'] }],
    });
    expect(await refusal('access', '/yard', '--grant', 'nonsense')).toMatch(/is no grant/);
  });

  it('properties of held items and serial numbers', async () => {
    await json('checkout', 'S-TAIL_ASM').catch(() => undefined);
    expect(await json('set', 'S-TAIL_ASM', '--property', 'Finish=Raw')).toMatchObject({
      done: [{ number: 'S-TAIL_ASM' }],
    });
    expect(await refusal('set', 'S-TAIL_ASM', '--property', 'Finish')).toMatch(/is no property/);
    expect(await refusal('number', 'none')).toMatch(/no number scheme none/);
    expect(await refusal('align', 'S-TAIL_ASM', '--dry-run')).toMatch(/may not release/);
  });
});

describe('a working copy', () => {
  const asBen = async (): Promise<Record<string, string>> => ({
    STEM_TOKEN: await store.tokenFor('ben', 'engineer'),
  });
  const by = async (...args: string[]): Promise<Outcome> => {
    const done = await stem(args, await asBen());
    expect(done.err).toBe('');
    return done;
  };
  const note = (path: string): void =>
    writeFileSync(
      path,
      readFileSync(path, 'latin1').replace('DATA;', `DATA;\n/* ${Math.random()} */`),
      'latin1',
    );
  const NOTHING = {
    ...{ changed: [], behind: [], held: [], moved: [], missing: [], new: [], added: [], gone: [] },
  };

  it('is compared with the store, brought up to date, and keeps what is changed in it', async () => {
    await json('intake', 'ship', '--prefix', 'W-', '--place', '/watched');
    await json('fetch', 'W-S1_PE_TOP', '--to', 'copy');
    expect(await json('status', 'copy')).toMatchObject({ item: 'W-S1_PE_TOP', lens: 'newest', ...NOTHING });

    // Mine is changed; a colleague checks others in, renames one and holds one.
    await json('fetch', 'W-S1_PE_TOP', '--to', 'bens');
    const { files } = JSON.parse(readFileSync(join(folder, 'copy', 'stem-trace.json'), 'utf8')) as {
      files: { path: string; items: { number: string }[] }[];
    };
    const pathOf = (number: string): string =>
      files.find(({ items }) => items[0]?.number === number)?.path ?? '';
    const [mine, theirs] = [pathOf('W-HEAD_BACK'), pathOf('W-TAIL_TURBINE')];
    const [renamed, lost] = [pathOf('W-FOOT_BACK'), pathOf('W-HEAD_FRONT')];
    note(join(folder, 'copy', mine));
    writeFileSync(join(folder, 'copy', 'notes.txt'), 'mine');
    rmSync(join(folder, 'copy', lost));
    await by('checkout', 'W-TAIL_TURBINE', 'W-FOOT_BACK', '--reason', 'bore');
    note(join(folder, 'bens', theirs));
    await by('checkin', 'bens', '--keep');
    await store.call(
      'POST',
      '/api/items/rename',
      { item: 'W-FOOT_BACK', fileName: 'foot.stp' },
      {
        Authorization: `Bearer ${await store.tokenFor('ben', 'engineer')}`,
      },
    );
    expect(await json('status', 'copy')).toMatchObject({
      changed: [{ path: mine, number: 'W-HEAD_BACK' }],
      behind: [{ path: theirs, number: 'W-TAIL_TURBINE', here: 'A/1', store: 'A/2' }],
      held: expect.arrayContaining([{ path: theirs, number: 'W-TAIL_TURBINE', login: 'ben', name: 'ben' }]),
      moved: [{ path: renamed, number: 'W-FOOT_BACK', to: renamed.replace(/[^/]*$/, 'foot.stp') }],
      missing: [{ path: lost, number: 'W-HEAD_FRONT' }],
      new: ['notes.txt'],
    });

    const before = readFileSync(join(folder, 'copy', mine));
    expect(await json('update', 'copy')).toMatchObject({
      written: expect.arrayContaining([theirs, lost, renamed.replace(/[^/]*$/, 'foot.stp')]),
      removed: [renamed],
      kept: [{ path: mine, reason: 'changed here' }],
    });
    expect(readFileSync(join(folder, 'copy', mine))).toEqual(before);
    expect(await json('status', 'copy')).toMatchObject({
      ...NOTHING,
      changed: [{ number: 'W-HEAD_BACK' }],
      held: expect.any(Array),
      new: ['notes.txt'],
    });
    // What it was made from is still known, so that it comes back in.
    await json('checkout', 'W-HEAD_BACK');
    expect(await json('checkin', 'copy')).toMatchObject({ versions: 2, items: 1, refused: [] });
    expect(await json('status', 'copy')).toMatchObject({ changed: [], behind: [] });
    await by('letgo', 'W-TAIL_TURBINE', 'W-FOOT_BACK');
  });

  it('goes on with an update that was broken off', async () => {
    const manifest = JSON.parse(readFileSync(join(folder, 'copy', 'stem-trace.json'), 'utf8')) as {
      files: { path: string; sha256: string }[];
    };
    const [first] = manifest.files;
    const written = 'written by the update that was broken off';
    writeFileSync(join(folder, 'copy', first?.path ?? ''), written);
    const sha256 = createHash('sha256').update(written).digest('hex');
    const coming = { ...manifest, files: [{ ...first, sha256 }, ...manifest.files.slice(1)] };
    writeFileSync(join(folder, 'copy', '.stem-trace-coming.json'), JSON.stringify(coming));
    expect(await json('status', 'copy')).toMatchObject({ changed: [] });
    expect(await json('update', 'copy')).toMatchObject({ written: [first?.path], kept: [] });
  });

  it('is refused where there is none, or its manifest leads out of it', async () => {
    expect(await refusal('status', 'ship')).toMatch(/is not a working copy/);
    writeFileSync(join(folder, 'ship', 'stem-trace.json'), '{"files": 3}');
    expect(await refusal('update', 'ship')).toMatch(/is not readable/);
    rmSync(join(folder, 'ship', 'stem-trace.json'));
  });

  it('is watched: what a colleague does is said at once', async () => {
    const said: { kind: string; number?: string; says: string }[] = [];
    let end = (): void => undefined;
    const terminal = {
      ...terminalOf({ ...process, env: environment({}), cwd: () => folder, once: () => process }),
      say: (text: string) => void said.push(JSON.parse(text) as (typeof said)[number]),
      onEnd: (stop: () => void) => {
        end = stop;
      },
    };
    const watching = runStem(['watch', 'copy', '--json'], terminal);
    const heard = (kind: string): Promise<void> =>
      vi.waitFor(() => expect(said.map((one) => one.kind)).toContain(kind), { timeout: 10_000 });
    await heard('watching');
    await by('checkout', 'W-TAIL_ASM', '--reason', 'longer');
    await heard('held');
    await by('letgo', 'W-TAIL_ASM');
    await heard('let go');
    await store.call('POST', '/api/items/move', { items: ['W-TAIL_ASM'], place: '/watched/tail' });
    await heard('moved');
    expect(said.find(({ kind }) => kind === 'held')).toMatchObject({
      number: 'W-TAIL_ASM',
      says: expect.stringContaining('ben holds W-TAIL_ASM: longer'),
    });
    end();
    expect((await watching).code).toBe(0);
  });
});

describe('bills', () => {
  it('are made, read, changed, carried over and checked; what is wrong is said', async () => {
    expect(await json('bill', 'new', 'CLI-BILL', '--of', 'S-TAIL_ASM', '--name', 'For the workshop')).toEqual(
      {
        number: 'CLI-BILL',
        version: 'A/1',
      },
    );
    expect(await json('bill', 'show', 'CLI-BILL')).toMatchObject({
      item: { version: 'A/1' },
      behind: 0,
      hidden: 0,
    });
    expect(await json('bill', 'set', 'CLI-BILL', 'S-TAIL_TURBINE', 'Note', 'handle with care')).toEqual({
      number: 'CLI-BILL',
      version: 'A/2',
    });
    expect((await stem(['bill', 'show', 'CLI-BILL'])).out).toContain('handle with care');
    // What uses a part says so too.
    expect(await json('used', 'S-TAIL_TURBINE')).toMatchObject({
      bills: [{ number: 'CLI-BILL', version: 'A/2', amount: '2', rows: 1 }],
      insteadOf: [],
    });
    expect((await stem(['used', 'S-TAIL_TURBINE'])).out).toMatch(
      /\n {2}CLI-BILL +A\/2 +×2 +bill +For the workshop/,
    );
    expect(await refusal('bill', 'set', 'CLI-BILL', 'S-TAIL_TURBINE', 'quantity', 'many')).toMatch(
      /is no quantity/,
    );
    expect(await refusal('bill', 'set', 'CLI-BILL', 'NOWHERE', 'quantity', '1')).toMatch(/No row has/);
    expect(await json('bill', 'carry', 'CLI-BILL', '--preview')).toMatchObject({
      brought: [],
      contradictions: [],
    });
    expect(await json('bill', 'check', 'CLI-BILL')).toMatchObject({ failures: [{ rule: 'base released' }] });
    expect(await refusal('bill', 'release', 'CLI-BILL', '--notes', 'now')).toMatch(
      /No step that you may take releases CLI-BILL/,
    );
    expect(await json('bill', 'releases', 'CLI-BILL')).toEqual([]);
  });
});

describe('the program', () => {
  it('answers on standard output and ends with 0', async () => {
    expect(await program(['holds', '--json'])).toMatchObject({ code: 0, err: '' });
  });

  it('says what is wrong on standard error and ends with 1', async () => {
    expect(await program(['nonsense'])).toMatchObject({ code: 1, out: '' });
    expect((await program(['made', 'NOWHERE'])).err).toMatch(/NOWHERE/);
  });

  it('reads a password from standard input, and acts as that person from then on', async () => {
    const env = { STEM_CLI_FILE: join(folder, 'cli.json'), STEM_TOKEN: undefined };
    expect(await program(['signin', 'ada'], 'ada-password\n', env)).toMatchObject({ code: 0 });
    expect(await program(['holds', '--json'], '', env)).toMatchObject({ code: 0, err: '' });
  });
});
