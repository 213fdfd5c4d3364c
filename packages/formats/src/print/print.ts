/** Drawings, pages and pictures on paper, with what people drew on them and the list of what they wrote. */
import { extentOf, type Drawing, type Sheet, type Spot } from '@stem-trace/core/sheet';
import { FormatError } from '../errors.js';
import { openPages, turnOf } from './pages.js';
import { paperFor, type Paper } from './paper.js';
import { Printer, textsIn, type Printed, type PrintOptions } from './printer.js';

const POINTS_PER_MM = 72 / 25.4;

/**
 * One sheet of a drawing, to scale.
 *
 * @param scale paper by drawing; undefined for 1:1 where that fits
 * @throws FormatError where nothing is on the sheet, or it does not fit the largest paper
 */
export async function printDrawing(
  drawing: Drawing,
  { sheet, scale, ...options }: PrintOptions & { readonly sheet: string; readonly scale?: number },
): Promise<Printed & { readonly paper: Paper }> {
  const shown = drawing.sheets.find(({ name }) => name === sheet) ?? drawing.sheets[0];
  const printer = await Printer.begin(options, { texts: shown ? textsIn(shown) : [] });
  const paper = shown && printSheet(printer, drawing, { shown, ...(scale === undefined ? {} : { scale }) });
  if (!paper) throw new FormatError('there is nothing on this sheet', 0);
  return { ...(await printer.end()), paper };
}

/**
 * All sheets of a drawing, a page each, to scale where the largest paper holds them so. Where it has paper of its own, that shows what
 * is drawn, and the model by itself is no page.
 *
 * @returns with the names of sheets that were fitted to their page
 * @throws FormatError where nothing is on any sheet
 */
export async function printSheets(
  drawing: Drawing,
  options: PrintOptions,
): Promise<Printed & { readonly fitted: readonly string[] }> {
  const papers = drawing.sheets.filter(({ paperMm }) => paperMm !== null);
  const sheets = papers.length > 0 ? papers : drawing.sheets;
  const printer = await Printer.begin(options, { texts: sheets.flatMap(textsIn) });
  const pages = sheets.flatMap((shown) => {
    const paper = printSheet(printer, drawing, { shown });
    return paper ? { name: shown.name, paper } : [];
  });
  if (pages.length === 0) throw new FormatError('there is nothing on its sheets', 0);
  return {
    ...(await printer.end()),
    fitted: pages.flatMap(({ name, paper }) => (paper.isToScale ? [] : name)),
  };
}

/** @returns undefined where nothing is on it. @throws FormatError where it does not fit at the scale that is asked for */
function printSheet(
  printer: Printer,
  { unitMm, layers }: Drawing,
  { shown, scale }: { readonly shown: Sheet; readonly scale?: number },
): Paper | undefined {
  const extent = extentOf(shown.marks);
  if (!extent) return undefined;
  const paper = paperFor(extent, unitMm ?? 1, scale);
  if (!paper) throw new FormatError('it does not fit A0 at this scale; ask for a smaller one', 0);
  const page = printer.addPage(paper.widthMm * POINTS_PER_MM, paper.heightMm * POINTS_PER_MM);
  const points = paper.mmPerUnit * POINTS_PER_MM;
  const middle = (axis: 0 | 1): number => ((extent.low[axis] + extent.high[axis]) / 2) * points;
  const origin: Spot = [page.getWidth() / 2 - middle(0), page.getHeight() / 2 - middle(1)];
  const pen = printer.pen(page, { scale: points, origin });
  pen.marks(shown.marks, (layer) => {
    const { isOn = true, isPrinted = true } = layers[layer] ?? {};
    return isOn && isPrinted;
  });
  printer.drawn(page, pen, { sheet: shown.name, scale: points });
  printer.stamp(page, { low: [0, 0], size: [page.getWidth(), page.getHeight()], turn: 0 });
  return paper;
}

/** All pages of a PDF with what was drawn on them. @throws FormatError where it cannot be read */
export async function printPages(bytes: Uint8Array, options: PrintOptions): Promise<Printed> {
  const { source, pages } = await openPages(bytes);
  const printer = await Printer.begin(options, { document: source });
  pages.forEach((page, at) => {
    const { x, y, width, height } = page.getCropBox();
    const turn = turnOf(page);
    // What people drew is placed on the page as it is looked at, which may be turned.
    const place = ([right, up]: Spot): Spot => {
      if (turn === 90) return [x + width - up, y + right];
      if (turn === 180) return [x + width - right, y + height - up];
      return turn === 270 ? [x + up, y + height - right] : [x + right, y + up];
    };
    const pen = printer.pen(page, { scale: 1, origin: [0, 0] });
    printer.drawn(page, pen, { sheet: `page ${at + 1}`, scale: 1, place });
    printer.stamp(page, { low: [x, y], size: [width, height], turn });
  });
  return printer.end();
}

/** A picture as wide as it has points. @throws FormatError where it is neither PNG nor JPEG */
export async function printImage(bytes: Uint8Array, options: PrintOptions): Promise<Printed> {
  const printer = await Printer.begin(options);
  const image = await printer.image(bytes);
  const page = printer.addPage(image.width, image.height);
  page.drawImage(image, { x: 0, y: 0, width: image.width, height: image.height });
  printer.drawn(page, printer.pen(page, { scale: 1, origin: [0, 0] }), { sheet: '', scale: 1 });
  printer.stamp(page, { low: [0, 0], size: [image.width, image.height], turn: 0 });
  return printer.end();
}
