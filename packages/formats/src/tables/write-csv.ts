import { stringify } from 'csv-stringify/sync';
import type { OutTable } from './table.js';

/** With a byte order mark, so that spreadsheets read it as UTF-8; what they would take for a formula is a text (CWE-1236). */
export function writeCsv({ columns, rows }: OutTable): string {
  return stringify(
    [['Level', ...columns.map(({ title }) => title)], ...rows.map(({ level, cells }) => [level, ...cells])],
    { bom: true, record_delimiter: '\r\n', escape_formulas: true },
  );
}
