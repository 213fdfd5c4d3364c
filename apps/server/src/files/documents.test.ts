/** Office documents are read apart from everything else: heavy ones hold up nobody but whoever asked for them. */
import type { DocumentAnswer } from '@stem-trace/contract';
import { strToU8, zipSync } from 'fflate';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { stepFile } from '../../../../packages/formats/src/testing/step-sets.js';
import { Refused, TestStore } from '../testing/test-store.js';

let store: TestStore;
beforeAll(async () => {
  store = await TestStore.open(undefined, { inThreads: true });
  await store.intake(
    new Map([
      ['heavy.xlsx', workbook(120_000)],
      ['light.xlsx', workbook(3)],
      ['box.stp', stepFile({ id: 'BOX', uses: [{ id: 'LID' }] })],
    ]),
  );
}, 120_000);
afterAll(() => store.close());

/** With so many rows of ten cells. */
function workbook(rows: number): Uint8Array {
  const cells = 'ABCDEFGHIJ';
  const row = (at: number): string =>
    `<row r="${at}">${[...cells].map((column) => `<c r="${column}${at}" t="inlineStr"><is><t>text ${at}</t></is></c>`).join('')}</row>`;
  const namespace = 'http://schemas.openxmlformats.org/spreadsheetml/2006/main';
  const packages = 'http://schemas.openxmlformats.org/package/2006';
  const office = 'http://schemas.openxmlformats.org/officeDocument/2006/relationships';
  return zipSync({
    '[Content_Types].xml': strToU8(
      `<Types xmlns="${packages}/content-types"><Default Extension="xml" ContentType="application/xml"/><Override PartName="/xl/workbook.xml" ContentType="application/vnd.openxmlformats-officedocument.spreadsheetml.sheet.main+xml"/></Types>`,
    ),
    '_rels/.rels': strToU8(
      `<Relationships xmlns="${packages}/relationships"><Relationship Id="r1" Type="${office}/officeDocument" Target="xl/workbook.xml"/></Relationships>`,
    ),
    'xl/workbook.xml': strToU8(
      `<workbook xmlns="${namespace}" xmlns:r="${office}"><sheets><sheet name="S" sheetId="1" r:id="r1"/></sheets></workbook>`,
    ),
    'xl/_rels/workbook.xml.rels': strToU8(
      `<Relationships xmlns="${packages}/relationships"><Relationship Id="r1" Type="${office}/worksheet" Target="worksheets/sheet1.xml"/></Relationships>`,
    ),
    'xl/worksheets/sheet1.xml': strToU8(
      `<worksheet xmlns="${namespace}"><sheetData>${Array.from({ length: rows }, (_, at) => row(at + 1)).join('')}</sheetData></worksheet>`,
    ),
  });
}

it('a document is shown', async () => {
  const answer = await store.json<DocumentAnswer>('GET', '/api/document?item=light');
  expect(answer).toMatchObject({ kind: 'tables', tables: [{ name: 'S' }] });
});

it('six heavy ones of one person hold up neither structures nor documents of another', async () => {
  const ben = { Authorization: `Bearer ${await store.tokenFor('ben', 'engineer')}` };
  await store.call('GET', '/api/document?item=light', undefined, ben);
  let left = 6;
  const heavy = Array.from({ length: 6 }, () =>
    store
      .call('GET', '/api/document?item=heavy')
      .catch((error: unknown) => error instanceof Refused || Promise.reject(error as Error))
      .finally(() => left--),
  );
  await new Promise((done) => setTimeout(done, 300));
  await store.call('GET', '/api/made?item=BOX&all=true', undefined, ben);
  await store.call('GET', '/api/document?item=light', undefined, ben);
  expect(left).toBeGreaterThan(3);
  await Promise.all(heavy);
}, 120_000);
