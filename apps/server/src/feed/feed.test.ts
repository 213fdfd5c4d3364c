import { once } from 'node:events';
import { connect, createServer, type AddressInfo, type Server } from 'node:net';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { TestStore } from '../testing/test-store.js';
import { announce, Feed } from './feed.js';
import { Freshness } from './freshness.js';

const LATE_MS = 300;

let store: TestStore;
let slow: Server;
let slowUrl: string;

beforeAll(async () => {
  store = await TestStore.open();
  const { hostname, port } = new URL(store.databaseUrl);
  slow = createServer((near) => {
    const far = connect(Number(port || 5432), hostname);
    near.pipe(far);
    far.on('data', (bytes) => setTimeout(() => near.destroyed || near.write(bytes), LATE_MS));
    near.on('close', () => far.destroy());
    far.on('close', () => near.end());
    for (const socket of [near, far]) socket.on('error', () => undefined);
  }).listen(0, '127.0.0.1');
  await once(slow, 'listening');
  const url = new URL(store.databaseUrl);
  url.hostname = '127.0.0.1';
  url.port = String((slow.address() as AddressInfo).port);
  slowUrl = url.href;
});
afterAll(async () => {
  slow.close();
  await store.close();
});

it('tells what changed only when nothing older is taken from memory, over whichever connection that is heard first', async () => {
  const freshness = new Freshness(slowUrl, store.database);
  const feed = new Feed(store.databaseUrl, () => freshness.settle());
  await Promise.all([freshness.onModuleInit(), feed.onModuleInit()]);
  await freshness.settle();
  const before = freshness.mark('store');
  expect(before).toBeDefined();
  // The jobs of the server that has just started are told too, and change nothing of the store.
  const told = new Promise<number | undefined>((done) =>
    feed.listen((kinds) => kinds.includes('items') && done(freshness.mark('store'))),
  );

  // As another server does it: what is told to people and what is told to memory are of one transaction.
  const owner = await store.owner();
  await owner.transaction(async (manager) => {
    await manager.query(`UPDATE place SET inherits = inherits WHERE path = '/'`);
    await announce(manager, 'items');
  });

  expect(await told).not.toBe(before);
  await Promise.all([freshness.onModuleDestroy(), feed.onModuleDestroy()]);
});
