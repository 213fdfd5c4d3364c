import { PDFDocument, type PDFPage } from 'pdf-lib';
import { FormatError } from '../errors.js';

/** @throws FormatError where it cannot be read */
export async function openPages(
  bytes: Uint8Array,
): Promise<{ readonly source: PDFDocument; readonly pages: readonly PDFPage[] }> {
  try {
    const source = await PDFDocument.load(bytes);
    // What is cut off is noticed only where it is wanted.
    return { source, pages: source.getPages() };
  } catch (error) {
    throw new FormatError(
      `its pages cannot be read: ${error instanceof Error ? error.message : String(error)}`,
      0,
    );
  }
}

/** How a page is turned when it is shown: 0, 90, 180 or 270 degrees clockwise. */
export function turnOf(page: PDFPage): number {
  return ((page.getRotation().angle % 360) + 360) % 360;
}
