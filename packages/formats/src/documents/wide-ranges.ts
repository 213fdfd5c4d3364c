/**
 * Refuses workbooks (ECMA-376 part 1, SpreadsheetML) that state ranges far larger than their content. The workbook library makes an
 * object for each cell of a merged, validated or named range and for each column of a `col` element: 1.5 kB of XML is enough to take
 * all memory.
 */
import { SaxesParser } from 'saxes';
import { FormatError } from '../errors.js';
import { eachEntry } from './bloat.js';

/** Most cells that the ranges of one workbook may cover together. */
const MOST_RANGED_CELLS = 200_000;
/** ECMA-376 part 1, 18.3.1.13: columns of a sheet. */
const MOST_COLUMNS = 16_384;

/** Elements with ranges, and the attribute that holds them; `definedName` has them as text. */
const RANGES: Readonly<Record<string, string>> = { mergeCell: 'ref', dataValidation: 'sqref' };

/** @throws FormatError if the ranges cover too much, or the file cannot be unpacked. `O(unpacked bytes)`, in little memory */
export async function refuseWideRanges(bytes: Uint8Array): Promise<void> {
  let cells = 0;
  const count = (text: string, where: string): void => {
    cells += cellsOf(text);
    if (cells > MOST_RANGED_CELLS)
      throw new FormatError(
        `ranges in ${where} cover more than ${MOST_RANGED_CELLS.toLocaleString('en-GB')} cells; merge, validate or name fewer`,
        0,
      );
  };
  await eachEntry(bytes, (name) =>
    /(^|[\\/])(workbook|worksheets[\\/][^\\/]*)\.xml$/i.test(name) ? inspector(name, count) : undefined,
  );
}

/** Reads a part as it is unpacked. */
function inspector(
  part: string,
  count: (text: string, where: string) => void,
): { readonly write: (chunk: Buffer) => void } {
  const parser = new SaxesParser();
  const decoder = new TextDecoder();
  let named: string | undefined;
  parser.on('opentag', ({ name, attributes }) => {
    const element = name.slice(name.indexOf(':') + 1);
    if (element === 'definedName') named = '';
    if (element === 'col' && Number(attributes.max ?? 0) > MOST_COLUMNS)
      throw new FormatError(`${part} has a column beyond ${MOST_COLUMNS}`, 0);
    const attribute = RANGES[element];
    if (attribute !== undefined) count(attributes[attribute] ?? '', `${part}, ${element}`);
  });
  parser.on('text', (text) => (named = named === undefined ? undefined : named + text));
  parser.on('cdata', (text) => (named = named === undefined ? undefined : named + text));
  parser.on('closetag', ({ name }) => {
    if (named === undefined || !name.endsWith('definedName')) return;
    count(named, `${part}, definedName`);
    named = undefined;
  });
  return { write: (chunk) => void parser.write(decoder.decode(chunk, { stream: true })) };
}

/** Cells of all ranges that a text names: `A1:B2 D4`, `Sheet!$A$1:$B$2`. Ranges of whole rows or columns are as large as a sheet. */
function cellsOf(text: string): number {
  let cells = 0;
  for (const [, left = '', top = '', right = '', bottom = ''] of text.matchAll(
    /\$?([A-Z]{1,9})\$?(\d{1,9}):\$?([A-Z]{1,9})\$?(\d{1,9})/gi,
  ))
    cells += (Math.abs(columnOf(right) - columnOf(left)) + 1) * (Math.abs(Number(bottom) - Number(top)) + 1);
  return cells;
}

/** `A` is 1, `XFD` 16384. */
function columnOf(letters: string): number {
  let column = 0;
  for (const letter of letters.toUpperCase()) column = column * 26 + letter.charCodeAt(0) - 64;
  return column;
}
