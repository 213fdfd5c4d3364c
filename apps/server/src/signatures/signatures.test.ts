/** Signatures over HTTP: who gives them with which password, that each counts once, and that a change afterwards is named. */
import { verify } from 'node:crypto';
import { createPublicKey } from 'node:crypto';
import { readFile, stat } from 'node:fs/promises';
import { join } from 'node:path';
import type {
  ItemView,
  NoticesAnswer,
  SheetRow,
  SheetView,
  StepAnswer,
  StepRequest,
  VerifyAnswer,
} from '@stem-trace/contract';
import { SHIPPED, type Diagram, type DiagramStep } from '@stem-trace/core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { stepFile } from '../../../../packages/formats/src/testing/step-sets.js';
import { Refused, TestStore } from '../testing/test-store.js';
import { VerifyService } from '../verify/verify.service.js';

const CHECKERS = ['una', 'vera', 'wim'] as const;

/** As it ships, but released by two checkers who did not make it. */
const TWO: Diagram = {
  ...SHIPPED,
  steps: SHIPPED.steps.map((step): DiagramStep =>
    step.name === 'release'
      ? {
          ...step,
          notByAuthors: true,
          signatures: { count: 2, of: [{ kind: 'role', role: 'checker' }], isInOrder: false },
        }
      : step,
  ),
};

let store: TestStore;
const browsers = new Map<string, Readonly<Record<string, string>>>();
beforeAll(async () => {
  store = await TestStore.open();
  const administrator = { Authorization: `Bearer ${await store.tokenFor('root', 'administrator')}` };
  for (const login of CHECKERS) {
    await store.tokenFor(login, 'checker');
    browsers.set(login, await store.sessionOf(login));
  }
  const draft = { id: '1', diagram: TWO, scopes: [{ kind: null, class: null, place: null }], comment: '' };
  await store.call('POST', '/api/lifecycles', draft, administrator);
});
afterAll(() => store.close());

let made = 0;
async function newItem(uses: readonly string[] = []): Promise<string> {
  const id = `S${++made}`;
  const named = uses.map((number) => ({ id: number, locator: `${number}.stp` }));
  await store.intake(new Map([[`${id}.stp`, stepFile({ id, uses: named })]]), { place: '/signed' });
  return id;
}

async function checked(uses: readonly string[] = []): Promise<string> {
  const item = await newItem(uses);
  await store.call('POST', '/api/steps', { items: [item], step: 'ask for check', reason: '' });
  return item;
}

async function sign(
  login: string,
  items: readonly string[],
  more: Partial<StepRequest> = {},
): Promise<StepAnswer> {
  const request = {
    ...{ items, step: 'release', reason: '', password: `${login}-password`, zone: 'Europe/Oslo' },
    ...more,
  };
  const shown = request.shown ?? (await store.shownFor(request, browsers.get(login)));
  return (await (
    await store.call('POST', '/api/steps', { ...request, shown }, browsers.get(login))
  ).json()) as StepAnswer;
}

const view = (item: string): Promise<ItemView> => store.json('GET', `/api/item?item=${item}`);
const whole = (): Promise<VerifyAnswer> => store.server.app.get(VerifyService).verify();

/** Changes rows past every guard, as somebody could who has the whole database, and changes them back. */
async function tampered(change: string, back: string): Promise<readonly string[]> {
  const owner = await store.owner();
  const past = (sql: string): Promise<unknown> =>
    owner.query(`SET session_replication_role = replica; ${sql}; SET session_replication_role = DEFAULT`);
  await past(change);
  try {
    return (await whole()).faults;
  } finally {
    await past(back);
    expect((await whole()).faults).toEqual([]);
  }
}

describe('a step that is signed', () => {
  it('is taken by the last of those who sign, each with the password, and not by who made it', async () => {
    const item = await checked();
    await expect(sign('una', [item], { password: 'wrong' })).rejects.toMatchObject({
      problem: { code: 'SIGN_IN_FAILED' },
    });
    expect(await sign('una', [item])).toEqual({
      ...{ sheet: null, done: [], refused: [], signed: [{ number: item, version: 'A/1', wanted: 1 }] },
    });
    expect((await view(item)).state).toBe('in check');
    await expect(sign('una', [item])).rejects.toThrow(/you have signed it already/);
    expect((await sign('vera', [item])).done).toEqual([{ number: item, version: 'A/1' }]);
    const after = await view(item);
    expect(after.state).toBe('released');
    expect(after.signatures).toMatchObject([
      { version: 'A/1', step: 'release', by: 'una', zone: 'Europe/Oslo' },
      { version: 'A/1', step: 'release', by: 'vera' },
    ]);
    const told = await store.json<NoticesAnswer>('GET', '/api/notices');
    expect(told.rows[0]?.says).toBe(`vera released ${item} A/1`);
  });

  it('is signed by people in a browser, never by a program, nor without the password', async () => {
    const item = await checked();
    const token = { Authorization: `Bearer ${await store.tokenFor('una', 'checker')}` };
    const request = {
      items: [item],
      step: 'release',
      reason: '',
      password: 'una-password',
      zone: 'Europe/Oslo',
    };
    await expect(store.call('POST', '/api/steps', request, token)).rejects.toThrow(/only a person signs/);
    await expect(
      store.call('POST', '/api/steps', { items: [item], step: 'release', reason: '' }, browsers.get('una')),
    ).rejects.toThrow(/give your password again/);
    await expect(sign('una', [item], { zone: 'Europe/Nowhere' })).rejects.toThrow(/is no time zone/);
    expect((await view(item)).signatures).toEqual([]);
  });

  it('does not let anybody guess the password', async () => {
    const item = await checked();
    const tries = await Promise.all(
      Array.from({ length: 14 }, () =>
        sign('wim', [item], { password: 'guess' }).catch((error: unknown) => (error as Refused).problem.code),
      ),
    );
    expect(tries.filter((code) => code === 'SIGN_IN_FAILED').length).toBeLessThanOrEqual(10);
    expect(tries).toContain('SIGN_IN_TOO_OFTEN');
    // Whoever guesses locks out nobody else.
    expect((await sign('una', [item])).signed).toHaveLength(1);
    await store.database.query(`DELETE FROM sign_in_attempt WHERE key LIKE 'confirming %'`);
  });

  it('counts each person once, in whatever order decisions come in', async () => {
    for (let round = 0; round < 4; round++) {
      const item = await checked();
      const answers = await Promise.allSettled(
        ['una', 'una', 'vera', 'una', 'wim', 'vera'].map((login) => sign(login, [item])),
      );
      const given = answers.flatMap((each) => (each.status === 'fulfilled' ? [each.value] : []));
      expect(given.flatMap(({ done }) => done)).toEqual([{ number: item, version: 'A/1' }]);
      expect(given.flatMap(({ signed }) => signed)).toHaveLength(1);
      const { signatures, state } = await view(item);
      expect([state, signatures.length, new Set(signatures.map(({ by }) => by)).size]).toEqual([
        'released',
        2,
        2,
      ]);
    }
  });

  it('wants all signatures anew after it was sent back', async () => {
    const item = await checked();
    await sign('una', [item]);
    await store.call(
      'POST',
      '/api/steps',
      { items: [item], step: 'send back', reason: 'no' },
      browsers.get('vera'),
    );
    await store.call('POST', '/api/steps', { items: [item], step: 'ask for check', reason: '' });
    expect((await sign('vera', [item])).signed).toHaveLength(1);
    expect((await sign('una', [item])).done).toHaveLength(1);
    expect((await view(item)).signatures).toHaveLength(3);
  });

  it('is signed as it was shown, and refused once it or something below it was changed', async () => {
    const part = await checked();
    await sign('una', [part]);
    await sign('vera', [part]);
    const item = await checked([part]);
    const [sheet] = await store.json<SheetRow[]>('GET', '/api/sheets');
    const shownOn = async (id: string): Promise<Record<string, string>> => {
      const { rows } = await store.json<SheetView>('GET', `/api/sheets/${id}`);
      return Object.fromEntries(rows.map(({ number, shown }) => [number, shown]));
    };
    const shown = await shownOn(sheet?.id ?? '');
    expect(shown).toEqual(await store.shownFor({ items: [item], step: 'release', reason: '' }));
    await expect(sign('una', [item], { shown: {} })).rejects.toThrow(/you have not opened it/);
    // Sent back, changed and sent again.
    const back = { items: [item], step: 'send back', reason: 'no' };
    await store.call('POST', '/api/steps', back, browsers.get('vera'));
    await store.call('POST', '/api/holds', { items: [item], reason: '' });
    await store.call('POST', '/api/items/properties', { items: [item], set: { note: 'other' }, comment: '' });
    await store.call('POST', '/api/holds/let-go', { items: [item] });
    await store.call('POST', '/api/steps', { items: [item], step: 'ask for check', reason: '' });
    await expect(sign('una', [item], { shown })).rejects.toThrow(/A\/2: changed since you opened it/);
    expect((await view(item)).signatures).toEqual([]);
    // Something below is released.
    const before = await shownOn((await store.json<SheetRow[]>('GET', '/api/sheets'))[0]?.id ?? '');
    await store.call('POST', '/api/revise', { items: [part], reason: 'x' });
    await store.call('POST', '/api/holds/let-go', { items: [part] });
    await store.call('POST', '/api/steps', { items: [part], step: 'ask for check', reason: '' });
    await sign('una', [part]);
    await sign('vera', [part]);
    await expect(sign('una', [item], { shown: before })).rejects.toThrow(/changed since you opened it/);
    expect((await sign('una', [item])).signed).toHaveLength(1);
  });

  it('is signed again by the same person once something below it was released', async () => {
    const part = await checked();
    const item = await checked([part]);
    await sign('una', [item, part]);
    // The part is sent back, changed, and released as another version than the one that was signed with the assembly.
    const back = { items: [part], step: 'send back', reason: 'no' };
    await store.call('POST', '/api/steps', back, browsers.get('vera'));
    await store.call('POST', '/api/holds', { items: [part], reason: '' });
    await store.call('POST', '/api/items/properties', { items: [part], set: { note: 'other' }, comment: '' });
    await store.call('POST', '/api/holds/let-go', { items: [part] });
    await store.call('POST', '/api/steps', { items: [part], step: 'ask for check', reason: '' });
    await sign('vera', [part]);
    await sign('wim', [part]);
    const answer = await sign('una', [item]);
    expect(answer.signed).toMatchObject([{ number: item, wanted: 1 }]);
    expect((await sign('wim', [item])).done).toHaveLength(1);
    expect((await whole()).faults).toEqual([]);
  });
});

describe('an assembly that is signed', () => {
  it('goes together with what is below it, all or none, or those that can', async () => {
    const [one, two] = [await newItem(), await newItem()];
    const top = await newItem([one, two]);
    await store.call('POST', '/api/steps', { items: [top], step: 'ask for check', reason: '', below: true });
    for (const item of [one, two, top]) expect((await view(item)).state).toBe('in check');
    await expect(sign('una', [top])).rejects.toThrow(/is not released, and 1 more/);
    expect((await sign('una', [top], { below: true })).signed).toHaveLength(3);
    // Signed by one with all below, and by the other alone: then the parts want one more.
    await expect(sign('vera', [top])).rejects.toThrow(/is not released/);
    await store.call(
      'POST',
      '/api/steps',
      { items: [two], step: 'send back', reason: 'thin' },
      browsers.get('vera'),
    );
    await expect(sign('vera', [top], { below: true })).rejects.toThrow(new RegExp(`${two}: it is draft`));
    const answer = await sign('vera', [top], { below: true, leavesOut: true });
    expect(answer.done.map(({ number }) => number)).toEqual([one]);
    expect(answer.refused.map(({ number }) => number).sort()).toEqual([two, top].sort());
  });

  it('freezes what stands below it, which stays when more is released', async () => {
    const part = await newItem();
    const top = await newItem([part]);
    await store.call('POST', '/api/steps', { items: [top], step: 'ask for check', reason: '', below: true });
    await sign('una', [top], { below: true });
    expect((await sign('wim', [top], { below: true })).done).toHaveLength(2);
    const frozen = (): Promise<{ number: string; label: string }[]> =>
      store.database.query(
        `SELECT i.number, r.code || '/' || v.seq AS label FROM baseline b JOIN baseline_item x ON x.baseline_id = b.id
         JOIN version v ON v.id = x.version_id JOIN revision r ON r.id = v.revision_id JOIN item i ON i.id = v.item_id
         JOIN version t ON t.id = b.version_id JOIN item o ON o.id = t.item_id WHERE o.number = $1`,
        [top],
      );
    expect(await frozen()).toEqual([{ number: part, label: 'A/1' }]);
    await store.call('POST', '/api/revise', { items: [part], reason: 'x' });
    await store.call('POST', '/api/holds/let-go', { items: [part] });
    await store.call('POST', '/api/steps', { items: [part], step: 'ask for check', reason: '' });
    await sign('una', [part]);
    await sign('vera', [part]);
    expect(await frozen()).toEqual([{ number: part, label: 'A/1' }]);
    await expect((await store.owner()).query('DELETE FROM baseline_item')).rejects.toThrow(/never changes/);
    expect((await whole()).faults).toEqual([]);
  });
});

describe('a void signature', () => {
  it('is named where somebody with the whole database let it count again', async () => {
    const item = await checked();
    await sign('una', [item]);
    const back = { items: [item], step: 'send back', reason: 'no' };
    await store.call('POST', '/api/steps', back, browsers.get('vera'));
    await store.call('POST', '/api/steps', { items: [item], step: 'ask for check', reason: '' });
    const of = `(SELECT id FROM item WHERE number = '${item}')`;
    expect(
      await tampered(
        `UPDATE signature SET moves = moves + 2 WHERE item_id = ${of}`,
        `UPDATE signature SET moves = moves - 2 WHERE item_id = ${of}`,
      ),
    ).toContainEqual(expect.stringMatching(/recorded for another round of the check/));
    expect(
      await tampered(
        `UPDATE revision SET moves = moves - 2 WHERE item_id = ${of}`,
        `UPDATE revision SET moves = moves + 2 WHERE item_id = ${of}`,
      ),
    ).toContainEqual(
      expect.stringMatching(new RegExp(`${item} A/1, signed by una: .* void since a later step`)),
    );
  });
});

describe('what was signed', () => {
  let [top, part, of] = ['', '', ''];
  beforeAll(async () => {
    part = await newItem();
    top = await newItem([part]);
    await store.call('POST', '/api/steps', { items: [top], step: 'ask for check', reason: '', below: true });
    await sign('una', [top], { below: true });
    await sign('vera', [top], { below: true });
    of = `(SELECT newest_version_id FROM item WHERE number = '${top}')`;
  });

  it('is proved by a reader that has nothing but the key and the text', async () => {
    const path = join(store.blobFolder, 'signing-key.pem');
    expect((await stat(path)).mode & 0o077).toBe(0);
    const key = createPublicKey(await readFile(path));
    const rows: { statement: string; seal: string; login: string }[] = await store.database.query(
      'SELECT statement, seal, login FROM signature',
    );
    expect(rows.length).toBeGreaterThan(4);
    for (const { statement, seal, login } of rows) {
      expect(verify(null, Buffer.from(statement), key, Buffer.from(seal, 'base64'))).toBe(true);
      expect(JSON.parse(statement)).toMatchObject({ login, step: 'release', zone: 'Europe/Oslo' });
      const other = statement.replace(login, login.toUpperCase());
      expect(verify(null, Buffer.from(other), key, Buffer.from(seal, 'base64'))).toBe(false);
    }
    expect(await whole()).toMatchObject({ whole: true, faults: [] });
  });

  it.each<[string, () => readonly [change: string, back: string], () => RegExp]>([
    [
      'a quantity',
      () => [
        `UPDATE link SET quantity = 7 WHERE version_id = ${of}`,
        `UPDATE link SET quantity = 1 WHERE version_id = ${of}`,
      ],
      () =>
        new RegExp(
          `^${top} A/1, signed by una \\(release\\): “link \\d+ component to ${part} A/1 ×1 .*” was changed to “.*×7`,
        ),
    ],
    [
      'a property',
      () => [
        `UPDATE version SET facts = facts || '{"properties":[{"name":"mass","kind":"number","value":9,"unit":"kg"}]}' WHERE id = ${of}`,
        `UPDATE version SET facts = facts || '{"properties":[]}' WHERE id = ${of}`,
      ],
      () => new RegExp(`^${top} A/1, signed by vera .*“property .*"value":9.*” was put in`),
    ],
    [
      'its file',
      () => [
        `UPDATE version SET sha256 = (SELECT min(sha256) FROM blob WHERE sha256 <> version.sha256) WHERE id = ${of}`,
        `UPDATE version SET sha256 = split_part(split_part((SELECT lines FROM signed_content c JOIN signature s ON s.content = c.digest WHERE s.version_id = version.id LIMIT 1), 'file ', 2), ' ', 1) WHERE id = ${of}`,
      ],
      () => new RegExp(`^${top} A/1, signed by una .*“file [0-9a-f]{64} .*” was changed to “file`),
    ],
    [
      'a version below it',
      () => {
        const below = `(SELECT newest_version_id FROM item WHERE number = '${part}')`;
        return [
          `UPDATE version SET product_ref = product_ref + 1 WHERE id = ${below}`,
          `UPDATE version SET product_ref = product_ref - 1 WHERE id = ${below}`,
        ];
      },
      () =>
        new RegExp(`^${top} A/1, signed by una \\(release\\): ${part} A/1, which is below it, was changed`),
    ],
    [
      'who signed',
      () => [
        `UPDATE signature SET name = 'Somebody else' WHERE version_id = ${of} AND login = 'una'`,
        `UPDATE signature SET name = 'una' WHERE version_id = ${of} AND login = 'una'`,
      ],
      () => /its name is recorded as Somebody else, and was signed as una/,
    ],
    [
      'the statement itself',
      () => [
        `UPDATE signature SET statement = replace(statement, '"una"', '"eva"') WHERE version_id = ${of}`,
        `UPDATE signature SET statement = replace(statement, '"eva"', '"una"') WHERE version_id = ${of}`,
      ],
      () => /the signature is none that this store made/,
    ],
    [
      'the record of what was signed',
      () => [
        `UPDATE signed_content SET lines = lines || E'\\nmore' WHERE digest = (SELECT content FROM signature WHERE version_id = ${of} LIMIT 1)`,
        `UPDATE signed_content SET lines = replace(lines, E'\\nmore', '') WHERE digest = (SELECT content FROM signature WHERE version_id = ${of} LIMIT 1)`,
      ],
      () => /the record of what was signed was changed/,
    ],
    [
      'a signature that is taken out',
      () => [
        `CREATE TABLE hidden AS SELECT * FROM signature WHERE version_id = ${of} AND login = 'una'; DELETE FROM signature WHERE id IN (SELECT id FROM hidden)`,
        'INSERT INTO signature OVERRIDING SYSTEM VALUE SELECT * FROM hidden; DROP TABLE hidden',
      ],
      () => /a signature that the trail knows of is gone/,
    ],
  ])('is found and named where somebody with the whole database changed %s', async (_, changes, says) => {
    const [change, back] = changes();
    expect(await tampered(change, back)).toContainEqual(expect.stringMatching(says()));
  });
});
