/** Writers that bring large libraries, which are loaded when the first such file is wanted. */
import type { OutTable } from './table.js';
import type { TemplateData } from './template.js';

/** As `write-xlsx.ts` says. */
export async function writeXlsx(table: OutTable, sheets: 'one' | 'levels' = 'one'): Promise<Uint8Array> {
  return (await import('./write-xlsx.js')).writeXlsx(table, sheets);
}

/** As `write-pdf.ts` says. */
export async function writePdf(table: OutTable, made: string): Promise<Uint8Array> {
  return (await import('./write-pdf.js')).writePdf(table, made);
}

/** As `template.ts` says. */
export async function fillTemplate(template: Uint8Array, data: TemplateData): Promise<Uint8Array> {
  return (await import('./template.js')).fillTemplate(template, data);
}

/** As `template.ts` says. */
export async function standardTemplate(columns: readonly string[]): Promise<Uint8Array> {
  return (await import('./template.js')).standardTemplate(columns);
}
