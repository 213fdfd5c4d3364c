/** Writers that bring large libraries, which are loaded when the first such file is wanted. */
import type { OutTable } from './table.js';

/** As `write-xlsx.ts` says. */
export async function writeXlsx(table: OutTable, sheets: 'one' | 'levels' = 'one'): Promise<Uint8Array> {
  return (await import('./write-xlsx.js')).writeXlsx(table, sheets);
}

/** As `write-pdf.ts` says. */
export async function writePdf(table: OutTable, made: string): Promise<Uint8Array> {
  return (await import('./write-pdf.js')).writePdf(table, made);
}
