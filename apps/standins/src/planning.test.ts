import { mkdtemp, rm } from 'node:fs/promises';
import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, expect, it } from 'vitest';
import { planning } from './planning.js';

let folder: string;
let server: Server;
let address: string;
const begin = async (): Promise<void> => {
  server = planning(folder);
  await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
  address = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
};
const end = (): Promise<unknown> => new Promise((done) => server.close(done));
beforeEach(async () => {
  folder = await mkdtemp(join(tmpdir(), 'stem-trace-planning-'));
  await begin();
});
afterEach(async () => {
  await end();
  await rm(folder, { recursive: true });
});

const XML = '<bom><item number="A &lt;b&gt;" version="A/1"><item number="C"/></item></bom>';
const post = async (key: string | undefined, body: string): Promise<number> =>
  (
    await fetch(`${address}/boms`, {
      method: 'POST',
      body,
      headers: key === undefined ? {} : { 'Idempotency-Key': key },
    })
  ).status;

it('takes what comes under a key once, keeps it over a restart, and shows it', async () => {
  expect([await post('1', XML), await post('1', XML), await post('2', XML)]).toEqual([201, 200, 201]);
  await end();
  await begin();
  expect(await post('1', XML)).toBe(200);
  const page = await (await fetch(address)).text();
  expect([...page.matchAll(/<tr><td>/g)]).toHaveLength(2);
  expect(page).toContain('A &lt;b&gt;');
  const [, link = ''] = /href="(\/boms\/[^"]+)"/.exec(page) ?? [];
  expect(await (await fetch(address + link)).text()).toBe(XML);
});

it('refuses what is no BOM, has no key, or is asked for nowhere', async () => {
  expect([await post(undefined, XML), await post('1', 'hello')]).toEqual([400, 422]);
  for (const path of ['/boms/../../etc/passwd', '/boms/x', `/boms/${'0'.repeat(64)}`])
    expect((await fetch(address + path)).status).toBe(404);
  expect((await fetch(address, { method: 'DELETE' })).status).toBe(405);
  expect(await (await fetch(address)).text()).toContain('Nothing has come yet');
});
