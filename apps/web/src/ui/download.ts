import { stringify } from 'csv-stringify/browser/esm/sync';

/** Hands something out as a file. @param name of the file; the one that the server says where empty */
export function download(from: string | Blob, name = ''): void {
  const link = document.createElement('a');
  link.href = typeof from === 'string' ? from : URL.createObjectURL(from);
  link.download = name;
  link.click();
  if (typeof from !== 'string') URL.revokeObjectURL(link.href);
}

/** Hands out a table as CSV (RFC 4180), in a way that spreadsheets open: with a byte order mark, and nothing that they would run. */
export function downloadCsv(name: string, rows: readonly (readonly (string | number)[])[]): void {
  const text = stringify(
    rows.map((row) => [...row]),
    { bom: true, record_delimiter: '\r\n', escape_formulas: true },
  );
  download(new Blob([text], { type: 'text/csv' }), `${name}.csv`);
}
