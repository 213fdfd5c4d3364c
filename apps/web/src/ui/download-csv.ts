import { stringify } from 'csv-stringify/browser/esm/sync';

/** Hands out a table as CSV (RFC 4180), in a way that spreadsheets open: with a byte order mark, and nothing that they would run. */
export function downloadCsv(name: string, rows: readonly (readonly (string | number)[])[]): void {
  const text = stringify(
    rows.map((row) => [...row]),
    { bom: true, record_delimiter: '\r\n', escape_formulas: true },
  );
  const link = document.createElement('a');
  link.href = URL.createObjectURL(new Blob([text], { type: 'text/csv' }));
  link.download = `${name}.csv`;
  link.click();
  URL.revokeObjectURL(link.href);
}
