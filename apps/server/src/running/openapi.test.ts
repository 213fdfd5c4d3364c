import { createRequire } from 'node:module';
import { ROUTES } from '@stem-trace/contract';
import { Validator } from '@seriousme/openapi-schema-validator';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { answerSchemas } from '../../../../scripts/schemas.mjs';
import { TestStore } from '../testing/test-store.js';

let store: TestStore;
beforeAll(async () => {
  store = await TestStore.open();
});
afterAll(() => store.close());

it('is a description that an independent validator of OpenAPI 3.1 accepts', async () => {
  const response = await fetch(`${store.server.address}/api/openapi.json`);
  const description = (await response.json()) as { openapi: string; paths: Record<string, object> };
  const checked = await new Validator().validate(description);
  expect(checked.errors ?? []).toEqual([]);
  expect(checked.valid).toBe(true);
  expect(description.openapi).toBe('3.1.0');
  const described = Object.entries(description.paths).flatMap(([path, methods]) =>
    Object.keys(methods).map((method) => `${method.toUpperCase()} ${path.replace(/\{(\w+)\}/g, ':$1')}`),
  );
  expect(described.sort()).toEqual(Object.keys(ROUTES).sort());
});

it('has every schema that it refers to, and every name of an operation once', async () => {
  const text = await (await fetch(`${store.server.address}/api/openapi.json`)).text();
  const { components } = JSON.parse(text) as { components: { schemas: Record<string, object> } };
  for (const [, name = ''] of text.matchAll(/#\/components\/schemas\/(\w+)/g))
    expect(Object.keys(components.schemas)).toContain(name);
  const names = [...text.matchAll(/"operationId":"(\w+)"/g)].map(([, name]) => name);
  expect(new Set(names).size).toBe(names.length);
  expect(names).toHaveLength(Object.keys(ROUTES).length);
});

it('is written from the types as they are; else run `npm run schemas`', async () => {
  const kept = createRequire(import.meta.url)('@stem-trace/contract/answer-schemas.json') as object;
  expect(kept).toEqual(JSON.parse(await answerSchemas()));
}, 120_000);

it('comes with a page to try it that loads nothing from elsewhere', async () => {
  const page = await (await fetch(`${store.server.address}/api/docs`)).text();
  const addresses = [...page.matchAll(/(?:src|href)="([^"]+)"/g)].map(([, address = '']) => address);
  expect(addresses.length).toBeGreaterThan(2);
  for (const address of addresses) {
    expect(address).toMatch(/^\/api\/docs\//);
    expect((await fetch(store.server.address + address)).status).toBe(200);
  }
});
