/** What is handed out: bytes and manifest agree, nothing that one may not have is in it, and the trail knows. */
import { createHash } from 'node:crypto';
import type { AuditAnswer, FetchManifest } from '@stem-trace/contract';
import { unzipSync } from 'fflate';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { readExchangeSet } from '../../../../packages/formats/src/testing/exchange-files.js';
import { stepFile } from '../../../../packages/formats/src/testing/step-sets.js';
import { TestStore } from '../testing/test-store.js';

let store: TestStore;
const SET = readExchangeSet('s1_pe_214');

beforeAll(async () => {
  store = await TestStore.open();
  await store.intake(SET, { place: '/ship' });
});
afterAll(() => store.close());

const sha256 = (bytes: Uint8Array): string => createHash('sha256').update(bytes).digest('hex');

async function bytesOf(item: string, token = store.token): Promise<Uint8Array> {
  const headers = { Authorization: `Bearer ${token}` };
  const response = await store.call('GET', `/api/fetch?item=${encodeURIComponent(item)}`, undefined, headers);
  return new Uint8Array(await response.arrayBuffer());
}

describe('a working copy', () => {
  it('has every file below once, as the manifest says it, byte for byte', async () => {
    const { files, manifest } = await store.fetch('S1_PE_TOP');
    expect(manifest).toMatchObject({ item: 'S1_PE_TOP', version: 'A/1', left: [] });
    expect([...files.keys()].sort()).toEqual(manifest.files.map(({ path }) => path).sort());
    expect(files.size).toBe(SET.size);
    for (const { path, sha256: said } of manifest.files)
      expect([path, sha256(files.get(path) ?? new Uint8Array())]).toEqual([path, said]);
    // Nothing was renamed, so that what goes out is what came in.
    const stored = new Set([...SET.values()].map(sha256));
    expect(manifest.files.filter((file) => !stored.has(file.stored))).toEqual([]);
    expect(manifest.rewritten).toBe(manifest.files.filter((file) => file.sha256 !== file.stored).length);
  });

  it('is the same archive each time', async () => {
    expect(sha256(await bytesOf('TAIL_ASM'))).toBe(sha256(await bytesOf('TAIL_ASM')));
  });

  it('is in the trail, with who took it and what', async () => {
    await bytesOf('TAIL_ASM');
    const headers = { Authorization: `Bearer ${await store.tokenFor('root', 'administrator')}` };
    const response = await store.call('GET', '/api/audit?kind=fetch&item=TAIL_ASM', undefined, headers);
    const { rows } = (await response.json()) as AuditAnswer;
    expect(rows[0]?.says).toMatch(/^ada fetched TAIL_ASM A\/1, \d+ files$/);
  });

  it('of an older version has the bytes that it had', async () => {
    const versions = [1, 2, 3].map((count) => stepFile({ id: 'OLD', uses: [{ id: 'OLD-NUT', count }] }));
    for (const bytes of versions) {
      await store.json('POST', '/api/holds', { items: ['OLD'], reason: '' }).catch(() => undefined);
      await store.intake(new Map([['old.stp', bytes]]), { place: '/old' });
    }
    for (const [at, bytes] of versions.entries()) {
      const { files, manifest } = await store.fetch(`OLD@A/${at + 1}`);
      expect(manifest.version).toBe(`A/${at + 1}`);
      expect([...files.values()].map(sha256)).toEqual([sha256(bytes)]);
    }
  });

  it('leaves out what one may not fetch, and says that it did', async () => {
    await store.intake(
      new Map([
        ['kept.stp', stepFile({ id: 'KEPT' })],
        ['asm.stp', stepFile({ id: 'OPEN-ASM', uses: [{ id: 'KEPT', locator: 'kept.stp' }] })],
      ]),
      { place: '/half' },
    );
    await store.call('POST', '/api/items/move', { items: ['KEPT'], place: '/half/kept' });
    const root = { Authorization: `Bearer ${await store.tokenFor('root', 'administrator')}` };
    const viewers = { to: { kind: 'role', role: 'viewer' }, rights: ['see'] };
    const access = { place: '/half/kept', inherits: false, grants: [viewers] };
    await store.call('PUT', '/api/places/access', access, root);
    const viewer = await store.tokenFor('vera', 'viewer');
    const entries = unzipSync(await bytesOf('OPEN-ASM', viewer));
    const { 'stem-trace.json': said, ...files } = entries;
    const manifest = JSON.parse(new TextDecoder().decode(said)) as FetchManifest;
    expect(Object.keys(files)).toEqual(['asm.stp']);
    expect(manifest.left.map(({ file }) => file)).toEqual(['asm.stp']);
    expect(manifest.left[0]?.reason).toMatch(/'kept.stp' is left out: you may not/);
    expect(manifest.files[0]?.references?.[0]).toMatchObject({ number: 'KEPT', version: null });
    await expect(bytesOf('KEPT', viewer)).rejects.toMatchObject({ status: 403 });
  });
});

describe('a lens', () => {
  it('decides which versions of the parts come along', async () => {
    const part = (note: string): Uint8Array =>
      stepFile({ id: 'L-PART', more: `#90001=CARTESIAN_POINT('${note}',(0.,0.,0.));\n` });
    const asm = stepFile({ id: 'L-ASM', uses: [{ id: 'L-PART', locator: 'part.stp' }] });
    await store.intake(
      new Map([
        ['part.stp', part('one')],
        ['asm.stp', asm],
      ]),
      { place: '/lens' },
    );
    await store.json('POST', '/api/holds', { items: ['L-PART'], reason: '' });
    await store.intake(new Map([['part.stp', part('two')]]), { place: '/lens' });
    const noteIn = async (lens: string): Promise<string | undefined> => {
      const { files } = await store.fetch('L-ASM@A/1', `&lens=${lens}`);
      const bytes = [...files].find(([path]) => path.endsWith('part.stp'))?.[1];
      return bytes && /'(one|two)'/.exec(new TextDecoder().decode(bytes))?.[1];
    };
    expect(await noteIn('recorded')).toBe('one');
    expect(await noteIn('newest')).toBe('two');
    // Nothing of it is released: only what was asked for comes.
    expect(await noteIn('released')).toBeUndefined();
  });
});

it('under Released, an item without a released version is refused by every question alike', async () => {
  await store.intake(
    new Map([['only-draft.stp', stepFile({ id: 'ONLY-DRAFT', uses: [{ id: 'OD-PART' }] })]]),
    {
      place: '/drafts',
    },
  );
  for (const path of [
    'made?all=true&',
    'bill?',
    'bill/file?format=csv&',
    'fetch?',
    'fetch/plan?',
    'fetch/joined?',
    'scene?',
  ])
    for (const lens of ['released', '2001-01-01', 'effective 2001-01-01'])
      await expect(
        store.call('GET', `/api/${path}item=ONLY-DRAFT&lens=${encodeURIComponent(lens)}`),
        `${path} ${lens}`,
      ).rejects.toMatchObject({ problem: { code: 'VERSION_UNKNOWN' } });
  // What is named is had.
  await store.call('GET', `/api/fetch?item=${encodeURIComponent('ONLY-DRAFT@A/1')}&lens=released`);
});
