/** A document of printed sheets in the making: its pages, what people drew on them, the stamp, and the list at its end. */
import type { Sheet, Spot } from '@stem-trace/core/sheet';
import { degrees, PDFDocument, rgb, type PDFImage, type PDFPage } from 'pdf-lib';
import { FormatError } from '../errors.js';
import { writePdf } from '../tables/write-pdf.js';
import type { OutTable } from '../tables/table.js';
import { printMark, type PrintedMark } from './drawn.js';
import { Faces } from './faces.js';
import { Pen } from './pen.js';

export interface ListedMark extends PrintedMark {
  /** Sheet or page that it is on. */
  readonly sheet: string;
  readonly by: string;
  /** Day. */
  readonly at: string;
  readonly remarks: readonly { readonly by: string; readonly at: string; readonly words: string }[];
}

export interface PrintOptions {
  readonly title: string;
  /** Said at the foot of the list. */
  readonly made: string;
  /** None where only the sheet is wanted. */
  readonly marks: readonly ListedMark[];
  /** One line at the upper edge of every page: what was released, as what, and when. */
  readonly stamp?: string;
}

export interface Printed {
  readonly bytes: Uint8Array;
  /** Characters that no font has; a box stands for each. */
  readonly missing: readonly string[];
}

/** Of the letters of a stamp, and from the edges of the page. */
const STAMP_PT = 7;
const STAMP_EDGE_PT = 5;

export class Printer {
  private constructor(
    private readonly document: PDFDocument,
    private readonly faces: Faces,
    private readonly options: PrintOptions,
  ) {}

  /** @param texts what is written besides what people drew, and the stamp */
  static async begin(
    options: PrintOptions,
    { document, texts = [] }: { readonly document?: PDFDocument; readonly texts?: readonly string[] } = {},
  ): Promise<Printer> {
    const own = document ?? (await PDFDocument.create());
    own.setTitle(options.title);
    const all = [...texts, ...options.marks.map(({ words }) => words), options.stamp ?? ''];
    return new Printer(own, await Faces.open(own, all), options);
  }

  addPage(width: number, height: number): PDFPage {
    return this.document.addPage([width, height]);
  }

  pen(page: PDFPage, { scale, origin }: { readonly scale: number; readonly origin: Spot }): Pen {
    return new Pen({ page, faces: this.faces, scale, origin });
  }

  async image(bytes: Uint8Array): Promise<PDFImage> {
    const isPng = bytes[0] === 0x89 && bytes[1] === 0x50;
    const isJpeg = bytes[0] === 0xff && bytes[1] === 0xd8;
    if (!isPng && !isJpeg) throw new FormatError('only PNG and JPEG pictures can be printed', 0);
    try {
      return await (isPng ? this.document.embedPng(bytes) : this.document.embedJpg(bytes));
    } catch (error) {
      throw new FormatError(error instanceof Error ? error.message : String(error), 0);
    }
  }

  drawn(
    page: PDFPage,
    pen: Pen,
    { sheet, scale, place = (spot) => spot }: { sheet: string; scale: number; place?: (spot: Spot) => Spot },
  ): void {
    for (const mark of this.options.marks)
      if (mark.sheet === sheet)
        printMark({ ...mark, spots: mark.spots.map(place) }, { pen, page, faces: this.faces, scale });
  }

  /**
   * The stamp along the upper edge of a page as it is looked at, on white, so that it can be read whatever lies there.
   *
   * @param turn of the page when it is shown, in degrees clockwise
   * @param text where this page has one of its own, which `begin` was told of
   */
  stamp(
    page: PDFPage,
    {
      low: [x, y],
      size: [width, height],
      turn,
      text = this.options.stamp,
    }: { low: Spot; size: Spot; turn: number; text?: string },
  ): void {
    if (text === undefined) return;
    const isAside = turn === 90 || turn === 270;
    const [across, up] = isAside ? [height, width] : [width, height];
    const full = this.faces.widthOf(text, STAMP_PT);
    const size = STAMP_PT * Math.min(1, (across - 4 * STAMP_EDGE_PT) / full);
    if (!(size > 0)) return;
    const long = this.faces.widthOf(text, size);
    // From a spot of the page as it is looked at to one of the page as it is stored.
    const place = ([right, above]: Spot): { x: number; y: number } => {
      if (turn === 90) return { x: x + width - above, y: y + right };
      if (turn === 180) return { x: x + width - right, y: y + height - above };
      return turn === 270 ? { x: x + above, y: y + height - right } : { x: x + right, y: y + above };
    };
    const bottom = up - STAMP_EDGE_PT - size * 1.4;
    page.drawRectangle({
      ...place([STAMP_EDGE_PT, bottom]),
      ...{ width: long + size, height: size * 1.4, color: rgb(1, 1, 1), rotate: degrees(turn) },
      ...{ borderColor: rgb(0, 0, 0), borderWidth: 0.4 },
    });
    this.faces.draw(page, text, {
      ...place([STAMP_EDGE_PT + size / 2, bottom + size * 0.38]),
      ...{ size, turn: (turn * Math.PI) / 180, color: rgb(0, 0, 0) },
    });
  }

  async end(): Promise<Printed> {
    if (this.options.marks.length > 0) {
      const list = await PDFDocument.load(await writePdf(listOf(this.options), this.options.made));
      for (const page of await this.document.copyPages(list, list.getPageIndices()))
        this.document.addPage(page);
    }
    return { bytes: await this.document.save(), missing: [...this.faces.missing] };
  }
}

function listOf({ title, marks }: PrintOptions): OutTable {
  return {
    title: `Drawn and written on ${title}`,
    says: [`${marks.filter(({ isSettled }) => !isSettled).length} of ${marks.length} are open.`],
    columns: [
      { title: 'No.', width: 4, align: 'right' },
      { title: 'What', width: 10 },
      { title: 'Where', width: 10 },
      { title: 'Says', width: 60 },
      { title: 'By', width: 14 },
      { title: 'On', width: 9 },
      { title: '', width: 8 },
    ],
    rows: marks.flatMap((mark) => [
      ...told(
        mark.words,
        [mark.by, mark.at, mark.isSettled ? 'settled' : 'open'],
        [...[mark.number, mark.tone === 'change' ? 'to change' : mark.tone, mark.sheet]],
      ),
      ...mark.remarks.flatMap(({ words, by, at }) => told(`– ${words}`, [by, at, ''], [null, '', ''])),
    ]),
  };
}

/** Letters in a row of the list. */
const IN_ROW = 76;

/** As many rows as the words take, so that none are cut off. */
function told(
  words: string,
  after: readonly string[],
  before: readonly (string | number | null)[],
): { readonly level: number; readonly cells: (string | number | null)[] }[] {
  const lines = words
    .split('\n')
    .flatMap((line) => line.match(new RegExp(`.{1,${IN_ROW}}(?:\\s|$)|.{1,${IN_ROW}}`, 'gu')) ?? ['']);
  return lines.map((line, at) => ({
    level: 1,
    cells: at === 0 ? [...before, line.trimEnd(), ...after] : [null, '', '', line.trimEnd(), '', '', ''],
  }));
}

/** All that is lettered on a sheet, and seen through openings in it. */
export function textsIn({ marks }: Pick<Sheet, 'marks'>): string[] {
  return marks.flatMap((mark) =>
    mark.kind === 'lettering' ? mark.lines : mark.kind === 'opening' ? textsIn(mark) : [],
  );
}
