/**
 * What two states of drawings differ in, on paper: a page for each sheet, both laid over each other. Drawings are compared line by line,
 * and what both have is grey; pages of PDF come blended.
 */
import { around, extentOf, type PlainMark, type SheetOverlay, type Spot } from '@stem-trace/core/sheet';
import { PDFDocument, type PDFPage } from 'pdf-lib';
import { writePdf } from '../tables/write-pdf.js';
import type { OutTable } from '../tables/table.js';
import { INKS } from './inks.js';
import { openPages } from './pages.js';
import { paperFor } from './paper.js';
import { Printer, type Printed } from './printer.js';

/** One document before and after. */
export interface OverlaidPart {
  readonly title: string;
  readonly shows: OverlaidDrawing | OverlaidPages;
}

interface OverlaidDrawing {
  readonly kind: 'drawing';
  readonly sheets: readonly SheetOverlay[];
  readonly unitMm: number | null;
}

/** As `blendPages` made it. */
interface OverlaidPages {
  readonly kind: 'pages';
  readonly blended: Uint8Array;
}

const POINTS_PER_MM = 72 / 25.4;
const SAYS = 'only before: copper; only after: blue';
/** Around a place where they differ, and the height of its number. */
const PLACE_MM = { room: 2, number: 3 } as const;

/**
 * A table for print with pages behind it.
 *
 * @param made day of the print, said at the foot of the table
 * @throws FormatError where pages of a part cannot be read
 */
export async function printOverlaid(
  table: OutTable,
  made: string,
  parts: readonly OverlaidPart[],
): Promise<Printed> {
  const document = await PDFDocument.load(await writePdf(table, made));
  const stamps = parts.flatMap((part) => stampsOf(part));
  const texts = [...stamps, '0123456789', ...parts.flatMap(({ shows }) => textsOf(shows))];
  const printer = await Printer.begin({ title: table.title, made, marks: [] }, { document, texts });
  for (const { title, shows } of parts)
    if (shows.kind === 'drawing') drawn(printer, title, shows);
    else {
      const { source, pages } = await openPages(shows.blended);
      for (const [at, page] of (await document.copyPages(source, [...pages.keys()])).entries()) {
        document.addPage(page);
        printer.stamp(page, { ...wholeOf(page), text: pageStamp(title, at) });
      }
    }
  return printer.end();
}

function stampsOf({ title, shows }: OverlaidPart): string[] {
  if (shows.kind === 'pages') return [pageStamp(title, 0)];
  return shows.sheets.map((sheet) => sheetStamp(title, sheet, true));
}

function sheetStamp(
  title: string,
  { name, overlay: { places }, onlyIn }: SheetOverlay,
  isToScale: boolean,
): string {
  const differs = places.length === 1 ? 'differs at 1 place' : `differs at ${places.length} places`;
  const what =
    onlyIn === null ? differs : `a sheet that is only in what was ${onlyIn === 'first' ? 'before' : 'after'}`;
  return `${title}, ${name}: ${what}; ${SAYS}; both: grey${isToScale ? '' : '; not to scale'}`;
}

function pageStamp(title: string, at: number): string {
  return `${title}, page ${at + 1}: ${SAYS}; both: black`;
}

function textsOf(shows: OverlaidPart['shows']): string[] {
  if (shows.kind === 'pages') return [];
  return shows.sheets.flatMap(({ overlay: { both, onlyFirst, onlySecond } }) =>
    [both, onlyFirst, onlySecond].flatMap((marks) =>
      marks.flatMap((mark) => (mark.kind === 'lettering' ? mark.lines : [])),
    ),
  );
}

/** Sheets on which nothing differs have no page. */
function drawn(printer: Printer, title: string, { sheets, unitMm }: OverlaidDrawing): void {
  for (const sheet of sheets) {
    const { both, onlyFirst, onlySecond, places } = sheet.overlay;
    const extent = around([both, onlyFirst, onlySecond].flatMap((marks) => extentOf(marks) ?? []));
    const paper = extent && places.length > 0 ? paperFor(extent, unitMm ?? 1) : undefined;
    if (!extent || !paper) continue;
    const page = printer.addPage(paper.widthMm * POINTS_PER_MM, paper.heightMm * POINTS_PER_MM);
    const scale = paper.mmPerUnit * POINTS_PER_MM;
    const middle = (axis: 0 | 1): number => ((extent.low[axis] + extent.high[axis]) / 2) * scale;
    const origin: Spot = [page.getWidth() / 2 - middle(0), page.getHeight() / 2 - middle(1)];
    const pen = printer.pen(page, { scale, origin });
    const inked: readonly (readonly [readonly PlainMark[], string])[] = [
      [both, INKS.both],
      [onlyFirst, INKS.before],
      [onlySecond, INKS.after],
      [numbers(places, 1 / paper.mmPerUnit), INKS.around],
    ];
    for (const [marks, ink] of inked) pen.marks(inInk(marks, ink), () => true);
    printer.stamp(page, { ...wholeOf(page), text: sheetStamp(title, sheet, paper.isToScale) });
  }
}

const wholeOf = (page: PDFPage): { low: Spot; size: Spot; turn: number } => ({
  low: [0, 0],
  size: [page.getWidth(), page.getHeight()],
  turn: 0,
});

/** In one ink; what only covers with paper would hide the other. */
function inInk(marks: readonly PlainMark[], colour: string): PlainMark[] {
  return marks.flatMap((mark): PlainMark[] => {
    switch (mark.kind) {
      case 'fill':
        return mark.isPaper ? [] : [{ ...mark, look: { ...mark.look, colour } }];
      case 'lettering':
        return [{ ...mark, look: { ...mark.look, colour } }];
      case 'stroke':
        return [{ ...mark, look: { ...mark.look, colour } }];
      case 'arc':
        return [{ ...mark, look: { ...mark.look, colour } }];
    }
  });
}

/** A frame around each place, with its number above the upper left corner. @param mm of paper, in drawing units */
function numbers(places: SheetOverlay['overlay']['places'], mm: number): PlainMark[] {
  const look = { layer: 0, colour: null, weightMm: 0.25, dashes: [2 * mm, 1.5 * mm], width: 0 };
  const room = PLACE_MM.room * mm;
  return places.flatMap(({ low, high }, at): PlainMark[] => {
    const [left, bottom, right, top] = [low[0] - room, low[1] - room, high[0] + room, high[1] + room];
    return [
      {
        ...{ kind: 'stroke', look },
        spots: [
          [left, bottom],
          [right, bottom],
          [right, top],
          [left, top],
          [left, bottom],
        ],
      },
      {
        ...{ kind: 'lettering', look, at: [left, top + room / 2], height: PLACE_MM.number * mm, turn: 0 },
        ...{ stretch: 1, across: 'left', up: 'base', lines: [String(at + 1)], lineStep: mm, tag: '' },
      },
    ];
  });
}
