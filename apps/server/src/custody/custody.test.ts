import { createHash } from 'node:crypto';
import type {
  CustodyAnswer,
  FetchManifest,
  HoldRow,
  IntakeView,
  ItemView,
  NoticesAnswer,
} from '@stem-trace/contract';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { readExchangeSet } from '../../../../packages/formats/src/testing/exchange-files.js';
import { TestStore, type Files } from '../testing/test-store.js';

let store: TestStore;
const tokens = { ada: '', bob: '', cleo: '', dora: '' };
beforeAll(async () => {
  store = await TestStore.open();
  tokens.ada = store.token;
  tokens.bob = await store.tokenFor('bob', 'engineer');
  tokens.cleo = await store.tokenFor('cleo', 'checker');
  tokens.dora = await store.tokenFor('dora', 'administrator');
  await store.intake(readExchangeSet('s1_pe_214'), { place: '/ship', comment: 'first' });
  await store.intake(readExchangeSet('s1-tu-203'), { place: '/tu', prefix: 'T:' });
});
afterAll(() => store.close());

type Who = keyof typeof tokens;

async function as<T>(who: Who, method: string, path: string, body?: unknown): Promise<T> {
  const response = await store.call(method, path, body, { Authorization: `Bearer ${tokens[who]}` });
  return (response.status === 204 ? undefined : await response.json()) as T;
}

const checkOut = (who: Who, ...items: string[]): Promise<CustodyAnswer> =>
  as(who, 'POST', '/api/holds', { items, reason: '' });
const letGo = (who: Who, ...items: string[]): Promise<CustodyAnswer> =>
  as(who, 'POST', '/api/holds/let-go', { items });
const view = (item: string): Promise<ItemView> => as('ada', 'GET', `/api/item?item=${item}`);
const step = (who: Who, name: string, items: readonly string[], reason = ''): Promise<CustodyAnswer> =>
  as(who, 'POST', '/api/steps', { items, step: name, reason });
const versionsOf = async (item: string): Promise<string[]> =>
  (await view(item)).versions.map(({ version, comment }) => `${version} ${comment}`);

/** Adds a comment to a file: other bytes, the same design. */
function changed(bytes: Uint8Array, note: string): Uint8Array {
  return new TextEncoder().encode(
    new TextDecoder('latin1').decode(bytes).replace('DATA;', `DATA;\n/* ${note} */`),
  );
}

interface CheckIn {
  readonly manifest: FetchManifest;
  readonly files: Files;
  readonly overwrite?: readonly string[];
  readonly letGo?: boolean;
}

async function checkIn(
  who: Who,
  { manifest, files, overwrite, letGo: give = true }: CheckIn,
): Promise<IntakeView> {
  const sheet = await as<IntakeView>(who, 'POST', '/api/intakes', { place: '/', manifest });
  for (const [path, bytes] of files) {
    await store.call('PUT', `/api/intakes/${sheet.id}/files?path=${encodeURIComponent(path)}`, bytes, {
      Authorization: `Bearer ${tokens[who]}`,
    });
  }
  if (overwrite) await as(who, 'PATCH', `/api/intakes/${sheet.id}`, { corrections: {}, overwrite });
  const review = await as<IntakeView>(who, 'GET', `/api/intakes/${sheet.id}`);
  if (review.expected.versions === 0) return review;
  let done = await as<IntakeView>(who, 'POST', `/api/intakes/${sheet.id}/carry-out`, {
    comment: 'worked on',
    letGo: give,
  });
  while (done.state === 'carrying out') done = await as<IntakeView>(who, 'GET', `/api/intakes/${sheet.id}`);
  return done;
}

describe('holds', () => {
  it('go to exactly one of a hundred who ask at once; the others are told who has it', async () => {
    const people = 100;
    await store.database.query(
      `INSERT INTO person (login, name, initials, role, password_hash)
       SELECT 'p' || n, 'Person ' || n, 'PN', 'engineer', password_hash FROM person, generate_series(1, ${people}) n WHERE login = 'ada'`,
    );
    await store.database.query(
      `INSERT INTO access_token (token_hash, person_id, kind, name) SELECT sha256(('token-of-' || login)::bytea), id, 'program', 'test' FROM person WHERE login LIKE 'p%'`,
    );
    const answers = await Promise.all(
      Array.from({ length: people }, async (_, index) => {
        const response = await store.call(
          'POST',
          '/api/holds',
          { items: ['TAIL_ASM'], reason: 'race' },
          { Authorization: `Bearer token-of-p${index + 1}` },
        );
        return (await response.json()) as CustodyAnswer;
      }),
    );
    const winner = (await view('TAIL_ASM')).heldBy?.name;
    expect(answers.filter(({ done }) => done.length === 1)).toHaveLength(1);
    expect(answers.flatMap(({ refused }) => refused.map(({ reason }) => reason))).toEqual(
      Array.from({ length: people - 1 }, () => `${winner} holds it`),
    );
    await as('dora', 'POST', '/api/holds/break', { item: 'TAIL_ASM', reason: 'the race is over' });
  });

  it('are taken for many, each for itself, and show everywhere', async () => {
    await checkOut('bob', 'HEAD_ASM');
    const answer = await checkOut('ada', 'HEAD_ASM', 'HEAD_BACK');
    expect(answer).toEqual({
      done: [{ number: 'HEAD_BACK', version: 'A/1' }],
      refused: [{ number: 'HEAD_ASM', reason: 'bob holds it' }],
    });
    expect((await as<HoldRow[]>('ada', 'GET', '/api/holds')).map(({ number }) => number)).toEqual([
      'HEAD_BACK',
    ]);
    expect(
      (await store.made('HEAD_ASM')).rows.find(({ number }) => number === 'HEAD_BACK')?.heldBy,
    ).toMatchObject({ login: 'ada' });
    await expect(letGo('ada', 'HEAD_ASM')).resolves.toMatchObject({
      refused: [{ reason: 'you do not hold it' }],
    });
    await letGo('bob', 'HEAD_ASM');
    await letGo('ada', 'HEAD_BACK');
    expect((await view('HEAD_ASM')).heldBy).toBeNull();
  });

  it('cannot be had of what lives in another’s file', async () => {
    expect((await checkOut('ada', 'T:head')).refused).toEqual([
      { number: 'T:head', reason: 'it lives in the file of T:s1; take that instead' },
    ]);
  });

  it('can be broken by an administrator with a reason, and the holder is told', async () => {
    await checkOut('bob', 'FOOT_ASM');
    await expect(
      as('ada', 'POST', '/api/holds/break', { item: 'FOOT_ASM', reason: 'x' }),
    ).rejects.toMatchObject({ status: 403 });
    await expect(
      as('dora', 'POST', '/api/holds/break', { item: 'FOOT_ASM', reason: ' ' }),
    ).rejects.toMatchObject({ status: 400 });
    await as('dora', 'POST', '/api/holds/break', { item: 'FOOT_ASM', reason: 'on holiday' });
    const { unread, rows } = await as<NoticesAnswer>('bob', 'GET', '/api/notices');
    expect([unread, rows[0]?.says, rows[0]?.number]).toEqual([
      1,
      'dora broke the hold of bob on FOOT_ASM: on holiday',
      'FOOT_ASM',
    ]);
    await as('bob', 'POST', '/api/notices/read');
    expect((await as<NoticesAnswer>('bob', 'GET', '/api/notices')).unread).toBe(0);
  });

  it('are told to everybody within a second', async () => {
    const stream = await fetch(`${store.server.address}/api/feed`, {
      headers: { Authorization: `Bearer ${tokens.bob}` },
    });
    const reader = stream.body?.pipeThrough(new TextDecoderStream()).getReader();
    await reader?.read();
    const start = performance.now();
    await checkOut('ada', 'MAINBODY_ASM');
    const { value } = (await reader?.read()) ?? {};
    expect(value).toContain('"holds"');
    expect(performance.now() - start).toBeLessThan(1000);
    await reader?.cancel();
    await letGo('ada', 'MAINBODY_ASM');
  });
});

describe('check-in', () => {
  it('takes what the holder changed, leaves the rest, and says what is missing', async () => {
    const { files, manifest } = await store.fetch('TAIL_ASM');
    const turbine = changed(files.get('tail_turbine_prt.stp') ?? new Uint8Array(), 'turned');
    const middle = changed(files.get('tail_middle_part_prt.stp') ?? new Uint8Array(), 'also');
    const both: Files = new Map([
      ['tail_turbine_prt.stp', turbine],
      ['tail_middle_part_prt.stp', middle],
    ]);
    const early = await checkIn('ada', { manifest, files: both });
    expect(early.expected.refused.map(({ number, reason }) => `${number}: ${reason}`)).toEqual([
      'TAIL_MIDDLE_PART: it is not checked out; check it out first',
      'TAIL_TURBINE: it is not checked out; check it out first',
    ]);

    await checkOut('ada', 'TAIL_TURBINE');
    const done = await checkIn('ada', { manifest, files: both, letGo: false });
    expect(done.result).toMatchObject({
      versions: 1,
      items: 0,
      missing: ['tail_asm.stp'],
      refused: [{ number: 'TAIL_MIDDLE_PART' }],
    });
    expect(await versionsOf('TAIL_TURBINE')).toEqual(['A/2 worked on', 'A/1 first']);
    expect((await view('TAIL_TURBINE')).heldBy).toMatchObject({ login: 'ada' });
  });

  it('knows a file that was rewritten on the way out as unchanged', async () => {
    await store.derive({ item: 'FOOT_ASM', copy: 'all', prefix: 'X-' });
    const { files, manifest } = await store.fetch('X-FOOT_ASM');
    expect(manifest.files.every(({ sha256, stored }) => sha256 !== stored)).toBe(true);
    await checkOut('ada', 'X-FOOT_ASM', 'X-FOOT_BACK', 'X-FOOT_FRONT');
    const review = await checkIn('ada', { manifest, files });
    expect(review.rows.map(({ status }) => status)).toEqual(['unchanged', 'unchanged', 'unchanged']);
    await letGo('ada', 'X-FOOT_ASM', 'X-FOOT_BACK', 'X-FOOT_FRONT');
  });

  it('never overwrites silently what somebody else brought in since', async () => {
    const { files, manifest } = await store.fetch('HEAD_FRONT');
    const path = 'head_front_prt.stp';
    const own = files.get(path) ?? new Uint8Array();
    await checkOut('bob', 'HEAD_FRONT');
    expect(
      (await checkIn('bob', { manifest, files: new Map([[path, changed(own, 'by bob')]]) })).result,
    ).toMatchObject({ versions: 1 });

    await checkOut('ada', 'HEAD_FRONT');
    const mine: Files = new Map([[path, changed(own, 'by ada')]]);
    const review = await checkIn('ada', { manifest, files: mine });
    expect(review.rows[0]).toMatchObject({
      status: 'refused',
      canOverwrite: true,
      notes: [expect.stringMatching(/made from A\/1, and A\/2 has come in since/)],
    });
    const done = await checkIn('ada', { manifest, files: mine, overwrite: [review.rows[0]?.key ?? ''] });
    expect(done.result).toMatchObject({ versions: 1, refused: [] });
    expect((await versionsOf('HEAD_FRONT'))[0]).toBe('A/3 worked on');
    expect((await view('HEAD_FRONT')).heldBy).toBeNull();
  });

  it('brings in new files of a working copy as new items', async () => {
    const { files, manifest } = await store.fetch('HEAD_BACK');
    const extra = new TextDecoder('latin1')
      .decode(files.get('head_back_prt.stp'))
      .replaceAll('HEAD_BACK', 'HEAD_EXTRA');
    const done = await checkIn('ada', {
      manifest,
      files: new Map([['extra.stp', new TextEncoder().encode(extra)]]),
    });
    expect(done.result).toMatchObject({ items: 1, versions: 1 });
    expect((await view('HEAD_EXTRA')).place).toBe('/ship');
  });

  it('refuses a manifest that is not one', async () => {
    await expect(
      as('ada', 'POST', '/api/intakes', { place: '/', manifest: { format: 'other' } }),
    ).rejects.toMatchObject({ problem: { code: 'INPUT_INVALID' } });
  });

  it('an intake of other files is refused what somebody else holds', async () => {
    await checkOut('bob', 'FOOT_BACK');
    const files = readExchangeSet('s1_pe_214');
    const own = files.get('foot_back_prt.stp') ?? new Uint8Array();
    const review = await store.review(new Map([['foot_back_prt.stp', changed(own, 'again')]]), {
      place: '/ship',
    });
    expect(review.expected.refused).toEqual([
      {
        file: 'foot_back_prt.stp',
        number: 'FOOT_BACK',
        reason: 'bob holds it; only the holder can put a version back',
      },
    ]);
    await letGo('bob', 'FOOT_BACK');
  });
});

describe('history', () => {
  it('can be fetched as it was, and brought back by the holder as a version that says where it came from', async () => {
    const first = readExchangeSet('s1_pe_214').get('tail_turbine_prt.stp') ?? new Uint8Array();
    const { files } = await store.fetch('TAIL_TURBINE@A/1');
    expect(
      createHash('sha256')
        .update(files.get('tail_turbine_prt.stp') ?? '')
        .digest('hex'),
    ).toBe(createHash('sha256').update(first).digest('hex'));
    await expect(as('bob', 'POST', '/api/bring-back', { item: 'TAIL_TURBINE@A/1' })).rejects.toThrow(
      /ada holds TAIL_TURBINE/,
    );
    expect(
      await as('ada', 'POST', '/api/bring-back', { item: 'TAIL_TURBINE@A/1', comment: 'the turn was wrong' }),
    ).toEqual({ number: 'TAIL_TURBINE', version: 'A/3' });
    expect((await versionsOf('TAIL_TURBINE'))[0]).toBe('A/3 Brought back from A/1: the turn was wrong');
  });

  it('says why a link is behind, and a holder catches up in one step', async () => {
    const { behindLinks } = await view('TAIL_ASM');
    expect(behindLinks.map(({ number, recorded, newest, says }) => [number, recorded, newest, says])).toEqual(
      [
        [
          'TAIL_TURBINE',
          'A/1',
          'A/3',
          expect.stringMatching(/^newer A\/3 by ada on \d+ \w+ \d+: Brought back from A\/1/),
        ],
      ],
    );
    expect(
      (await as<CustodyAnswer>('ada', 'POST', '/api/catch-up', { items: ['TAIL_ASM'] })).refused,
    ).toEqual([{ number: 'TAIL_ASM', reason: 'it is not checked out' }]);
    await checkOut('ada', 'TAIL_ASM', 'HEAD_BACK');
    const answer = await as<CustodyAnswer>('ada', 'POST', '/api/catch-up', {
      items: ['TAIL_ASM', 'HEAD_BACK'],
    });
    expect(answer).toEqual({
      done: [{ number: 'TAIL_ASM', version: 'A/2' }],
      refused: [{ number: 'HEAD_BACK', reason: 'it is not behind' }],
    });
    expect((await view('TAIL_ASM')).behindLinks).toEqual([]);
    expect((await store.made('TAIL_ASM')).rows.map(({ number, version }) => `${number} ${version}`)).toEqual([
      'TAIL_MIDDLE_PART A/1',
      'TAIL_TURBINE A/3',
    ]);
    await letGo('ada', 'TAIL_ASM', 'HEAD_BACK', 'TAIL_TURBINE');
  });

  it('of a file with several products goes on for all of them together', async () => {
    await checkOut('ada', 'T:s1');
    expect(await as('ada', 'POST', '/api/bring-back', { item: 'T:s1@A/1' })).toMatchObject({
      version: 'A/2',
    });
    expect((await view('T:head')).version).toBe('A/2');
    expect((await store.made('T:s1')).rows.find(({ number }) => number === 'T:head')?.version).toBe('A/2');
    await letGo('ada', 'T:s1');
  });
});

describe('the lifecycle', () => {
  it('goes from draft over check to released by those who may, and back with a reason', async () => {
    await as('bob', 'POST', '/api/watch', { item: 'HEAD_BACK', watch: true });
    await expect(step('ada', 'release', ['HEAD_BACK'])).rejects.toThrow(/may not release/);
    await step('ada', 'ask for check', ['HEAD_BACK']);
    expect((await as<NoticesAnswer>('cleo', 'GET', '/api/notices')).rows[0]?.says).toBe(
      'ada sent HEAD_BACK A/1 for checking',
    );
    expect((await checkOut('ada', 'HEAD_BACK')).refused[0]?.reason).toMatch(/in check/);
    await expect(step('cleo', 'send back', ['HEAD_BACK'])).rejects.toThrow(/a reason is needed/);
    await step('cleo', 'send back', ['HEAD_BACK'], 'the radius is missing');
    await step('ada', 'ask for check', ['HEAD_BACK']);
    await step('cleo', 'release', ['HEAD_BACK']);
    expect((await view('HEAD_BACK')).state).toBe('released');
    expect((await as<NoticesAnswer>('bob', 'GET', '/api/notices')).rows.map(({ says }) => says)).toContain(
      'cleo sent HEAD_BACK A/1 back: the radius is missing',
    );
  });

  it('moves all of several items, or none', async () => {
    await checkOut('bob', 'FOOT_FRONT');
    await expect(step('ada', 'ask for check', ['FOOT_BACK', 'FOOT_FRONT'])).rejects.toThrow(
      /FOOT_FRONT: bob holds it; it must be let go first\. Nothing was changed/,
    );
    expect((await view('FOOT_BACK')).state).toBe('draft');
    await letGo('bob', 'FOOT_FRONT');
  });

  it('locks what is released; change goes on in the next revision, and its release supersedes the one before', async () => {
    expect((await checkOut('ada', 'HEAD_BACK')).refused[0]?.reason).toBe('it is released; revise it first');
    expect(await as('ada', 'POST', '/api/revise', { items: ['HEAD_BACK', 'HEAD_ASM'] })).toEqual({
      done: [{ number: 'HEAD_BACK', version: 'B/1' }],
      refused: [{ number: 'HEAD_ASM', reason: 'it is draft, not locked; only what is locked is revised' }],
    });
    expect((await view('HEAD_BACK')).heldBy).toMatchObject({ login: 'ada' });
    await letGo('ada', 'HEAD_BACK');
    await step('ada', 'ask for check', ['HEAD_BACK']);
    await step('cleo', 'release', ['HEAD_BACK']);
    expect((await view('HEAD_BACK')).versions.map(({ version, state }) => `${version} ${state}`)).toEqual([
      'B/1 released',
      'A/1 superseded',
    ]);
  });
});

it('the audit trail holds what happened and cannot be changed', async () => {
  const rows: { kind: string; says: string }[] = await store.database.query(
    `SELECT e.kind, e.detail->>'says' AS says FROM event e JOIN item i ON i.id = e.item_id WHERE i.number = 'HEAD_BACK' ORDER BY e.id`,
  );
  expect(rows.map(({ kind }) => kind)).toEqual([
    'check out',
    'let go',
    'fetch',
    'check out',
    'let go',
    'step',
    'step',
    'step',
    'step',
    'revise',
    'let go',
    'step',
    'step',
  ]);
  const owner = await store.owner();
  await expect(owner.query(`UPDATE event SET kind = 'x'`)).rejects.toThrow(/never changes/);
  await expect(owner.query('DELETE FROM event')).rejects.toThrow(/never changes/);
  await expect(owner.query('TRUNCATE event')).rejects.toThrow(/never changes/);
});
