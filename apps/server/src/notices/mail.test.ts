/** Mail: who is told what in which way, once, with links; held against a mail server that shares nothing with the sender. */
import { mkdtemp, rm } from 'node:fs/promises';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import {
  NOTICE_KINDS,
  type NoticesAnswer,
  type NoticeSetting,
  type NoticeSettingAnswer,
} from '@stem-trace/contract';
import { afterAll, afterEach, beforeAll, describe, expect, it, vi } from 'vitest';
import { kept, mailbox, type KeptMail } from '../../../standins/src/mail.js';
import { stepFile } from '../../../../packages/formats/src/testing/step-sets.js';
import { RightsService } from '../access/rights.service.js';
import type { Feed } from '../feed/feed.js';
import type { JobQueue } from '../queue/job-queue.js';
import { TestStore } from '../testing/test-store.js';
import { MailService } from './mail.service.js';
import { mailText } from './mail-text.js';

let store: TestStore;
let folder: string;
let box: ReturnType<typeof mailbox>;
let smtp: string;
const tokens = new Map<string, string>();

beforeAll(async () => {
  store = await TestStore.open();
  for (const [login, role] of [
    ['eva', 'engineer'],
    ['carl', 'checker'],
    ['cora', 'checker'],
    ['anna', 'administrator'],
  ] as const)
    tokens.set(login, await store.tokenFor(login, role));
  folder = await mkdtemp(join(tmpdir(), 'stem-trace-mail-'));
  box = mailbox(folder);
  await new Promise<void>((done) => box.listen(0, '127.0.0.1', done));
  smtp = `smtp://127.0.0.1:${(box.server.address() as AddressInfo).port}`;
});
afterAll(async () => {
  await new Promise<void>((done) => box.close(() => done()));
  await store.close();
  await rm(folder, { recursive: true });
});
afterEach(() => vi.useRealTimers());

async function as<T>(login: string, method: string, path: string, body?: unknown): Promise<T> {
  const response = await store.call(method, path, body, { Authorization: `Bearer ${tokens.get(login)}` });
  return response.status === 204 ? (undefined as T) : ((await response.json()) as T);
}

function ways(mail: string, changed: Partial<NoticeSetting['ways']> = {}): NoticeSetting {
  const all = Object.fromEntries(NOTICE_KINDS.map((kind) => [kind, 'desk'])) as NoticeSetting['ways'];
  return { mail, ways: { ...all, ...changed } };
}

/** The service by itself, without anything that would call it. */
async function sender(address = smtp): Promise<MailService> {
  const database = await store.owner();
  return new MailService(
    { address, from: 'stem@store.example', publicAddress: 'https://store.example/', inBackground: false },
    database,
    store.server.app.get(RightsService),
    undefined as unknown as Feed,
    undefined as unknown as JobQueue,
  );
}

const mailsTo = async (mail: string): Promise<KeptMail[]> =>
  (await kept(folder)).filter(({ to }) => to === mail);

let made = 0;
async function sentForCheck(place = '/mail'): Promise<string> {
  const id = `L${++made}`;
  await store.intake(new Map([[`${id}.stp`, stepFile({ id })]]), { place });
  await as('eva', 'POST', '/api/steps', { items: [id], step: 'ask for check', reason: 'Look' });
  return id;
}

describe('what is told by mail', () => {
  it('is what somebody chose, in one mail with a link to the very thing, and once', async () => {
    await as('carl', 'PUT', '/api/notices/ways', ways('carl@store.example', { 'to check': 'at once' }));
    await as('cora', 'PUT', '/api/notices/ways', ways('cora@store.example', { 'to check': 'none' }));
    const [one, two] = [await sentForCheck(), await sentForCheck()];
    const mail = await sender();
    await Promise.all([mail.catchUp(), mail.catchUp()]);
    await mail.catchUp();
    const mails = await mailsTo('carl@store.example');
    expect(mails).toHaveLength(1);
    expect(mails[0]?.subject).toBe(`eva sent ${one} A/1 for checking: Look (and 1 more)`);
    expect(mails[0]?.text).toMatch(
      new RegExp(
        `eva sent ${one} A/1 for checking: Look\\nhttps://store.example/check/\\d+\\n\\neva sent ${two} `,
      ),
    );
    expect(await mailsTo('cora@store.example')).toEqual([]);
    // Not at all is not on the desk either; by mail is.
    expect((await as<NoticesAnswer>('cora', 'GET', '/api/notices')).rows).toEqual([]);
    expect((await as<NoticesAnswer>('carl', 'GET', '/api/notices')).rows).toHaveLength(2);
  });

  it('goes once a day where that was chosen: what came before the hour, together', async () => {
    await as('carl', 'PUT', '/api/notices/ways', ways('daily@store.example', { 'to check': 'daily' }));
    const [one] = [await sentForCheck(), await sentForCheck()];
    const mail = await sender();
    await mail.catchUp();
    expect(await mailsTo('daily@store.example')).toEqual([]);
    const owner = await store.owner();
    await owner.query(`UPDATE notice SET at = at - interval '1 day' WHERE way = 'daily'`);
    await mail.catchUp();
    const mails = await mailsTo('daily@store.example');
    expect(mails.map(({ subject }) => subject)).toEqual([
      `eva sent ${one} A/1 for checking: Look (and 1 more)`,
    ]);
  });

  it('is tried again later where nobody takes it, and said to whom it concerns until then', async () => {
    await as('carl', 'PUT', '/api/notices/ways', ways('late@store.example', { 'to check': 'at once' }));
    await sentForCheck();
    await (await sender('smtp://127.0.0.1:1')).catchUp();
    const waits = await as<NoticeSettingAnswer>('carl', 'GET', '/api/notices/ways');
    expect(waits.problem).toMatch(/ECONNREFUSED|connect/);
    await (await sender()).catchUp();
    expect(await mailsTo('late@store.example')).toEqual([]);
    const owner = await store.owner();
    await owner.query(`UPDATE notice SET mail_next = now() WHERE mailed_at IS NULL`);
    await (await sender()).catchUp();
    expect(await mailsTo('late@store.example')).toHaveLength(1);
    expect((await as<NoticeSettingAnswer>('carl', 'GET', '/api/notices/ways')).problem).toBeNull();
  });

  it('names nothing that may not be seen any more', async () => {
    await as('carl', 'PUT', '/api/notices/ways', ways('shut@store.example', { 'to check': 'at once' }));
    const seen = await sentForCheck();
    await sentForCheck('/shut');
    await as('anna', 'PUT', '/api/places/access', { place: '/shut', inherits: false, grants: [] });
    await (await sender()).catchUp();
    const [mail] = await mailsTo('shut@store.example');
    expect(mail?.subject).toBe(`eva sent ${seen} A/1 for checking: Look`);
    expect(mail?.text).not.toContain(`L${made}`);
  });

  it('cannot be given another head or another reader by what somebody writes', async () => {
    await as('carl', 'PUT', '/api/notices/ways', ways('plain@store.example', { 'to check': 'at once' }));
    const id = `L${++made}`;
    await store.intake(new Map([[`${id}.stp`, stepFile({ id })]]), { place: '/mail' });
    const reason = 'x\r\nBcc: other@elsewhere.example\r\n\r\nBuy';
    await as('eva', 'POST', '/api/steps', { items: [id], step: 'ask for check', reason });
    await (await sender()).catchUp();
    const [mail] = await mailsTo('plain@store.example');
    expect(mail?.subject).toContain('x Bcc: other@elsewhere.example Buy');
    expect(await mailsTo('other@elsewhere.example')).toEqual([]);
    for (const wrong of ['a b', 'x@y\r\nz', 'a@b, c@d'])
      await expect(as('carl', 'PUT', '/api/notices/ways', ways(wrong))).rejects.toThrow(/mail/);
  });
});

it('says in a mail what fits into a subject, as many as fit into a mail, and where more is', () => {
  const notices = Array.from({ length: 203 }, (_, at) => ({
    says: `Notice ${at} ${'word '.repeat(30)}`,
    address: `/a?b=${at}`,
  }));
  const { subject, text } = mailText(notices, { name: 'Eva', publicAddress: 'https://store.example' });
  expect([...subject].length).toBeLessThanOrEqual(71);
  expect(subject).toMatch(/^Notice 0 .*… \(and 202 more\)$/);
  expect(text).toContain('https://store.example/a?b=199');
  expect(text).not.toContain('b=200');
  expect(text).toContain('… and 3 more, on your desk.');
  expect(mailText([{ says: 'One', address: '/x' }], { name: 'Eva', publicAddress: '' }).text).toContain(
    'One\n/x',
  );
});
