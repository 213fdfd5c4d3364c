/** Check sheets over HTTP: what stands on one, who sees what of it, who has opened what, and points until they are closed. */
import type { NoticesAnswer, Role, SheetRow, SheetView, StepAnswer } from '@stem-trace/contract';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { stepFile } from '../../../../packages/formats/src/testing/step-sets.js';
import { TestStore } from '../testing/test-store.js';

let store: TestStore;
const tokens = new Map<string, string>();
beforeAll(async () => {
  store = await TestStore.open();
  for (const role of ['engineer', 'checker', 'viewer', 'administrator'] as const)
    tokens.set(role, await store.tokenFor(`s-${role}`, role));
});
afterAll(() => store.close());

async function as<T>(role: Role, method: string, path: string, body?: unknown): Promise<T> {
  const response = await store.call(method, path, body, { Authorization: `Bearer ${tokens.get(role)}` });
  return response.status === 204 ? (undefined as T) : ((await response.json()) as T);
}

let made = 0;
async function newItem(place = '/sheets', uses: readonly string[] = []): Promise<string> {
  const id = `C${++made}`;
  const named = uses.map((number) => ({ id: number, locator: `${number}.stp` }));
  await store.intake(new Map([[`${id}.stp`, stepFile({ id, uses: named })]]), { place, comment: 'First' });
  return id;
}

async function sent(items: readonly string[], reason = ''): Promise<string> {
  const { sheet } = await as<StepAnswer>('engineer', 'POST', '/api/steps', {
    ...{ items, step: 'ask for check', reason },
  });
  return sheet ?? '';
}

const step = (role: Role, item: string, name: string): Promise<StepAnswer> =>
  as(role, 'POST', '/api/steps', { items: [item], step: name, reason: 'because' });
const view = (role: Role, sheet: string): Promise<SheetView> => as(role, 'GET', `/api/sheets/${sheet}`);

/** Opens an item of a check sheet as it is shown now. */
async function open(who: Role, sheet: string, item: string): Promise<void> {
  const { rows } = await view(who, sheet);
  const shown = rows.find(({ number }) => number === item)?.shown ?? '';
  await as(who, 'POST', '/api/sheets/seen', { sheet, item, shown });
}

describe('a check sheet', () => {
  it('is made of what is sent on together, waits for those who decide, and tells them once', async () => {
    const items = [await newItem(), await newItem(), await newItem()];
    const sheet = await sent(items, 'A new clamp');
    const [first] = await as<SheetRow[]>('checker', 'GET', '/api/sheets');
    expect(first).toMatchObject({
      ...{
        id: sheet,
        title: `${items[0]} ${items[0]} and 2 more`,
        reason: 'A new clamp',
        sentBy: 's-engineer',
      },
      ...{ items: 3, undecided: 3, seen: 0, isMine: true },
    });
    expect((await as<SheetRow[]>('engineer', 'GET', '/api/sheets'))[0]).toMatchObject({
      id: sheet,
      isMine: false,
    });
    expect(await as<SheetRow[]>('viewer', 'GET', '/api/sheets')).toMatchObject([
      { id: sheet, isMine: false },
    ]);
    const { rows } = await as<NoticesAnswer>('checker', 'GET', '/api/notices');
    expect(rows.map(({ says, address }) => [says, address])).toEqual([
      [
        `s-engineer sent ${items[0]} A/1 for checking: A new clamp; and 2 other items with it`,
        `/check/${sheet}`,
      ],
    ]);
    await step('checker', items[0] ?? '', 'release');
    await step('checker', items[1] ?? '', 'send back');
    const after = await view('checker', sheet);
    expect(after.rows.map(({ state, isUndecided, steps }) => [state, isUndecided, steps.length])).toEqual([
      ['released', false, 0],
      ['draft', false, 0],
      ['in check', true, 2],
    ]);
    expect(after.undecided).toBe(1);
  });

  it('says who has opened what; opening again changes nothing', async () => {
    const [one, two] = [await newItem(), await newItem()];
    const sheet = await sent([one, two]);
    for (let times = 0; times < 2; times++) await open('checker', sheet, one);
    await as('viewer', 'POST', '/api/sheets/seen', { sheet, item: one, shown: '' }).catch(() => undefined);
    const { rows, seen } = await view('checker', sheet);
    expect(rows.map(({ isSeen, seenBy }) => [isSeen, seenBy.map(({ by }) => by)])).toEqual([
      [true, ['s-checker']],
      [false, []],
    ]);
    expect(seen).toBe(1);
    const other = await newItem();
    await expect(
      as('checker', 'POST', '/api/sheets/seen', { sheet, item: other, shown: '' }),
    ).rejects.toThrow(/not on that check sheet/);
  });

  it('counts as not opened what changed since, itself or below', async () => {
    const part = await newItem();
    const item = await newItem('/sheets', [part]);
    await sent([part]);
    await step('checker', part, 'release');
    const sheet = await sent([item]);
    await open('checker', sheet, item);
    expect((await view('checker', sheet)).rows[0]?.isSeen).toBe(true);
    await as('engineer', 'POST', '/api/revise', { items: [part], reason: 'x' });
    await as('engineer', 'POST', '/api/holds/let-go', { items: [part] });
    await sent([part]);
    await step('checker', part, 'release');
    expect((await view('checker', sheet)).rows[0]?.isSeen).toBe(false);
  });

  it('shows what changed since the last release', async () => {
    const item = await newItem();
    await sent([item]);
    await step('checker', item, 'release');
    await as('engineer', 'POST', '/api/revise', { items: [item], reason: 'x' });
    await as('engineer', 'POST', '/api/holds/let-go', { items: [item] });
    const { rows } = await view('checker', await sent([item]));
    expect(rows[0]).toMatchObject({ released: 'A/1', version: 'B/1' });
    expect(rows[0]?.versions.map(({ version, by }) => [version, by])).toEqual([['B/1', 's-engineer']]);
  });

  it('counts what somebody may not see, and names nothing of it', async () => {
    const open = await newItem();
    const shut = await newItem('/shut');
    const sheet = await sent([open, shut]);
    await as('administrator', 'PUT', '/api/places/access', {
      ...{
        place: '/shut',
        inherits: false,
        grants: [{ to: { kind: 'role', role: 'engineer' }, rights: ['see', 'change'] }],
      },
    });
    const seen = await view('checker', sheet);
    expect([seen.rows.map(({ number }) => number), seen.hidden, seen.items]).toEqual([[open], 1, 1]);
    expect(JSON.stringify(seen)).not.toContain(shut);
    expect(JSON.stringify(await as('checker', 'GET', '/api/sheets'))).not.toContain(shut);
    await expect(as('checker', 'POST', '/api/sheets/seen', { sheet, item: shut, shown: '' })).rejects.toThrow(
      /no item/,
    );
    const alone = await sent([await newItem('/shut')]);
    await expect(view('checker', alone)).rejects.toMatchObject({ status: 404 });
    await expect(view('checker', '999999')).rejects.toMatchObject({ status: 404 });
  });
});

describe('a point', () => {
  it('is raised by who checks, answered by who changes, closed by who raised it, and shown first on the next sheet', async () => {
    const item = await newItem();
    const first = await sent([item]);
    const words = 'The radius is missing';
    await expect(
      as('engineer', 'POST', '/api/sheets/points', { sheet: first, item, words }),
    ).rejects.toMatchObject({ status: 403 });
    await as('checker', 'POST', '/api/sheets/points', { sheet: first, item, words });
    const told = await as<NoticesAnswer>('engineer', 'GET', '/api/notices');
    expect(told.rows[0]).toMatchObject({
      says: `s-checker raised a point about ${item}: ${words}`,
      address: `/check/${first}`,
    });
    await step('checker', item, 'send back');
    const [point] = (await view('engineer', first)).rows[0]?.points ?? [];
    expect(point).toMatchObject({ words, isEarlier: false, mayAnswer: true, mayClose: false, answer: null });
    await as('engineer', 'POST', '/api/sheets/points/answer', { point: point?.id, words: 'It is there now' });
    const second = await sent([item]);
    const [again] = (await view('checker', second)).rows[0]?.points ?? [];
    expect(again).toMatchObject({
      isEarlier: true,
      mayClose: true,
      answer: { words: 'It is there now', by: 's-engineer' },
    });
    await expect(
      as('engineer', 'POST', '/api/sheets/points/close', { point: point?.id }),
    ).rejects.toMatchObject({ status: 403 });
    await as('checker', 'POST', '/api/sheets/points/close', { point: point?.id });
    expect((await view('checker', second)).rows[0]?.points[0]).toMatchObject({
      closed: { by: 's-checker' },
      mayClose: false,
    });
    await expect(
      as('engineer', 'POST', '/api/sheets/points/answer', { point: point?.id, words: 'Late' }),
    ).rejects.toThrow(/The point is closed/);
    // Closed before, so that the next round says nothing of it.
    await step('checker', item, 'send back');
    expect((await view('checker', await sent([item]))).rows[0]?.points).toEqual([]);
  });
});

describe('the printed record', () => {
  /** Words of a PDF, read by a reader that shares nothing with the writer. */
  async function wordsOf(role: Role, path: string): Promise<string> {
    const response = await store.call('GET', path, undefined, {
      Authorization: `Bearer ${tokens.get(role)}`,
    });
    expect(response.headers.get('content-type')).toBe('application/pdf');
    const { getDocument } = await import('pdfjs-dist/legacy/build/pdf.mjs');
    const pdf = await getDocument({ data: new Uint8Array(await response.arrayBuffer()) }).promise;
    const pages: string[] = [];
    for (let page = 1; page <= pdf.numPages; page++) {
      const { items } = await (await pdf.getPage(page)).getTextContent();
      pages.push(items.map((item) => ('str' in item ? item.str : '')).join(' '));
    }
    return pages.join(' ').replace(/\s+/g, ' ');
  }

  it('has versions, what was raised and answered, who opened it and what was decided, of one item and of a sheet', async () => {
    const [one, two] = [await newItem(), await newItem()];
    const sheet = await sent([one, two], 'A new clamp');
    await open('checker', sheet, one);
    await as('checker', 'POST', '/api/sheets/points', { sheet, item: one, words: 'Say the torque' });
    await step('checker', one, 'send back');
    const record = await wordsOf('checker', `/api/record/sheet?id=${sheet}`);
    for (const said of [
      `Record of check sheet ${sheet}`,
      'A new clamp',
      one,
      two,
      'Say the torque',
      's-checker',
      'opened',
      'First',
    ])
      expect(record).toContain(said);
    expect(record).toContain(`s-checker sent ${one} A/1 back: because`);
    const own = await wordsOf('viewer', `/api/record?item=${one}`);
    expect(own).toContain('Say the torque');
    expect(own).not.toContain(two);
  });

  it('tells nothing of what somebody may not see', async () => {
    const [open, closed] = [await newItem(), await newItem('/record closed')];
    const sheet = await sent([open, closed]);
    await as('administrator', 'PUT', '/api/places/access', {
      ...{ place: '/record closed', inherits: false },
      grants: [{ to: { kind: 'role', role: 'engineer' }, rights: ['see'] }],
    });
    const record = await wordsOf('checker', `/api/record/sheet?id=${sheet}`);
    expect(record).toContain(open);
    expect(record).not.toContain(`${closed} `);
    expect(record).toContain('1 item of it not visible');
    await expect(as('checker', 'GET', `/api/record?item=${closed}`)).rejects.toThrow(/no item/);
  });
});
