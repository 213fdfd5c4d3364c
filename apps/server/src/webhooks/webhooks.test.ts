/** Webhooks: what happens is told once, signed, again where it was not taken; held against a receiver that shares nothing with it. */
import { createHmac } from 'node:crypto';
import { createServer, type IncomingHttpHeaders, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import type { DeliveryRow, WebhookMade, WebhookRow } from '@stem-trace/contract';
import { afterAll, afterEach, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { hooks } from '../../../standins/src/hooks.js';
import { stepFile } from '../../../../packages/formats/src/testing/step-sets.js';
import { TestStore } from '../testing/test-store.js';
import { WebhooksService } from './webhooks.service.js';

interface Got {
  readonly headers: IncomingHttpHeaders;
  readonly body: string;
}

let store: TestStore;
let boss: string;
let receiver: Server;
let address: string;
let got: Got[] = [];
/** What it answers with, one after another; 204 after that. */
let answers: number[] = [];

const addressOf = (server: Server): string => `http://127.0.0.1:${(server.address() as AddressInfo).port}/`;

beforeAll(async () => {
  store = await TestStore.open();
  boss = await store.tokenFor('anna', 'administrator');
  receiver = createServer((request, response) => {
    const chunks: Buffer[] = [];
    request.on('data', (chunk: Buffer) => chunks.push(chunk));
    request.on('end', () => {
      got.push({ headers: request.headers, body: Buffer.concat(chunks).toString('utf8') });
      const status = answers.shift() ?? 204;
      response.writeHead(status, { Location: 'http://127.0.0.1:1/' }).end(status === 204 ? '' : 'not today');
    });
  });
  await new Promise<void>((done) => receiver.listen(0, '127.0.0.1', done));
  address = addressOf(receiver);
});
afterAll(async () => {
  receiver.close();
  await store.close();
});
beforeEach(() => {
  got = [];
  answers = [];
});
afterEach(async () => {
  for (const { id } of await as<WebhookRow[]>('GET', '/api/webhooks'))
    await as('DELETE', `/api/webhooks/${id}`);
});

async function as<T>(method: string, path: string, body?: unknown): Promise<T> {
  const response = await store.call(method, path, body, { Authorization: `Bearer ${boss}` });
  return (await response.json()) as T;
}
const make = async (kinds: readonly string[], to = address): Promise<{ id: string; secret: string }> => {
  const { rows, secret } = await as<WebhookMade>('POST', '/api/webhooks', {
    name: 'Planning',
    address: to,
    kinds,
  });
  return { id: rows[0]?.id ?? '', secret };
};
const catchUp = (): Promise<void> => store.server.app.get(WebhooksService).catchUp();
const log = (id: string): Promise<DeliveryRow[]> => as('GET', `/api/webhooks/${id}/log`);
const soon = async (): Promise<void> => {
  const owner = await store.owner();
  await owner.query(`UPDATE webhook_delivery SET next_at = now() WHERE next_at <> 'infinity'`);
};

let made = 0;
async function happens(): Promise<string> {
  const id = `W${++made}`;
  await store.intake(new Map([[`${id}.stp`, stepFile({ id })]]), { place: '/hooks' });
  await store.json('POST', '/api/holds', { items: [id], reason: `reason <${made}> ✓` });
  return id;
}

describe('a webhook', () => {
  it('is told what happens of the kinds that were chosen, once, in order and signed', async () => {
    const { id, secret } = await make(['check out']);
    const [one, two] = [await happens(), await happens()];
    await catchUp();
    await catchUp();
    expect(got.map(({ headers }) => headers['stem-event'])).toEqual(['check out', 'check out']);
    const bodies = got.map(({ body }) => JSON.parse(body) as Record<string, unknown>);
    expect(bodies.map(({ item }) => item).sort()).toEqual([one, two].sort());
    const [first] = bodies;
    expect(first).toMatchObject({ kind: 'check out', person: { login: expect.any(String) as string } });
    expect(first?.['says']).toMatch(new RegExp(`checked out ${one}|checked out ${two}`));
    for (const { headers, body } of got) {
      const said = `${headers['stem-time'] as string}.${headers['stem-delivery'] as string}.${body}`;
      expect(headers['stem-seal']).toBe(`sha256=${createHmac('sha256', secret).update(said).digest('hex')}`);
    }
    expect((await log(id)).map(({ tries, sentAt, problem }) => [tries, sentAt !== null, problem])).toEqual([
      [1, true, null],
      [1, true, null],
    ]);
    // The secret is told once.
    expect(JSON.stringify(await as('GET', '/api/webhooks'))).not.toContain(secret);
  });

  it('is told again later where it did not take it, follows nobody elsewhere, and says why', async () => {
    const { id } = await make(['check out']);
    await happens();
    answers = [500, 302];
    await catchUp();
    expect((await log(id))[0]).toMatchObject({
      tries: 1,
      sentAt: null,
      problem: 'It answered 500: not today',
    });
    await catchUp();
    expect(got).toHaveLength(1);
    await soon();
    await catchUp();
    expect((await log(id))[0]).toMatchObject({ tries: 2, sentAt: null });
    expect((await log(id))[0]?.problem).toMatch(/^It does not answer: /);
    expect((await as<WebhookRow[]>('GET', '/api/webhooks'))[0]).toMatchObject({ waiting: 1, givenUp: 0 });
    await soon();
    await catchUp();
    expect((await log(id))[0]).toMatchObject({ tries: 3, problem: null });
    const ids = got.map(({ headers }) => headers['stem-delivery']);
    expect(new Set(ids).size).toBe(1);
  });

  it('is given up after so many tries, and when it is taken out', async () => {
    const { id } = await make(['check out'], 'http://127.0.0.1:1/');
    await happens();
    const owner = await store.owner();
    await owner.query('UPDATE webhook_delivery SET tries = 24 WHERE webhook_id = $1', [id]);
    await catchUp();
    expect((await log(id))[0]).toMatchObject({ tries: 25, isGivenUp: true });
    await happens();
    expect(await as('DELETE', `/api/webhooks/${id}`)).toEqual([]);
    await happens();
    const rows: unknown = await owner.query(
      'SELECT count(*)::int AS count FROM webhook_delivery WHERE webhook_id = $1 AND given_up_at IS NULL',
      [id],
    );
    expect(rows).toEqual([{ count: 0 }]);
  });

  it('is tried by a test that says at once what came of it, and is not tried again', async () => {
    const { id, secret } = await make(['step']);
    expect(await as('POST', '/api/webhooks/test', { id })).toMatchObject({
      kind: 'test',
      tries: 1,
      problem: null,
    });
    answers = [404];
    expect(await as('POST', '/api/webhooks/test', { id })).toMatchObject({
      isGivenUp: true,
      problem: 'It answered 404: not today',
    });
    await soon();
    await catchUp();
    expect(got).toHaveLength(2);
    expect(JSON.parse(got[0]?.body ?? '')).toMatchObject({ kind: 'test', item: null, person: null });
    expect(secret).toMatch(/^[\w-]{43}$/);
    await expect(as('POST', '/api/webhooks/test', { id: '999999' })).rejects.toThrow(/no such webhook/);
    for (const wrong of ['ftp://x/', 'javascript:alert(1)', 'x'])
      await expect(
        as('POST', '/api/webhooks', { name: 'x', address: wrong, kinds: ['step'] }),
      ).rejects.toThrow(/address/);
  });

  it('can be watched with the stand-in, which knows a seal that holds from one that does not', async () => {
    const standin = hooks();
    await new Promise<void>((done) => standin.listen(0, '127.0.0.1', done));
    const page = addressOf(standin);
    const { secret } = await make(['check out'], page);
    const item = await happens();
    await catchUp();
    const shown = async (with_: string): Promise<string> => (await fetch(`${page}?secret=${with_}`)).text();
    expect(await shown(secret)).toContain('<td>holds</td>');
    expect(await shown('wrong')).toContain('<td>does not hold</td>');
    const html = await shown(secret);
    expect(html).toContain(`checked out ${item}`);
    expect(html).toContain('&lt;');
    expect(html).not.toMatch(/reason <\d/);
    standin.close();
  });
});
