import { createServer, type IncomingMessage, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { afterEach, beforeEach, expect, it } from 'vitest';
import { shop } from './shop.js';

const BATCH = '6a4f1f0e-6f0c-4a39-9d4a-2d5f0a8c1b11';

const WISHES = [
  {
    ...{ name: 'arm', label: 'Arm <length>', kind: 'number', unit: 'm', least: 1, most: 2 },
    ...{ choices: [], otherwise: '1.4' },
  },
  {
    ...{ name: 'heater', label: 'Heater', kind: 'yes/no', unit: '', least: null, most: null },
    ...{ choices: [], otherwise: 'no' },
  },
];

/** Stem Trace as far as the shop knows it. */
class Store {
  readonly server: Server = createServer((request, response) => {
    void this.answer(request).then(({ status, body, cookie }) => {
      response
        .writeHead(status, {
          'Content-Type': 'application/json',
          ...(cookie ? { 'Set-Cookie': cookie } : {}),
        })
        .end(JSON.stringify(body));
    });
  });
  readonly ordered: unknown[] = [];
  /** Sessions that hold. */
  session = 0;
  order = {
    ...{ for: 'A <b>', wishes: { arm: '1.6' }, says: '', dangling: null as number | null },
    ...{ state: 'waiting', variant: null as string | null, leaking: null as number | null },
  };

  private async answer(
    request: IncomingMessage,
  ): Promise<{ status: number; body: unknown; cookie?: string }> {
    const chunks: Buffer[] = [];
    for await (const chunk of request as AsyncIterable<Buffer>) chunks.push(chunk);
    const text = Buffer.concat(chunks).toString();
    const body: unknown = text === '' ? undefined : JSON.parse(text);
    if (request.url === '/api/session') {
      if ((body as { password: string }).password !== 'right') return { status: 401, body: { detail: 'no' } };
      return { status: 200, body: {}, cookie: `session=${++this.session}; HttpOnly` };
    }
    if (request.headers.cookie !== `session=${this.session}`)
      return { status: 401, body: { detail: 'sign in' } };
    if (request.url === '/api/recipe?item=FR-1')
      return { status: 200, body: { name: 'Stations', recipe: { wishes: WISHES } } };
    if (request.url === '/api/wishes') {
      this.ordered.push(body);
      return { status: 201, body: { batch: BATCH } };
    }
    if (request.url === `/api/wishes?recipe=&batch=${BATCH}`) return { status: 200, body: [this.order] };
    return { status: 200, body: [] };
  }
}

const addressOf = (server: Server): string => `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
const listen = (server: Server): Promise<void> =>
  new Promise((done) => server.listen(0, '127.0.0.1', () => done()));

let store: Store;
let front: Server;
let address: string;
beforeEach(async () => {
  store = new Store();
  await listen(store.server);
  front = shop({ store: addressOf(store.server), login: 'shop', password: 'right', recipe: 'FR-1' });
  await listen(front);
  address = addressOf(front);
});
afterEach(() => {
  front.close();
  store.server.close();
});

const post = (body: string, headers: Record<string, string> = {}): Promise<Response> =>
  fetch(`${address}/orders`, { method: 'POST', body, headers, redirect: 'manual' });

it('asks for the wishes of the recipe, in words that cannot become a page of their own', async () => {
  const html = await (await fetch(address)).text();
  expect(html).toContain('Arm &lt;length&gt; in m, from 1 to 2');
  expect(html).toContain('name="wish arm" value="1.4"');
  expect(html).toContain('<option selected>no</option>');
});

it('sends an order as a wish sheet, signs in again where the session has ended, and tells what came of it', async () => {
  await fetch(address);
  store.session++;
  const answer = await post('customer=River+board&wish+arm=1.6&wish+heater=&other=1');
  expect([answer.status, answer.headers.get('location')]).toEqual([303, `/orders/${BATCH}`]);
  expect(store.ordered).toEqual([
    { recipe: 'FR-1', sheets: [{ for: 'River board', wishes: { arm: '1.6' } }] },
  ]);
  const told = async (): Promise<string> => (await fetch(`${address}/orders/${BATCH}`)).text();
  expect(await told()).toMatch(/http-equiv="refresh"[^]*Order for A &lt;b&gt;[^]*is being made/);
  Object.assign(store.order, { state: 'made', variant: 'FS-1', dangling: 0, leaking: 0 });
  expect(await told()).toMatch(/trace\?item=FS-1"[^]*hold together/);
  expect(await told()).not.toContain('http-equiv');
  Object.assign(store.order, { state: 'failed', says: 'Rule “Arm”: no <arm>' });
  expect(await told()).toContain('Rule “Arm”: no &lt;arm&gt;');
});

it('refuses what other pages send, too much, and what there is not', async () => {
  expect((await post('wish+arm=1', { Origin: 'http://elsewhere' })).status).toBe(403);
  expect((await post('x'.repeat(70_000))).status).toBe(413);
  expect((await fetch(`${address}/orders/${BATCH.replace('6', '7')}`)).status).toBe(404);
  expect((await fetch(address, { method: 'PUT' })).status).toBe(405);
  expect(store.ordered).toEqual([]);
});

it('says in words that it cannot sign in', async () => {
  const other = shop({ store: addressOf(store.server), login: 'shop', password: 'wrong', recipe: 'FR-1' });
  await listen(other);
  const answer = await fetch(addressOf(other));
  expect([answer.status, await answer.text()]).toEqual([
    502,
    'The shop could not sign in to Stem Trace as shop.\n',
  ]);
  other.close();
});
