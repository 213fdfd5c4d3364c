/** What opening office documents has in common, whether their words are read or they are looked at. */
import type { Workbook } from 'exceljs';
import { KeptWhole } from '../errors.js';
import { refuseBloat } from './bloat.js';
import { refuseWideRanges } from './wide-ranges.js';

/** Parts of a sheet that say nothing in its cells. */
const NOT_CELLS = [
  'mergeCells',
  'dataValidations',
  'conditionalFormatting',
  'rowBreaks',
  'colBreaks',
  'drawing',
  'extLst',
];

/** @throws KeptWhole where the file is broken or locked; FormatError where it unpacks to too much */
export async function openWorkbook(bytes: Uint8Array): Promise<Workbook> {
  await refuseBloat(bytes);
  await refuseWideRanges(bytes);
  const { default: excel } = await import('exceljs');
  const workbook = new excel.Workbook();
  try {
    // A range that is merged or checked may be of a million rows: the library would make a cell for each.
    await workbook.xlsx.load(new Uint8Array(bytes).buffer, { ignoreNodes: NOT_CELLS });
  } catch (error) {
    throw broken('XLSX', error);
  }
  return workbook;
}

export function broken(what: string, error: unknown): KeptWhole {
  const said = error instanceof Error ? error.message : String(error);
  return new KeptWhole(`the ${what} file cannot be read (${clean(said).slice(0, 200)})`, 0);
}

// eslint-disable-next-line no-control-regex -- names come from anywhere
export const clean = (text: string): string => text.replace(/[\u0000-\u001f\u007f]+/g, ' ').trim();
