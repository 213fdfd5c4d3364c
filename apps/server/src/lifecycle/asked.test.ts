/** Who is asked to decide: by name, passed on, while somebody is away; until when, and who is reminded. */
import type {
  LifecyclesAnswer,
  NoticesAnswer,
  SheetRow,
  SheetView,
  StepAnswer,
  Substitution,
} from '@stem-trace/contract';
import { DataSource } from 'typeorm';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { stepFile } from '../../../../packages/formats/src/testing/step-sets.js';
import { Refused, TestStore } from '../testing/test-store.js';
import { SheetReminders } from './sheet-reminders.js';

let store: TestStore;
const tokens = new Map<string, string>();
beforeAll(async () => {
  store = await TestStore.open();
  for (const [login, role] of [
    ...([['sender', 'engineer'], ['ck-one', 'checker'], ['ck-two', 'checker']] as const), // prettier-ignore
    ...([['ck-three', 'checker'], ['boss', 'administrator'], ['reader', 'viewer']] as const), // prettier-ignore
  ])
    tokens.set(login, await store.tokenFor(login, role));
});
afterAll(() => store.close());

async function as<T>(login: string, method: string, path: string, body?: unknown): Promise<T> {
  const response = await store.call(method, path, body, { Authorization: `Bearer ${tokens.get(login)}` });
  return response.status === 204 ? (undefined as T) : ((await response.json()) as T);
}

const refused = (work: Promise<unknown>): Promise<string> =>
  work.then(
    () => 'done',
    (error: unknown) => (error instanceof Refused ? error.problem.detail : String(error)),
  );

let made = 0;
async function sent(more: { for?: readonly string[]; until?: string } = {}): Promise<string> {
  const id = `A${++made}`;
  await store.intake(new Map([[`${id}.stp`, stepFile({ id })]]), { place: '/asked' });
  const answer = await as<StepAnswer>('sender', 'POST', '/api/steps', {
    ...{ items: [id], step: 'ask for check', reason: '', ...more },
  });
  return answer.sheet ?? '';
}

const rowOf = async (login: string, sheet: string): Promise<SheetRow | undefined> =>
  (await as<SheetRow[]>(login, 'GET', '/api/sheets')).find(({ id }) => id === sheet);
const notices = async (login: string): Promise<string[]> =>
  (await as<NoticesAnswer>(login, 'GET', '/api/notices')).rows.map(({ says }) => says);
const today = (days = 0): string => new Date(Date.now() + days * 86_400_000).toISOString().slice(0, 10);

it('waits for those alone who are asked by name, and only they are told', async () => {
  const sheet = await sent({ for: ['ck-two'], until: today(3) });
  expect([(await rowOf('ck-one', sheet))?.isMine, (await rowOf('ck-two', sheet))?.isMine]).toEqual([
    false,
    true,
  ]);
  expect(await rowOf('ck-two', sheet)).toMatchObject({
    ...{ asked: [{ login: 'ck-two', name: 'ck-two', substitute: null }], until: today(3), isLate: false },
  });
  const says = `sender sent A${made} A/1 for checking`;
  expect(await notices('ck-two')).toContain(says);
  expect(await notices('ck-one')).not.toContain(says);
  // The desk says the same as the list.
  const waiting = await as<{ sheet: string | null }[]>('ck-one', 'GET', '/api/checks');
  expect(waiting.map((each) => each.sheet)).not.toContain(sheet);
  // Whoever else may decide still may.
  await as('ck-one', 'POST', '/api/steps', { items: [`A${made}`], step: 'release', reason: '' });
});

it('refuses to ask who may not decide, or where nothing is handed on', async () => {
  expect(await refused(sent({ for: ['reader'] }))).toMatch(/reader may not decide about A/);
  expect(await refused(sent({ for: ['nobody'] }))).toMatch(/nobody who signs in as nobody/);
  const sheet = await sent();
  const [row] = (await as<SheetView>('ck-one', 'GET', `/api/sheets/${sheet}`)).rows;
  const back = { items: [row?.number ?? ''], step: 'send back', reason: 'x', for: ['ck-two'] };
  expect(await refused(as('ck-one', 'POST', '/api/steps', back))).toMatch(/hands nothing on to a check/);
  expect((await as<SheetView>('ck-one', 'GET', `/api/sheets/${sheet}`)).undecided).toBe(1);
});

it('is passed on by who is asked, and waits for the other one then', async () => {
  const sheet = await sent();
  await as('ck-one', 'POST', '/api/sheets/pass', { sheet, to: 'ck-three', reason: 'Not my field' });
  expect([(await rowOf('ck-one', sheet))?.isMine, (await rowOf('ck-three', sheet))?.isMine]).toEqual([
    false,
    true,
  ]);
  const says = `ck-one passed A${made} A${made} on to ck-three: Not my field`;
  expect(await notices('ck-three')).toContain(says);
  expect(await notices('sender')).toContain(says);
  expect(
    await refused(as('ck-one', 'POST', '/api/sheets/pass', { sheet, to: 'ck-two', reason: '' })),
  ).toMatch(/does not wait for you/);
  expect(
    await refused(as('ck-three', 'POST', '/api/sheets/pass', { sheet, to: 'ck-three', reason: '' })),
  ).toMatch(/somebody else/);
  // Back again, and no further than to who may.
  await as('ck-three', 'POST', '/api/sheets/pass', { sheet, to: 'ck-one', reason: '' });
  expect((await rowOf('ck-one', sheet))?.isMine).toBe(true);
});

it('reaches who stands in, within the days that were said and by the rights they have', async () => {
  const away: Substitution = { substitute: 'ck-three', from: today(-1), to: today(1) };
  expect(await as('ck-two', 'PUT', '/api/substitute', away)).toEqual(away);
  const sheet = await sent({ for: ['ck-two'] });
  expect((await rowOf('ck-three', sheet))?.isMine).toBe(true);
  expect((await rowOf('sender', sheet))?.asked[0]?.substitute).toBe('ck-three');
  expect(await notices('ck-three')).toContain(
    `sender sent A${made} A/1 for checking (for ck-two, who is away)`,
  );
  // Where both are asked anyway, nothing is said twice.
  await sent();
  expect((await notices('ck-three')).filter((says) => says.startsWith(`sender sent A${made} `))).toHaveLength(
    1,
  );

  await as('ck-two', 'PUT', '/api/substitute', { ...away, to: today(-1) });
  expect((await rowOf('ck-three', sheet))?.isMine).toBe(false);
  // Who stands in gains nothing by it.
  await as('ck-two', 'PUT', '/api/substitute', { ...away, substitute: 'reader' });
  expect((await rowOf('reader', sheet))?.isMine).toBe(false);
  expect(
    await refused(as('reader', 'POST', '/api/sheets/pass', { sheet, to: 'ck-one', reason: '' })),
  ).toMatch(/may look but not change/);
  expect(await refused(as('ck-two', 'PUT', '/api/substitute', { ...away, substitute: 'ck-two' }))).toMatch(
    /somebody else/,
  );
  expect(await refused(as('ck-two', 'PUT', '/api/substitute', { ...away, from: today(5) }))).toMatch(
    /from which day to which/,
  );
  await as('ck-two', 'PUT', '/api/substitute', { substitute: '', from: '', to: '' });
});

it('reminds the day before, on the day and after it, each once; then also whoever leads', async () => {
  const { lifecycles } = await as<LifecyclesAnswer>('boss', 'GET', '/api/lifecycles');
  const items = lifecycles.find(({ diagram }) => diagram.name === 'Items');
  await as('boss', 'POST', '/api/lifecycles', {
    ...{ id: items?.id, scopes: items?.scopes, comment: '' },
    diagram: {
      ...items?.diagram,
      steps: items?.diagram.steps.map((step) =>
        step.name === 'ask for check'
          ? { ...step, due: { days: 2, lead: [{ kind: 'role', role: 'administrator' }] } }
          : step,
      ),
    },
  });
  const sheet = await sent({ for: ['ck-two'] });
  expect((await rowOf('sender', sheet))?.until).toBe(today(2));
  const reminders = store.server.app.get(SheetReminders);
  const number = `A${made}`;
  const said = async (login: string): Promise<string[]> =>
    (await notices(login)).filter((says) => says.startsWith(`${number} `)).toReversed();
  const at = (days: number): Date => new Date(Date.now() + days * 86_400_000);
  for (const days of [0, 1, 1, 2, 2, 3, 3]) await reminders.remind(at(days));
  const name = `${number} ${number}`;
  expect(await said('ck-two')).toEqual([
    `${name} is to be decided by ${today(2)}`,
    `${name} is to be decided today`,
    `${name} was to be decided by ${today(2)}`,
  ]);
  expect(await said('boss')).toEqual([`${name} was to be decided by ${today(2)}`]);
  expect(await said('ck-one')).toEqual([]);

  // What is decided is reminded of no more; where nobody is asked by name, all who may are.
  const open = await sent();
  const done = await sent();
  await as('ck-one', 'POST', '/api/steps', { items: [`A${made}`], step: 'release', reason: '' });
  expect(await reminders.remind(at(4))).toBe(1);
  expect((await notices('ck-one'))[0]).toBe(`A${made - 1} A${made - 1} was to be decided by ${today(2)}`);
  expect([open, done].every((each) => each !== '')).toBe(true);
});

it('servers that look at once remind once', async () => {
  await sent({ for: ['ck-one'], until: today() });
  const { app } = store.server;
  const one = app.get(SheetReminders);
  const before = (await notices('ck-one')).length;
  await Promise.all(Array.from({ length: 4 }, () => one.remind(new Date())));
  expect((await notices('ck-one')).length).toBe(before + 1);
  expect(app.get(DataSource).isInitialized).toBe(true);
});
