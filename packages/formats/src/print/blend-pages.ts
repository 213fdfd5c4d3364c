/**
 * Pages laid over each other without knowing what is drawn on them: each is inked in its colour where it is dark, and both are multiplied, so
 * that what both have is nearly black.
 */
import type { Spot } from '@stem-trace/core/sheet';
import { BlendMode, degrees, PDFDict, PDFDocument, PDFName, rgb, type PDFPage } from 'pdf-lib';
import { FormatError } from '../errors.js';
import { INKS } from './inks.js';
import { openPages, turnOf } from './pages.js';

/**
 * Pages of two PDF laid over each other, as many as the longer of both has.
 *
 * @returns as PDF. @throws FormatError where either cannot be read, which one sees at some files only when their pages are wanted
 */
export async function blendPages(before: Uint8Array, after: Uint8Array): Promise<Uint8Array> {
  const [first, second] = [await openPages(before), await openPages(after)];
  const document = await PDFDocument.create();
  try {
    for (let at = 0; at < Math.max(first.pages.length, second.pages.length); at++) {
      const sides = [
        { page: first.pages[at], ink: INKS.before },
        { page: second.pages[at], ink: INKS.after },
      ].flatMap(({ page, ink }) => (page ? [{ page, ink, size: shownSize(page) }] : []));
      const width = Math.max(...sides.map(({ size }) => size[0]));
      const height = Math.max(...sides.map(({ size }) => size[1]));
      const page = document.addPage([width, height]);
      for (const { page: side, ink } of sides) await multiply(page, { side, ink, document });
    }
    return await document.save();
  } catch (error) {
    throw new FormatError(
      `its pages cannot be laid over each other: ${error instanceof Error ? error.message : String(error)}`,
      0,
    );
  }
}

/** As it is looked at. */
function shownSize(page: PDFPage): Spot {
  const { width, height } = page.getCropBox();
  return turnOf(page) % 180 === 0 ? [width, height] : [height, width];
}

/**
 * A page inked in a colour and multiplied with what is below: a group of its own (ISO 32000-1, 11.4) with the page in it, and over that the
 * colour, screened (11.3.5.2), which leaves white as it is and makes black the colour.
 */
async function multiply(
  onto: PDFPage,
  { side, ink, document }: { readonly side: PDFPage; readonly ink: string; readonly document: PDFDocument },
): Promise<void> {
  const { x, y, width, height } = side.getCropBox();
  const turn = turnOf(side);
  const apart = await PDFDocument.create();
  const [across, up] = shownSize(side);
  const page = apart.addPage([across, up]);
  // White below, so that what is transparent is paper.
  page.drawRectangle({ x: 0, y: 0, width: across, height: up, color: rgb(1, 1, 1) });
  if (side.node.Contents()) {
    const box = { left: x, bottom: y, right: x + width, top: y + height };
    page.drawPage(await apart.embedPage(side, box), { ...placed(turn, { width, height }), width, height });
  }
  const [red = 0, green = 0, blue = 0] = [1, 3, 5].map(
    (from) => parseInt(ink.slice(from, from + 2), 16) / 255,
  );
  page.drawRectangle({
    ...{ x: 0, y: 0, width: across, height: up, color: rgb(red, green, blue), blendMode: BlendMode.Screen },
  });
  await apart.flush();
  const group = await document.embedPage(page);
  await group.embed();
  const stream = document.context.lookup(group.ref);
  const dict = stream && 'dict' in stream && stream.dict instanceof PDFDict ? stream.dict : undefined;
  dict?.set(
    PDFName.of('Group'),
    document.context.obj({ Type: 'Group', S: 'Transparency', CS: 'DeviceRGB', I: true }),
  );
  onto.drawPage(group, { x: 0, y: onto.getHeight() - up, blendMode: BlendMode.Multiply });
}

/** Where a page's lower left corner goes, and how it is turned, for it to be seen as it is looked at. @param turn clockwise */
function placed(turn: number, { width, height }: { readonly width: number; readonly height: number }) {
  if (turn === 90) return { x: 0, y: width, rotate: degrees(-90) };
  if (turn === 180) return { x: width, y: height, rotate: degrees(180) };
  return turn === 270 ? { x: height, y: 0, rotate: degrees(90) } : { x: 0, y: 0, rotate: degrees(0) };
}
