/** What the title blocks of copied drawings say: who derived them, what was wished, and nothing that is true of the origin alone. */
import type { CustodyAnswer, ItemView } from '@stem-trace/contract';
import { applyTitleBlock, DEFAULT_TITLE_BLOCK, sayValue, type ProofDocument } from '@stem-trace/core';
import { readDxf } from '@stem-trace/formats';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { dxf } from '../../../../packages/formats/src/testing/dxf.js';
import { filesOf } from '../testing/random-trees.js';
import { TestStore } from '../testing/test-store.js';

const BLOCK = {
  DRAWN_BY: 'Somebody Else',
  DATE: '03.04.2024',
  CHECKED_BY: 'A. Checker',
  SITE: '',
  MATERIAL: 'steel',
};

let store: TestStore;
beforeAll(async () => {
  store = await TestStore.open();
  const drawing = (of: string): Uint8Array =>
    dxf({ fields: { ...BLOCK, DRAWING_NUMBER: `${of}-D`, TITLE: `Sheet of ${of}`, PART_NUMBER: of } });
  await store.intake(
    new Map([
      ...filesOf({ names: ['TOP', 'ARM'], uses: [[0, 1, 1]] }),
      ['TOP.dxf', drawing('TOP')],
      ['ARM.dxf', drawing('ARM')],
    ]),
    { place: '/stations' },
  );
});
afterAll(() => store.close());

const today = (): string => {
  const now = new Date();
  const two = (value: number): string => String(value).padStart(2, '0');
  return `${two(now.getDate())}.${two(now.getMonth() + 1)}.${now.getFullYear()}`;
};
const fieldsOf = (bytes: Uint8Array | undefined): Record<string, string> =>
  Object.fromEntries(
    readDxf(bytes ?? new Uint8Array()).titleBlock?.map(({ tag, text }) => [tag, text]) ?? [],
  );
const fetched = async (item: string): Promise<Record<string, string>> => {
  const { files } = await store.fetch(item);
  return fieldsOf([...files].find(([path]) => path.endsWith('.dxf'))?.[1]);
};
const rowsOf = async (item: string): Promise<ProofDocument> =>
  store.json('GET', `/api/derive/proof/rows?item=${item}`);

it('says who derived it and when, that nobody checked it, and what was wished for', async () => {
  const { proof } = await store.derive({
    ...{ item: 'TOP', copy: 'all', prefix: 'V-', place: '/variants' },
    titleBlocks: [
      { of: '', field: 'site', text: 'Weir 7' },
      { of: 'ARM', field: 'MATERIAL', text: 'aluminium' },
    ],
  });
  expect(proof).toMatchObject({ dangling: 0, leaking: 0, faults: [] });
  const { by: name } = await rowsOf('V-TOP');
  const anew = { DRAWN_BY: name, DATE: today(), CHECKED_BY: '', SITE: 'Weir 7' };
  expect(await fetched('V-TOP-D')).toEqual({
    ...{ ...BLOCK, ...anew },
    ...{ DRAWING_NUMBER: 'V-TOP-D', TITLE: 'Sheet of TOP', PART_NUMBER: 'V-TOP' },
  });
  expect(await fetched('V-ARM-D')).toMatchObject({ ...anew, MATERIAL: 'aluminium' });
  // What is stored is the origin's file as it is.
  expect(await fetched('TOP-D')).toMatchObject(BLOCK);

  const { rows } = await rowsOf('V-TOP');
  expect(
    rows
      .filter(({ kind, parent }) => kind === 'title block' && parent === 'V-ARM-D')
      .map(({ child, said, says, reader, census }) => [child, said, says, reader, census]),
  ).toEqual([
    ['drawn by', 'Somebody Else', name, 'right', 'right'],
    ['date', '03.04.2024', today(), 'right', 'right'],
    ['checked by', 'A. Checker', '', 'right', 'none'],
    ['material', 'steel', 'aluminium', 'right', 'right'],
    ['site', '', 'Weir 7', 'right', 'right'],
  ]);
});

it('is work that is left where the drawing has no such field, and refused where the field is a number', async () => {
  const asked = { item: 'ARM', copy: 'all', prefix: 'W-', place: '/variants' } as const;
  await expect(
    store.derive({ ...asked, titleBlocks: [{ of: '', field: 'DWG_NO', text: 'X' }] }),
  ).rejects.toMatchObject({ problem: { code: 'INPUT_INVALID', detail: /DWG_NO/ } });
  const { proof } = await store.derive({ ...asked, titleBlocks: [{ of: '', field: 'COLOUR', text: 'red' }] });
  expect(proof.faults).toEqual([]);
  expect((await rowsOf('W-ARM')).rows[0]).toMatchObject({
    kind: 'not rewritten',
    note: 'the title block has no field for colour, so that only the store says “red”',
  });
});

it('says what people made of a property since, and comes back as it went', async () => {
  await store.json('POST', '/api/holds', { items: ['ARM-D'], reason: '' });
  await store.json<CustodyAnswer>('POST', '/api/items/properties', {
    items: ['ARM-D'],
    set: { material: 'brass' },
  });
  const { files } = await store.fetch('ARM-D');
  const [[path, bytes] = ['', new Uint8Array()]] = [...files].filter(([name]) => name.endsWith('.dxf'));
  expect(fieldsOf(bytes)).toMatchObject({ ...BLOCK, MATERIAL: 'brass' });
  const read = applyTitleBlock(readDxf(bytes), DEFAULT_TITLE_BLOCK).products[0]?.properties ?? [];
  const stored = (await store.json<ItemView>('GET', '/api/item?item=ARM-D')).properties;
  expect(stored.map((each) => [each.name, sayValue(each)])).toEqual(
    read.map((each) => [each.name, sayValue(each)]),
  );
  // The same file again is no change.
  const { expected } = await store.review(new Map([[path, bytes]]), { place: '/stations' });
  expect(expected.problems).toEqual([]);
});
