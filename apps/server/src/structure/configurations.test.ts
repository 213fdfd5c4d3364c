/** Configurations from the file to every question, into copies, and not past what one may see. */
import type { CompareAnswer, ConfigurationsAnswer, NetAnswer, StructureAnswer } from '@stem-trace/contract';
import { IDENTITY_PLACEMENT } from '@stem-trace/core';
import { readStep, writeStepAssembly } from '@stem-trace/formats';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { TestStore } from '../testing/test-store.js';

interface Use {
  readonly id: string;
  readonly configurations?: readonly string[];
}

function assembly(id: string, uses: readonly Use[]): Uint8Array {
  const ids = [...new Set(uses.map((use) => use.id))];
  return writeStepAssembly({
    id,
    name: `name of ${id}`,
    fileName: `${id}.stp`,
    time: '2026-01-01T00:00:00',
    children: ids.map((child) => ({ id: child, name: `name of ${child}`, locator: `${child}.stp` })),
    uses: uses.map(({ id: child, configurations = [] }, at) => ({
      child: ids.indexOf(child),
      name: `use ${at}`,
      placement: IDENTITY_PLACEMENT,
      configurations,
    })),
  });
}

let store: TestStore;
beforeAll(async () => {
  store = await TestStore.open();
  await store.intake(
    new Map([
      [
        'STATION.stp',
        assembly('STATION', [
          { id: 'MAST' },
          { id: 'HEATER', configurations: ['winter'] },
          { id: 'COVER', configurations: ['summer'] },
          { id: 'MAST', configurations: ['winter', 'storm'] },
        ]),
      ],
      ['MAST.stp', assembly('MAST', [{ id: 'BOLT' }, { id: 'BOLT', configurations: ['storm'] }])],
      ['HEATER.stp', assembly('HEATER', [{ id: 'BOLT' }])],
      ['COVER.stp', assembly('COVER', [])],
      ['BOLT.stp', assembly('BOLT', [])],
    ]),
    { place: '/stations' },
  );
});
afterAll(() => store.close());

const rowsOf = async (item: string, lens: string): Promise<string[]> =>
  (await store.made(item, `&lens=${encodeURIComponent(lens)}`)).rows.map(
    ({ level, number, quantity }) => `${level} ${number} ×${quantity}`,
  );

async function configurationsOf(item: string, headers: Record<string, string> = {}): Promise<unknown> {
  const answer = await store.call('GET', `/api/configurations?item=${item}`, undefined, headers);
  return ((await answer.json()) as ConfigurationsAnswer).configurations;
}

describe('a configuration', () => {
  it('leaves out what belongs to others only, on every level', async () => {
    expect(await rowsOf('STATION', 'recorded')).toEqual([
      '1 MAST ×1',
      '2 BOLT ×1',
      '2 BOLT ×1',
      '1 MAST ×1',
      '2 BOLT ×1',
      '2 BOLT ×1',
      '1 HEATER ×1',
      '2 BOLT ×1',
      '1 COVER ×1',
    ]);
    expect(await rowsOf('STATION', 'recorded in winter')).toEqual([
      '1 MAST ×1',
      '2 BOLT ×1',
      '1 MAST ×1',
      '2 BOLT ×1',
      '1 HEATER ×1',
      '2 BOLT ×1',
    ]);
    expect(await rowsOf('STATION', 'newest in summer')).toEqual(['1 MAST ×1', '2 BOLT ×1', '1 COVER ×1']);
    expect(await rowsOf('STATION', '2100-01-01 in storm')).toHaveLength(6);
  });

  it('counts upwards as it does downwards', async () => {
    const products = async (lens: string): Promise<string[]> =>
      (await store.used('BOLT', `&tops=true&lens=${encodeURIComponent(lens)}`)).rows.map(
        ({ number, total }) => `${number} ${total}`,
      );
    expect(await products('newest')).toEqual(['STATION 5']);
    expect(await products('newest in winter')).toEqual(['STATION 3']);
    // Where nothing uses the heater, it stands for itself.
    expect(await products('recorded in summer')).toEqual(['HEATER 1', 'STATION 1']);
    expect(await products('newest in storm')).toEqual(['HEATER 1', 'STATION 4']);
  });

  it('counts in columns, which ask for one level', async () => {
    const users = async (item: string, lens: string): Promise<string[]> => {
      const path = `/api/used?item=${item}&lens=${encodeURIComponent(lens)}`;
      const answer = (await (await store.call('GET', path)).json()) as StructureAnswer;
      return answer.rows.map(({ number, quantity }) => `${number} ${quantity}`);
    };
    expect(await users('COVER', 'newest')).toEqual(['STATION 1']);
    expect(await users('COVER', 'newest in winter')).toEqual([]);
    expect(await users('BOLT', 'recorded')).toEqual(['HEATER 1', 'MAST 2']);
    expect(await users('BOLT', 'recorded in winter')).toEqual(['HEATER 1', 'MAST 1']);
  });

  it('can be chosen where it decides about something below or above', async () => {
    expect(await configurationsOf('STATION')).toEqual(['storm', 'summer', 'winter']);
    expect(await configurationsOf('MAST')).toEqual(['storm', 'summer', 'winter']);
    expect(await configurationsOf('COVER')).toEqual(['storm', 'summer', 'winter']);
  });

  it('is said with the links of a net', async () => {
    const answer = await store.call('GET', '/api/net?item=STATION&side=made');
    const { nodes, links, configurations } = (await answer.json()) as NetAnswer;
    const said = configurations.map(([link, names]) => {
      const [from = -1, to = -1] = links[link] ?? [];
      return `${nodes[from]?.number} › ${nodes[to]?.number}: ${names.join(', ')}`;
    });
    expect(said.sort()).toEqual([
      'MAST › BOLT: storm',
      'STATION › COVER: summer',
      'STATION › HEATER: winter',
      'STATION › MAST: storm, winter',
    ]);
  });

  it('goes along into a copy, in the store and in its file', async () => {
    const made = await store.call('POST', '/api/derive', {
      item: 'STATION',
      copy: 'all',
      prefix: 'N-',
      key: 'configured copy',
    });
    expect(made.status).toBe(201);
    expect(await rowsOf('N-STATION', 'recorded in summer')).toEqual([
      '1 N-MAST ×1',
      '2 N-BOLT ×1',
      '1 N-COVER ×1',
    ]);
    const compared = await store.call(
      'GET',
      `/api/compare?from=STATION&to=N-STATION&lens=${encodeURIComponent('recorded in storm')}`,
    );
    const { rows } = (await compared.json()) as CompareAnswer;
    expect(rows.map(({ sign }) => sign)).not.toContain('added');
    expect(rows).toHaveLength(6);
    const file = await store.call('GET', '/api/file?item=N-STATION');
    const reading = readStep(new Uint8Array(await file.arrayBuffer()));
    expect(reading.uses.map(({ configurations }) => configurations)).toEqual([
      undefined,
      ['winter'],
      ['summer'],
      ['storm', 'winter'],
    ]);
  });

  it('is not told of by places that one may not see', async () => {
    const admin = { Authorization: `Bearer ${await store.tokenFor('boss', 'administrator')}` };
    const viewer = { Authorization: `Bearer ${await store.tokenFor('eve', 'viewer')}` };
    await store.call('POST', '/api/items/move', { items: ['STATION'], place: '/shut' }, admin);
    await store.call('PUT', '/api/places/access', { place: '/shut', inherits: false, grants: [] }, admin);
    expect(await configurationsOf('MAST', viewer)).toEqual(['storm']);
    const net = await store.call('GET', '/api/net?item=MAST&side=used', undefined, viewer);
    expect(((await net.json()) as NetAnswer).configurations).toEqual([]);
  });
});
