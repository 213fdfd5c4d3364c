import type { FileFormat } from '@stem-trace/core';

const ENDINGS: readonly (readonly [RegExp, FileFormat])[] = [
  [/\.(stp|step|p21)$/i, 'step'],
  [/\.dxf$/i, 'dxf'],
  [/\.pdf$/i, 'pdf'],
  [/\.xlsx$/i, 'workbook'],
  [/\.docx$/i, 'text document'],
  [/\.(csv|tsv)$/i, 'table'],
  [/\.(txt|md|log|json|xml|ya?ml|ini|html?)$/i, 'text'],
  [/\.(png|jpe?g|gif|webp|bmp|svg|tiff?)$/i, 'image'],
];

/**
 * What a file is, by how it begins; by its ending where the beginning does not tell.
 *
 * @param beginning its first bytes; some hundred are enough
 */
export function recognise(path: string, beginning: Uint8Array): FileFormat {
  const start = new TextDecoder('latin1').decode(beginning.subarray(0, 512));
  if (start.includes('ISO-10303-21')) return 'step';
  if (start.startsWith('%PDF-')) return 'pdf';
  return ENDINGS.find(([ending]) => ending.test(path))?.[1] ?? 'other';
}
