import type { CompareAnswer, DerivePreview, FindAnswer, ItemView } from '@stem-trace/contract';
import { IDENTITY_PLACEMENT, type Proof } from '@stem-trace/core';
import { annotateStepPart, writeStepAssembly } from '@stem-trace/formats';
import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { readExchangeSet } from '../../../../packages/formats/src/testing/exchange-files.js';
import { CUBE, filesOf, randomNumber as number, randomTree } from '../testing/random-trees.js';
import { Refused, TestStore, treeText } from '../testing/test-store.js';

describe('a derived variant', () => {
  it('fetched and brought in elsewhere is the same tree under its new names, for any tree, decisions and names', async () => {
    await fc.assert(
      fc.asyncProperty(
        randomTree,
        fc.array(fc.boolean(), { minLength: 9, maxLength: 9 }),
        fc.uniqueArray(number, {
          minLength: 9,
          maxLength: 9,
          selector: (text) => text.normalize('NFC').toLowerCase(),
        }),
        async (tree, shared, newNames) => {
          const [store, second] = await Promise.all([TestStore.open(), TestStore.open()]);
          try {
            expect(await store.intake(filesOf(tree))).toMatchObject({
              items: tree.names.length,
              gaps: [],
              problems: [],
            });
            const share = tree.names.filter((_, index) => index > 0 && shared[index]);
            const top = tree.names[0] ?? '';
            const first = await store.json<DerivePreview>('POST', '/api/derive/preview', {
              item: top,
              copy: 'all',
              share,
              prefix: '~',
            });
            const kept = share.filter((text) =>
              first.lines.some((line) => line.number === text && line.clash?.of !== 'decision'),
            );
            const renamed = Object.fromEntries(
              tree.names.map((text, index) => [
                text,
                { number: `${newNames[index]}~${index}`, name: `${newNames[index]}` },
              ]),
            );
            const result = await store.derive({ item: top, copy: 'all', share: kept, renamed });
            expect(result.proof).toMatchObject({ dangling: 0, leaking: 0, faults: [] });
            expect(result.proof.references).toBe(result.proof.copied + result.proof.shared);

            const { files } = await store.fetch(result.variant);
            expect(await second.intake(files)).toMatchObject({ gaps: [], problems: [] });
            const expected = new Map(result.made.map(({ from, to }) => [from, to]));
            const original = await store.made(top);
            expect(treeText(await second.made(result.variant))).toEqual(
              treeText(original, (text) => expected.get(text) ?? text),
            );
            const found = await second.json<FindAnswer>('GET', '/api/items');
            expect(new Set(found.rows.map((row) => row.number))).toEqual(
              new Set([...result.made.map(({ to }) => to), ...result.shared]),
            );
          } finally {
            await Promise.all([store.close(), second.close()]);
          }
        },
      ),
      { numRuns: 5 },
    );
  });
});

describe('deriving', () => {
  let store: TestStore;
  beforeAll(async () => {
    store = await TestStore.open();
    await store.intake(readExchangeSet('s1_pe_214'), { place: '/ship' });
    await store.intake(readExchangeSet('s1-tu-203'), { prefix: 'T:', place: '/tu' });
  });
  afterAll(() => store.close());

  it('says what it would do without doing it', async () => {
    const before = (await store.json<FindAnswer>('GET', '/api/items')).total;
    const preview = await store.json<DerivePreview>('POST', '/api/derive/preview', {
      item: 'S1_PE_TOP',
      copy: 'none',
      alsoCopy: ['TAIL_TURBINE'],
      prefix: 'V-',
    });
    expect(
      preview.lines
        .filter((line) => line.decision === 'copy')
        .map((line) => `${line.newNumber}: ${line.reason}`),
    ).toEqual([
      'V-S1_PE_TOP: it is what the variant is made from',
      'V-TAIL_ASM: it contains TAIL_TURBINE, which is copied',
      'V-TAIL_TURBINE: decided by hand',
    ]);
    expect((await store.json<FindAnswer>('GET', '/api/items')).total).toBe(before);
  });

  it('shares what is not copied, copies no bytes, and records lineage on both', async () => {
    const blobs = async (): Promise<unknown> =>
      store.database.query('SELECT count(*)::int AS count FROM blob');
    const before = await blobs();
    const result = await store.derive({
      item: 'S1_PE_TOP',
      copy: 'none',
      alsoCopy: ['TAIL_TURBINE'],
      prefix: 'V-',
    });
    expect(result.proof).toEqual({
      references: 6,
      copied: 2,
      shared: 4,
      dangling: 0,
      leaking: 0,
      faults: [],
    });
    expect(result.shared).toHaveLength(10);
    expect(await blobs()).toEqual(before);
    expect((await store.json<ItemView>('GET', '/api/item?item=V-TAIL_ASM')).derivedFrom).toMatchObject({
      number: 'TAIL_ASM',
      originVersion: 'A/1',
      derivedBy: 'ada',
    });
    expect((await store.json<ItemView>('GET', '/api/item?item=TAIL_ASM')).derivatives).toMatchObject([
      { number: 'V-TAIL_ASM', originVersion: 'A/1' },
    ]);
    expect((await store.used('TAIL_MIDDLE_PART')).rows.map((row) => row.number).sort()).toEqual([
      'S1_PE_TOP',
      'TAIL_ASM',
      'V-S1_PE_TOP',
      'V-TAIL_ASM',
    ]);
  });

  it('gives a variant that compares as the same, pair by pair of the stem', async () => {
    const answer = await store.json<CompareAnswer>('GET', '/api/compare?from=S1_PE_TOP&to=V-S1_PE_TOP');
    expect(answer.whole).toEqual([]);
    expect(answer.sentence).toBe('From S1_PE_TOP A/1 to V-S1_PE_TOP A/1: no difference.');
    expect(answer.counts.same).toBe(12);
  });

  it('copies a product that lives in another’s file with that file, and says so', async () => {
    const result = await store.derive({ item: 'T:s1', copy: 'none', alsoCopy: ['T:head'], prefix: 'W' });
    expect(result.made.map(({ to }) => to)).toEqual([
      'WT:s1',
      'WT:head',
      'WT:tail',
      'WT:foot',
      'WT:mainbody',
    ]);
    expect(result.notes).toContain('T:tail is copied: it lives in the file of T:s1, which is copied');
    await expect(store.derive({ item: 'T:s1', copy: 'all', share: ['T:tail'], prefix: 'Q' })).rejects.toThrow(
      /T:tail: cannot be shared: it lives in the file of T:s1/,
    );
    await expect(store.derive({ item: 'T:tail', copy: 'all', prefix: 'Q' })).rejects.toThrow(
      /lives in the file of T:s1 and cannot be copied without it/,
    );
  });

  it('writes nothing where something is in the way', async () => {
    const before = (await store.json<FindAnswer>('GET', '/api/items')).total;
    await expect(store.derive({ item: 'S1_PE_TOP', copy: 'all' })).rejects.toMatchObject({
      status: 409,
      problem: { code: 'DERIVATION_CLASH' },
    });
    await expect(store.derive({ item: 'S1_PE_TOP', copy: 'all', prefix: 'V-' })).rejects.toThrow(
      /V-S1_PE_TOP is already in the store/,
    );
    await expect(store.derive({ item: 'S1_PE_TOP', share: ['NOT_IN_IT'], prefix: 'Z' })).rejects.toThrow(
      /NOT_IN_IT is not part of S1_PE_TOP/,
    );
    expect((await store.json<FindAnswer>('GET', '/api/items')).total).toBe(before);
  });

  it('is proved as often as somebody asks, of any item of the variant, but not of what was not derived', async () => {
    const proof = (item: string): Promise<Proof> =>
      store.json<Proof>('GET', `/api/derive/proof?item=${encodeURIComponent(item)}`);
    expect(await proof('V-TAIL_TURBINE')).toEqual(await proof('V-S1_PE_TOP'));
    await expect(proof('TAIL_ASM')).rejects.toThrow(/TAIL_ASM was not derived/);
    await expect(proof('NOT_THERE')).rejects.toMatchObject({ problem: { code: 'ITEM_UNKNOWN' } });
  });

  it('is not proved to somebody who may not fetch all of it', async () => {
    const token = await store.tokenFor('ben', 'engineer');
    const boss = await store.tokenFor('boss', 'administrator');
    await store.call('POST', '/api/items/move', { items: ['V-S1_PE_TOP'], place: '/tu' });
    const letIn = (inherits: boolean): Promise<Response> =>
      store.call(
        'PUT',
        '/api/places/access',
        { place: '/ship', inherits, grants: [] },
        { Authorization: `Bearer ${boss}` },
      );
    await letIn(false);
    const proof = store.call('GET', '/api/derive/proof?item=V-S1_PE_TOP', undefined, {
      Authorization: `Bearer ${token}`,
    });
    await expect(proof).rejects.toMatchObject({ status: 403, problem: { code: 'NOT_ALLOWED' } });
    await expect(proof).rejects.toThrow(/refers to items that you may not fetch/);
    await letIn(true);
  });

  it('copies an older version with the properties that it had, and several versions in their order', async () => {
    const part = (massKg: number): Uint8Array =>
      annotateStepPart(CUBE, {
        id: 'OLDER',
        name: 'OLDER',
        description: '',
        version: '',
        source: 'made',
        properties: [{ name: 'mass', kind: 'number', value: massKg, unit: 'kg' }],
        fileName: 'older.stp',
        time: '',
      });
    const assembly = (id: string, children: readonly string[]): Uint8Array =>
      writeStepAssembly({
        id,
        name: id,
        fileName: `${id}.stp`,
        time: '',
        children: children.map((child) => ({ id: child, name: child, locator: `${child}.stp` })),
        uses: children.map((_, child) => ({ child, name: 'one', placement: IDENTITY_PLACEMENT })),
      });
    const bring = (files: Record<string, Uint8Array>): Promise<unknown> =>
      store.intake(new Map(Object.entries(files)), { place: '/two' });
    await bring({ 'OLDER.stp': part(71), 'FIRST.stp': assembly('FIRST', ['OLDER']) });
    await bring({
      'OLDER.stp': part(72),
      'SECOND.stp': assembly('SECOND', ['OLDER']),
      'BOTH.stp': assembly('BOTH', ['FIRST', 'SECOND']),
    });
    const { proof } = await store.derive({ item: 'BOTH', copy: 'all', prefix: 'N-' });
    expect(proof).toMatchObject({ references: 4, copied: 4, dangling: 0, leaking: 0 });
    const recorded = async (item: string): Promise<(string | null)[]> =>
      (await store.made(item)).rows.filter(({ level }) => level === 1).map(({ recorded: text }) => text);
    expect(await recorded('N-FIRST')).toEqual(['A/1']);
    expect(await recorded('N-SECOND')).toEqual(['A/2']);
    await store.derive({ item: 'OLDER@A/1', copy: 'all', prefix: 'O-' });
    const found = await store.json<FindAnswer>('GET', '/api/items?words=mass = 71 kg');
    expect(found.rows.map(({ number }) => number)).toEqual(['O-OLDER']);
    expect(
      (await store.json<FindAnswer>('GET', '/api/items?words=mass = 72 kg')).rows.map(({ number }) => number),
    ).toEqual(['N-OLDER', 'OLDER']);
  });

  it('sent twice with one key is done once', async () => {
    const request = { item: 'HEAD_ASM', copy: 'all', prefix: 'ONCE-', key: 'a key' } as const;
    const [first, again] = [await store.derive(request), await store.derive(request)];
    expect(again).toEqual(first);
  });

  it('of the same variant by two people at once succeeds for one', async () => {
    const outcomes = await Promise.allSettled(
      Array.from({ length: 5 }, () => store.derive({ item: 'FOOT_ASM', copy: 'all', prefix: 'RACE-' })),
    );
    expect(outcomes.filter(({ status }) => status === 'fulfilled')).toHaveLength(1);
    for (const outcome of outcomes)
      if (outcome.status === 'rejected') expect(outcome.reason).toBeInstanceOf(Refused);
  });
});
