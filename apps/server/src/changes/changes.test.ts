/** Changes over HTTP: from a request to an order that is carried out, who may, what is made under it, and what goes together. */
import type {
  ChangeInput,
  ChangeMade,
  ChangeMapAnswer,
  ChangeRow,
  ChangeView,
  CustodyAnswer,
  ItemView,
  MyTaskRow,
  NoticesAnswer,
  RedlineAnswer,
  SheetView,
  StepAnswer,
  StepPreview,
  VerifyAnswer,
} from '@stem-trace/contract';
import type { TakesEffect } from '@stem-trace/core';
import { XMLParser } from 'fast-xml-parser';
import { getDocument } from 'pdfjs-dist/legacy/build/pdf.mjs';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { dxf } from '../../../../packages/formats/src/testing/dxf.js';
import { stepFile } from '../../../../packages/formats/src/testing/step-sets.js';
import { Refused, TestStore } from '../testing/test-store.js';
import { VerifyService } from '../verify/verify.service.js';
import { OldOrdersService } from './old-orders.service.js';
import { RemindersService } from './reminders.service.js';

let store: TestStore;
const people = new Map<string, Readonly<Record<string, string>>>();
beforeAll(async () => {
  store = await TestStore.open();
  for (const [login, role] of [
    ['eva', 'engineer'],
    ['egon', 'engineer'],
    ['carl', 'checker'],
    ['cora', 'checker'],
    ['vito', 'planner'],
    ['anna', 'administrator'],
  ] as const) {
    await store.tokenFor(login, role);
    people.set(login, await store.sessionOf(login));
  }
});
afterAll(() => store.close());

async function as<T>(login: string, method: string, path: string, body?: unknown): Promise<T> {
  const response = await store.call(method, path, body, people.get(login) ?? {});
  return response.status === 204 ? (undefined as T) : ((await response.json()) as T);
}

async function refusal(asked: Promise<unknown>): Promise<string> {
  const error = await asked.then(
    () => undefined,
    (caught: unknown) => caught,
  );
  return error instanceof Refused ? `${error.problem.code}: ${error.problem.detail}` : 'not refused';
}

let made = 0;
async function newItem(uses: readonly string[] = []): Promise<string> {
  const id = `H${++made}`;
  const named = uses.map((number) => ({ id: number, locator: `${number}.stp` }));
  await store.intake(new Map([[`${id}.stp`, stepFile({ id, uses: named })]]), { place: '/parts' });
  return id;
}

const PLAIN: ChangeInput = {
  ...{ why: 'It rattles', urgency: 'soon', owner: '', until: '', takesEffect: { kind: 'when released' } },
  ...{ lines: [], evidence: [], tasks: [], costs: [], currency: '' },
};
const line = (relation: string, item: string): object => ({
  relation,
  item,
  note: '',
  inStock: '',
  inWork: '',
});

const request = (login: string, contents: object = {}): Promise<ChangeMade> =>
  as(login, 'POST', '/api/changes', {
    kind: 'request',
    name: 'Rattles',
    contents: { ...PLAIN, ...contents },
  });
const order = (login: string, contents: object = {}): Promise<ChangeMade> =>
  as(login, 'POST', '/api/changes', { kind: 'order', name: 'Damp it', contents: { ...PLAIN, ...contents } });
const view = (login: string, change: string): Promise<ChangeView> =>
  as(login, 'GET', `/api/change?change=${change}`);
const step = (login: string, item: string, name: string, more: object = {}): Promise<StepAnswer> =>
  as(login, 'POST', '/api/steps', { items: [item], step: name, reason: 'because', ...more });
const sign = async (login: string, item: string): Promise<StepAnswer> => {
  const request = { items: [item], step: 'carry out', reason: 'because' };
  const preview = await as<StepPreview>(login, 'POST', '/api/steps/preview', request);
  const shown = Object.fromEntries(preview.items.map(({ number, shown: digest }) => [number, digest]));
  return step(login, item, 'carry out', { password: `${login}-password`, zone: 'Europe/Oslo', shown });
};
const checkOut = (login: string, items: readonly string[], change = ''): Promise<CustodyAnswer> =>
  as(login, 'POST', '/api/holds', { items, reason: 'change', change });
const again = (login: string, item: string): Promise<unknown> =>
  as(login, 'POST', '/api/items/properties', {
    ...{ items: [item], set: { note: `v${++made}` }, comment: 'Thicker' },
  });
const state = async (item: string): Promise<string> =>
  (await as<ItemView>('eva', 'GET', `/api/item?item=${item}`)).state;

async function released(items: readonly string[]): Promise<void> {
  await as('eva', 'POST', '/api/steps', { items, step: 'ask for check', reason: '' });
  await as('carl', 'POST', '/api/steps', { items, step: 'release', reason: '' });
}

describe('a change request', () => {
  it('is raised by whoever sees where changes lie, and written by whoever raised it until something answers it', async () => {
    const part = await newItem();
    const { number, version } = await request('vito', { lines: [line('shows in', part)] });
    expect([number, version]).toEqual(['CR-0001', 'A/1']);
    expect(await view('vito', number)).toMatchObject({
      ...{ kind: 'request', state: 'raised', locked: null, raisedBy: 'vito' },
      lines: [{ relation: 'shows in', number: part, state: 'draft' }],
    });
    const saved = await as<ChangeMade>('vito', 'PUT', '/api/change', {
      ...{ change: number, version, name: 'Rattles' },
      contents: { ...PLAIN, why: 'It rattles loudly', urgency: 'at once' },
    });
    expect(saved.version).toBe('A/2');
    expect((await as<ItemView>('vito', 'GET', `/api/item?item=${number}`)).versions[0]?.comment).toBe(
      'Reworded; urgency soon → at once; 1 item removed',
    );
    const { number: co } = await order('eva', { lines: [line('answers', number), line('affects', part)] });
    expect((await view('vito', number)).state).toBe('taken on');
    expect((await view('vito', number)).others).toMatchObject([{ number: co, kind: 'order' }]);
    const late = as('vito', 'PUT', '/api/change', {
      change: number,
      version: 'A/2',
      name: 'x',
      contents: PLAIN,
    });
    expect(await refusal(late)).toBe(
      `STEP_REFUSED: ${number}: ${co} answers it; write there what is to be done. Nothing was saved.`,
    );
  });

  it('is not overwritten by who has seen an older version, says what cannot be kept, and keeps nothing half', async () => {
    const { number, version } = await request('eva');
    const save = (contents: object, seen = version): Promise<unknown> =>
      as('egon', 'PUT', '/api/change', {
        change: number,
        version: seen,
        name: 'R',
        contents: { ...PLAIN, ...contents },
      });
    await save({ why: 'Other' });
    expect(await refusal(save({ why: 'Third' }))).toContain(`${number} is at A/2 by now; you edited A/1`);
    const now = 'A/2';
    expect(await refusal(save({ until: '2026-02-30' }, now))).toContain('“2026-02-30” is no day');
    expect(await refusal(save({ owner: 'nobody' }, now))).toContain('Nobody here is called nobody');
    expect(await refusal(save({ evidence: [{ says: '', address: '//evil.example/' }] }, now))).toContain(
      'no view of this',
    );
    expect(
      await refusal(save({ costs: [{ kind: 'parts', what: '', amount: '1e9' }], currency: 'EUR' }, now)),
    ).toContain('no amount');
    expect(await refusal(save({ lines: [line('affects', 'NOT-THERE')] }, now))).toContain('ITEM_UNKNOWN');
    expect(await refusal(save({ lines: [line('affects', number)] }, now))).toContain('is a change itself');
    expect((await view('eva', number)).version).toBe(now);
    // An order is made by whoever may change there.
    expect(await refusal(order('vito'))).toContain('NOT_ALLOWED');
  });

  it('is joined with another one, which gets what it names', async () => {
    const [one, two] = [await newItem(), await newItem()];
    const first = await request('eva', { lines: [line('shows in', one)] });
    const second = await request('egon', {
      lines: [line('shows in', two)],
      evidence: [{ says: 'Here', address: '/look?item=H1' }],
    });
    const body = { change: second.number, into: first.number, step: 'join', reason: 'The same' };
    expect(await refusal(as('eva', 'POST', '/api/change/join', body))).toContain('NOT_ALLOWED');
    expect(await refusal(as('carl', 'POST', '/api/change/join', { ...body, step: 'take on' }))).toContain(
      'out of use',
    );
    expect((await view('eva', second.number)).version).toBe('A/1');
    await as('carl', 'POST', '/api/change/join', body);
    expect(await view('eva', second.number)).toMatchObject({ state: 'joined', version: 'A/2' });
    const kept = await view('eva', first.number);
    expect(kept.lines.map(({ number }) => number)).toEqual([one, two]);
    expect(kept.contents.evidence).toEqual([{ says: 'Here', address: '/look?item=H1' }]);
    expect(kept.others).toMatchObject([{ number: second.number, state: 'joined' }]);
  });
});

describe('a change order', () => {
  it('makes what is checked out for it; all of that is checked, sent back, signed and released together', async () => {
    const part = await newItem();
    const top = await newItem([part]);
    await released([part, top]);
    const cr = await request('eva', { lines: [line('shows in', top)] });
    const { number: co } = await order('eva', { lines: [line('answers', cr.number), line('affects', part)] });
    const revised = await as<CustodyAnswer>('eva', 'POST', '/api/revise', {
      ...{ items: [part, top], reason: 'damping', change: co },
    });
    expect(revised.done.map(({ version }) => version)).toEqual(['B/1', 'B/1']);
    await again('eva', part);
    await as('eva', 'POST', '/api/holds/let-go', { items: [part, top] });
    const { makes, heldFor } = await view('eva', co);
    expect(heldFor).toEqual([]);
    expect(makes.map((each) => [each.number, each.from, each.to, each.versions.length])).toEqual([
      [part, 'A/1', 'B/2', 2],
      [top, 'A/1', 'B/1', 1],
    ]);
    // By itself it goes nowhere.
    expect(await refusal(step('eva', part, 'ask for check'))).toContain(
      `${co} makes it, and moves all that it makes`,
    );
    expect((await as<ItemView>('eva', 'GET', `/api/item?item=${part}`)).steps).toEqual([]);
    await step('eva', co, 'begin');
    const { sheet, done } = await step('eva', co, 'ask for check');
    expect(done.map(({ number }) => number).sort()).toEqual([co, part, top].sort());
    const check = await as<SheetView>('carl', 'GET', `/api/sheets/${sheet}`);
    expect(check.rows.map(({ number, steps }) => [number, steps.map(({ name }) => name)])).toEqual([
      [co, ['send back', 'carry out']],
      ...[part, top].map((number) => [number, []]),
    ]);
    await step('carl', co, 'send back');
    expect([await state(part), await state(top), await state(co)]).toEqual(['draft', 'draft', 'under way']);
    await checkOut('eva', [part]);
    await again('eva', part);
    await as('eva', 'POST', '/api/holds/let-go', { items: [part] });
    expect((await view('eva', co)).makes[0]?.to).toBe('B/3');
    await step('eva', co, 'ask for check');
    const first = await sign('carl', co);
    expect([first.done, first.signed.map(({ number, wanted }) => [number, wanted])]).toEqual([[], [[co, 1]]]);
    expect(await state(part)).toBe('in check');
    expect(await refusal(sign('carl', co))).toContain('you have signed it already');
    const second = await sign('cora', co);
    expect(second.done.map(({ number }) => number).sort()).toEqual([co, cr.number, part, top].sort());
    expect([await state(part), await state(top), await state(co), await state(cr.number)]).toEqual([
      ...['released', 'released', 'carried out', 'settled'],
    ]);
    const { rows } = await as<NoticesAnswer>('eva', 'GET', '/api/notices');
    expect(rows.some(({ says }) => says.startsWith(`cora carried ${co} A/1 out`))).toBe(true);
    // What was signed is what was made: changed past everything, it is named.
    const verify = (): Promise<VerifyAnswer> => store.server.app.get(VerifyService).verify();
    expect((await verify()).faults ?? []).toEqual([]);
    const owner = await store.owner();
    await owner.query('ALTER TABLE version DISABLE TRIGGER USER');
    await owner.query(
      `UPDATE version v SET facts = jsonb_set(facts, '{properties}', '[]') FROM item i WHERE i.id = v.item_id AND i.number = $1`,
      [part],
    );
    await owner.query('ALTER TABLE version ENABLE TRIGGER USER');
    expect(JSON.stringify(await verify())).toContain(`${part} B/3, which is below it, was changed`);
  });

  it('waits for another that works on the same, releases nothing over what is not, and nothing at all where one cannot', async () => {
    const part = await newItem();
    const top = await newItem([part]);
    const [one, two] = [await order('eva'), await order('egon')];
    await checkOut('eva', [part], one.number);
    await again('eva', part);
    await as('eva', 'POST', '/api/holds/let-go', { items: [part] });
    const refused = await checkOut('egon', [part], two.number);
    expect(refused.refused).toEqual([
      { number: part, reason: `${one.number} is at work on A/2; wait until that is done, or work under it` },
    ]);
    const claimed = await as<CustodyAnswer>('egon', 'POST', '/api/change/makes', {
      ...{ change: two.number, items: [top, part] },
    });
    expect(claimed.done.map(({ number }) => number)).toEqual([top]);
    expect(claimed.refused).toEqual([{ number: part, reason: `${one.number} makes it` }]);
    for (const { number } of [one, two]) await step('eva', number, 'begin');
    // The assembly uses a part that another order makes, and that is not released.
    await step('egon', two.number, 'ask for check');
    expect(await refusal(sign('carl', two.number))).toContain(
      `${top} uses ${part} A/1, which is not released`,
    );
    await step('eva', one.number, 'ask for check');
    await sign('carl', one.number);
    await sign('cora', one.number);
    expect(await state(part)).toBe('released');
    await sign('carl', two.number);
    await sign('anna', two.number);
    expect([await state(top), await state(two.number)]).toEqual(['released', 'carried out']);
    // What is done takes nothing more.
    expect(await refusal(checkOut('eva', [await newItem()], two.number))).toContain(
      'is carried out, so that nothing',
    );
  });

  it('goes nowhere where one of what it makes is held; what leaves it goes its own way', async () => {
    const [one, two] = [await newItem(), await newItem()];
    const { number } = await order('eva');
    await as('eva', 'POST', '/api/change/makes', { change: number, items: [one, two] });
    await step('eva', number, 'begin');
    await checkOut('egon', [two]);
    expect(await refusal(step('eva', number, 'ask for check'))).toBe(
      `STEP_REFUSED: ${two}: egon holds it; it must be let go first. Nothing was changed.`,
    );
    expect([await state(one), await state(number)]).toEqual(['draft', 'under way']);
    await as('egon', 'POST', '/api/holds/let-go', { items: [two] });
    await as('eva', 'POST', '/api/change/leaves', { change: number, items: [two] });
    await step('eva', number, 'ask for check');
    expect([await state(one), await state(two)]).toEqual(['in check', 'draft']);
  });

  it('counts every decision once, whoever decides at the same moment', async () => {
    const part = await newItem();
    const { number } = await order('eva');
    await as('eva', 'POST', '/api/change/makes', { change: number, items: [part] });
    await step('eva', number, 'begin');
    await step('eva', number, 'ask for check');
    const answers = await Promise.allSettled(
      ['carl', 'cora', 'anna', 'carl', 'cora', 'anna'].map((login) => sign(login, number)),
    );
    const done = answers.flatMap((each) =>
      each.status === 'fulfilled' && each.value.done.length > 0 ? [each] : [],
    );
    expect(done).toHaveLength(1);
    expect(answers.filter(({ status }) => status === 'fulfilled')).toHaveLength(2);
    expect([await state(part), await state(number)]).toEqual(['released', 'carried out']);
  });

  it('gives tasks to people, who are told, tick them off without changing what is signed, and see what is theirs', async () => {
    const task = { key: 't1', what: 'Order the foam', who: 'vito', until: '2026-12-01' };
    const { number, version } = await order('eva');
    await as('eva', 'PUT', '/api/change', {
      ...{ change: number, version, name: 'Damp it' },
      contents: { ...PLAIN, owner: 'egon', until: '2026-12-24', tasks: [task] },
    });
    const { rows } = await as<NoticesAnswer>('vito', 'GET', '/api/notices');
    expect(rows[0]).toMatchObject({ address: `/change?change=${number}` });
    expect(await as<MyTaskRow[]>('vito', 'GET', '/api/tasks')).toEqual([
      { change: number, name: 'Damp it', task: 't1', what: 'Order the foam', until: '2026-12-01' },
    ]);
    const other = as('vito', 'POST', '/api/change/tick', { change: number, task: 't2', done: true });
    expect(await refusal(other)).toContain('NOT_FOUND');
    await as('vito', 'POST', '/api/change/tick', { change: number, task: 't1', done: true });
    expect(await as<MyTaskRow[]>('vito', 'GET', '/api/tasks')).toEqual([]);
    expect(await view('eva', number)).toMatchObject({ version: 'A/2', tasks: [{ done: { by: 'vito' } }] });
  });
});

describe('who has something in hand', () => {
  it('is reminded before its day, on it, and once when it has passed, of what is open still', async () => {
    const tasks = ['a', 'b'].map((key) => ({ key, what: `Task ${key}`, who: 'vito', until: '2027-03-10' }));
    const { number } = await order('eva', { owner: 'egon', until: '2027-03-12', tasks });
    await as('vito', 'POST', '/api/change/tick', { change: number, task: 'b', done: true });
    const reminders = store.server.app.get(RemindersService);
    const told = async (login: string): Promise<string[]> =>
      (await as<NoticesAnswer>(login, 'GET', '/api/notices')).rows.flatMap(({ says, address }) =>
        says.includes('to be done') && address?.endsWith(number) ? [says] : [],
      );
    const on = (day: string): Promise<number> => reminders.remind(new Date(`${day}T10:00:00Z`));
    await on('2027-03-06');
    expect([await told('vito'), await told('egon')]).toEqual([[], []]);
    await on('2027-03-08');
    expect(await told('vito')).toEqual([`Task a (${number}) is to be done by 2027-03-10`]);
    expect(await told('egon')).toEqual([]);
    await Promise.all([on('2027-03-10'), on('2027-03-10')]);
    expect(await told('vito')).toHaveLength(2);
    await on('2027-03-14');
    await on('2027-03-20');
    expect((await told('vito'))[0]).toBe(`Task a (${number}) was to be done by 2027-03-10`);
    expect(await told('vito')).toHaveLength(3);
    expect((await told('egon'))[0]).toBe(`${number} Damp it was to be done by 2027-03-12`);
    await step('anna', number, 'abandon');
    expect(await on('2027-04-20')).toBe(0);
  });
});

describe('when an order takes effect', () => {
  const built = async (top: string, lens: string): Promise<string[]> =>
    (await store.made(top, `&lens=${encodeURIComponent(lens)}`)).rows.map(
      ({ number, version }) => `${number} ${version}`,
    );

  /** @returns the part that an order has revised, and what uses it, both released again */
  async function carriedOut(takesEffect: TakesEffect): Promise<{ part: string; top: string; co: string }> {
    const part = await newItem();
    const top = await newItem([part]);
    await released([part, top]);
    const { number: co } = await order('eva', { takesEffect, lines: [line('affects', part)] });
    await as('eva', 'POST', '/api/revise', { items: [part], reason: '', change: co });
    await again('eva', part);
    await as('eva', 'POST', '/api/holds/let-go', { items: [part] });
    await step('eva', co, 'begin');
    await step('eva', co, 'ask for check');
    await sign('carl', co);
    await sign('cora', co);
    expect(await state(part)).toBe('released');
    return { part, top, co };
  }

  it('what it makes counts from that day on, and what was before until then', async () => {
    const { part, top, co } = await carriedOut({ kind: 'on', day: '2031-05-01' });
    expect(await built(top, 'effective 2031-04-30')).toEqual([`${part} A/1`]);
    expect(await built(top, 'effective 2031-05-01')).toEqual([`${part} B/2`]);
    // Of serial numbers a day says nothing; what is released is.
    expect(await built(top, `effective 1 of ${top}`)).toEqual([`${part} B/2`]);
    expect(await built(top, 'released')).toEqual([`${part} B/2`]);
    const users = await store.used(part, '&lens=effective 2031-04-30');
    expect(users.rows.map(({ number }) => number)).toEqual([top]);
    const { files } = await store.fetch(top, '&lens=effective 2031-04-30');
    expect([...files.keys()].sort()).toEqual([`${part}.stp`, `${top}.stp`].sort());
    // Rows are held against what was signed; what they do not say yet is read from there.
    const faults = async (): Promise<readonly string[]> =>
      (await store.server.app.get(VerifyService).verify()).faults.filter((fault) => fault.startsWith(co));
    expect(await faults()).toEqual([]);
    await store.database.query(
      `UPDATE change SET spans = '{}' WHERE item_id = (SELECT id FROM item WHERE number = $1)`,
      [co],
    );
    expect(await built(top, 'effective 2031-04-30')).toEqual([`${part} B/2`]);
    expect(await faults()).toEqual([
      `${co}: violates: what a change says stands beside it as its file says it`,
    ]);
    await store.database.query(
      `UPDATE change SET spans = NULL WHERE item_id = (SELECT id FROM item WHERE number = $1)`,
      [co],
    );
    expect(await store.server.app.get(OldOrdersService).read()).toBe(1);
    expect(await faults()).toEqual([]);
    expect(await built(top, 'effective 2031-04-30')).toEqual([`${part} A/1`]);
    // What was given up limits nothing.
    await store.database.query(`UPDATE item SET state = 'abandoned' WHERE number = $1`, [co]);
    expect(await built(top, 'effective 2031-04-30')).toEqual([`${part} B/2`]);
  });

  it('what it makes is built into the pieces from a serial number on, of a product that there is', async () => {
    const product = await newItem();
    const at = { kind: 'from serial', product: product.toLowerCase(), serial: '100' } as const;
    const { part, top, co } = await carriedOut(at);
    expect((await view('eva', co)).contents.takesEffect).toEqual({ ...at, product });
    expect(await built(top, `effective 99 of ${product}`)).toEqual([`${part} A/1`]);
    expect(await built(top, `effective 100 of ${product}`)).toEqual([`${part} B/2`]);
    expect(await built(top, `effective 1 of ${top}`)).toEqual([`${part} B/2`]);
    expect(await refusal(order('eva', { takesEffect: { ...at, product: 'NONE-1' } }))).toMatch(
      /^ITEM_UNKNOWN: .*NONE-1/i,
    );
  });
});

describe('what changes say of items', () => {
  it('is found by words of the find box, and shown as redline, map and board', async () => {
    const part = await newItem();
    const top = await newItem([part]);
    await released([part, top]);
    const cr = await request('vito', { lines: [line('shows in', top)] });
    const { number: co } = await order('eva', {
      ...{ lines: [line('answers', cr.number), line('affects', top)], owner: 'egon', until: '2026-01-05' },
      ...{ costs: [{ kind: 'parts', what: 'Foam', amount: '12.50' }], currency: 'EUR' },
    });
    await as('eva', 'POST', '/api/revise', { items: [top], reason: '', change: co });
    await again('eva', top);
    const found = async (words: string): Promise<string[]> =>
      (
        await as<{ rows: { number: string }[] }>(
          'eva',
          'GET',
          `/api/items?words=${encodeURIComponent(words)}`,
        )
      ).rows.map(({ number }) => number);
    expect((await found(`in change ${co}`)).sort()).toEqual([cr.number, top].sort());
    expect(await found(`affected by ${co}`)).toEqual([top]);
    // By what somebody wrote in them.
    await as('eva', 'PUT', '/api/change', {
      ...{ change: co, version: 'A/1', name: 'Damp it well' },
      contents: {
        ...PLAIN,
        why: 'Resonance at 40 Hz',
        owner: 'egon',
        lines: [line('answers', cr.number), line('affects', top)],
      },
    });
    expect(await found('resonance')).toEqual([co]);
    expect(await found('"damp it well"')).toEqual([co]);
    expect(await found(`without change number = ${part}`)).toEqual([part]);
    const redline = await as<RedlineAnswer>('eva', 'GET', `/api/change/redline?change=${co}`);
    expect(redline.rows).toMatchObject([
      { number: top, from: 'A/1', to: 'B/2', whole: [expect.objectContaining({ what: 'note' })] },
    ]);
    const file = await store.call(
      'GET',
      `/api/change/redline/file?change=${co}&format=xml`,
      undefined,
      people.get('eva'),
    );
    const xml: unknown = new XMLParser({ ignoreAttributes: false }).parse(await file.text());
    expect(xml).toMatchObject({ change: { '@_number': co, makes: { '@_number': top, '@_from': 'A/1' } } });
    const pdf = await store.call(
      'GET',
      `/api/change/redline/file?change=${co}&format=pdf`,
      undefined,
      people.get('eva'),
    );
    expect(new TextDecoder().decode((await pdf.arrayBuffer()).slice(0, 5))).toBe('%PDF-');
    const { nodes, edges } = await as<ChangeMapAnswer>('eva', 'GET', `/api/change/map?change=${co}`);
    expect(nodes.map(({ number, role }) => [number, role]).sort()).toEqual(
      [
        [co, 'change'],
        [cr.number, 'request'],
        [top, 'makes'],
      ].sort(),
    );
    expect(edges.map(({ says }) => says).sort()).toEqual(['affects', 'answers', 'makes']);
    const board = await as<ChangeRow[]>('eva', 'GET', `/api/changes?item=${top}`);
    expect(
      board.map(({ number, state: at, waitsFor, products }) => [number, at, waitsFor, products]),
    ).toEqual([
      [co, 'planned', ['egon'], [top]],
      [cr.number, 'taken on', [expect.stringContaining('checker')], [top]],
    ]);
    expect(board[1]?.stays.map(({ state: at }) => at)).toEqual(['raised', 'taken on']);
  });

  it('prints the versions of its drawings over each other, and says which it cannot', async () => {
    const drawn = (item: string, note: string): Promise<unknown> =>
      store.intake(new Map([[`${item}.dxf`, dxf({ notes: [note] })]]), { place: '/parts' });
    await drawn('HD-1', 'Deburr');
    await drawn('HD-2', 'Paint');
    await released(['HD-1', 'HD-2']);
    const { number: co } = await order('eva', { lines: [line('affects', 'HD-1'), line('affects', 'HD-2')] });
    await store.call('POST', '/api/revise', { items: ['HD-1', 'HD-2'], reason: '', change: co });
    await drawn('HD-1', 'Deburr all edges');
    const file = await store.call(
      ...(['GET', `/api/change/redline/file?change=${co}&format=pdf`, undefined] as const),
      people.get('eva'),
    );
    const pdf = await getDocument({ data: new Uint8Array(await file.arrayBuffer()), verbosity: 0 }).promise;
    const pages = await Promise.all(
      Array.from({ length: pdf.numPages }, async (_, at) => {
        const { items } = await (await pdf.getPage(at + 1)).getTextContent();
        return items.map((item) => ('str' in item ? item.str : '')).join(' ');
      }),
    );
    expect(pages).toHaveLength(2);
    expect(pages[0]).toContain('Both laid over each other');
    expect(pages[0]).toMatch(/differs on Model at 1 place; see the pages/);
    expect(pages[0]).toContain('nothing that is drawn differs');
    expect(pages[1]).toContain('HD-1 A/1 → B/2, Model: differs at 1 place');
    expect(pages[1]).toContain('Deburr all edges');
  });

  it('is not told to who may not see the item, nor lost when they save', async () => {
    const secret = 'HS1';
    await store.intake(new Map([[`${secret}.stp`, stepFile({ id: secret })]]), { place: '/closed' });
    await as('anna', 'PUT', '/api/places/access', {
      ...{ place: '/closed', inherits: false },
      grants: [{ to: { kind: 'person', login: 'carl' }, rights: ['see'] }],
    });
    const { number, version } = await as<ChangeMade>('carl', 'POST', '/api/changes', {
      ...{ kind: 'order', name: 'Quiet' },
      contents: { ...PLAIN, lines: [line('affects', secret)] },
    });
    const seen = await view('eva', number);
    expect([seen.lines, seen.hidden]).toEqual([[], 1]);
    expect(await refusal(as('eva', 'GET', `/api/changes?item=${secret}`))).toContain('ITEM_UNKNOWN');
    expect((await as<ChangeMapAnswer>('eva', 'GET', `/api/change/map?change=${number}`)).hidden).toBe(1);
    await as('eva', 'PUT', '/api/change', {
      change: number,
      version,
      name: 'Quiet',
      contents: { ...PLAIN, why: 'Else' },
    });
    expect((await view('carl', number)).lines.map((each) => each.number)).toEqual([secret]);
  });
});
