/** Tables that go out, opened by an office program; and what such a program writes, brought in as a list. */
import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { CompareAnswer, ListView } from '@stem-trace/contract';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { board } from '../testing/board.js';
import { TestStore } from '../testing/test-store.js';
import { officeConverts } from './readers.js';

let folder: string;
let store: TestStore;
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'stem-trace-office-'));
  store = await TestStore.open();
  const parts = [
    { id: 'R10K', at: [['1', 0, 'R1'], ['2', 10, 'R2'], ['3', 20, 'R3']] }, // prettier-ignore
    { id: 'WIRE', at: [['5', 40]] },
  ] as const;
  await store.intake(new Map([['board.stp', board('BOARD', parts)]]), { place: '/boards' });
  await store.call('POST', '/api/bill/rows', {
    ...{ item: 'BOARD', version: 'A/1', comment: '', checkOut: true },
    rows: [{ position: 1, find: '2', amount: '0.4 m + 5 %' }],
  });
});
afterAll(async () => {
  await store.close();
  await rm(folder, { recursive: true });
});

const onDisk = async (name: string, bytes: Uint8Array | string): Promise<string> => {
  const file = join(folder, name);
  await writeFile(file, bytes);
  return file;
};
const cells = (csv: string): string[][] =>
  csv
    .trim()
    .split(/\r?\n/)
    .map((line) => line.split(',').map((cell) => cell.replace(/^"|"$/g, '')));

it('a BOM as a spreadsheet says in the office program what it says as a table', async () => {
  const out = async (format: string): Promise<Uint8Array> =>
    new Uint8Array(
      await (await store.call('GET', `/api/bill/file?item=BOARD&format=${format}`)).arrayBuffer(),
    );
  const opened = new TextDecoder().decode(
    await officeConverts(await onDisk('bom.xlsx', await out('xlsx')), 'csv'),
  );
  const [heading = [], ...rows] = cells(new TextDecoder().decode(await out('csv')));
  const seen = cells(opened);
  const at = seen.findIndex((row) => row.includes('Number') && row.includes('Quantity'));
  const column = (name: string): number => (seen[at] ?? []).indexOf(name);
  for (const name of ['Find', 'Number', 'Quantity', 'Unit', 'Counted', 'Version'])
    expect(seen.slice(at + 1).map((row) => (row[column(name)] ?? '').trim())).toEqual(
      rows.map((row) => row[heading.indexOf(name)] ?? ''),
    );
});

/** A sheet as the office program keeps it: a merged title, decimal commas, formulas, a blank line. */
const SHEET = `<?xml version="1.0" encoding="UTF-8"?>
<office:document xmlns:office="urn:oasis:names:tc:opendocument:xmlns:office:1.0" xmlns:table="urn:oasis:names:tc:opendocument:xmlns:table:1.0"
 xmlns:text="urn:oasis:names:tc:opendocument:xmlns:text:1.0" xmlns:of="urn:oasis:names:tc:opendocument:xmlns:of:1.2"
 office:version="1.3" office:mimetype="application/vnd.oasis.opendocument.spreadsheet"><office:body><office:spreadsheet><table:table table:name="Offer">
 <table:table-row><table:table-cell table:number-columns-spanned="4" office:value-type="string"><text:p>Offer 12</text:p></table:table-cell></table:table-row>
 <table:table-row>${['Pos.', 'Your ref.', 'Qty', 'UoM'].map((each) => `<table:table-cell office:value-type="string"><text:p>${each}</text:p></table:table-cell>`).join('')}</table:table-row>
 <table:table-row><table:table-cell office:value-type="float" office:value="1"/><table:table-cell office:value-type="string"><text:p>R10K</text:p></table:table-cell>
  <table:table-cell table:formula="of:=1+2" office:value-type="float" office:value="3"/><table:table-cell office:value-type="string"><text:p>pcs</text:p></table:table-cell></table:table-row>
 <table:table-row/>
 <table:table-row><table:table-cell office:value-type="float" office:value="2"/><table:table-cell office:value-type="string"><text:p>WIRE</text:p></table:table-cell>
  <table:table-cell office:value-type="string"><text:p>0,40</text:p></table:table-cell><table:table-cell office:value-type="string"><text:p>m</text:p></table:table-cell></table:table-row>
</table:table></office:spreadsheet></office:body></office:document>`;

it('what the office program writes is a list, with formulas, merged cells and decimal commas', async () => {
  const made = await officeConverts(await onDisk('offer.fods', SHEET), 'xlsx');
  const list = (await (await store.call('POST', '/api/lists?name=offer.xlsx', made)).json()) as ListView;
  expect(list).toMatchObject({ rows: 2, unknown: 0, problems: [] });
  const { rows } = await store.json<CompareAnswer>('GET', `/api/compare?from=list:${list.id}&to=BOARD`);
  const said = rows.map(({ number, before, after }) => `${number} ${before?.amount} ${after?.amount}`);
  expect(said).toEqual(['R10K 3 3', 'WIRE 0.4 m 0.4 m + 5 %']);
});
