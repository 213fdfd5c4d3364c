import { PDFDocument, rgb, type PDFPage, type RGB } from 'pdf-lib';
import { Faces, type DrawnText } from '../print/faces.js';
import { GROUNDS, marksOf, SIGNS, type OutColumn, type OutRow, type OutTable } from './table.js';

/** A4 across, in points (ISO 216; 1/72 in). */
const PAGE = { width: 841.89, height: 595.28, margin: 36 } as const;
const SIZE = { title: 14, text: 8, row: 13 } as const;
const INK = rgb(0.13, 0.19, 0.23);
const SOFT = rgb(0.35, 0.42, 0.45);
const INDENT = 8;

interface Fonts {
  readonly plain: Face;
  readonly bold: Face;
}

/** A font that knows how wide its characters are: laying whole texts out to measure them is most of the work. */
class Face {
  private readonly widths = new Map<string, number>();

  constructor(private readonly faces: Faces) {}

  draw(page: PDFPage, text: string, how: DrawnText): void {
    this.faces.draw(page, text, how);
  }

  /** In points, at the size of the rows; without kerning, so never narrower than what is drawn by more than that. */
  widthOf(text: string): number {
    let sum = 0;
    for (const character of text) {
      let width = this.widths.get(character);
      if (width === undefined) {
        width = this.faces.widthOf(character, SIZE.text);
        this.widths.set(character, width);
      }
      sum += width;
    }
    return sum;
  }
}

/** A table for print, with its heading on every page. @param made day of the print, said at the foot */
export async function writePdf(table: OutTable, made: string): Promise<Uint8Array> {
  const document = await PDFDocument.create();
  document.setTitle(table.title);
  document.setLanguage('en');
  const says = [made, table.title, ...table.says];
  const cells = table.rows.flatMap((row) => row.cells.map((cell) => String(cell ?? '')));
  const titles = [table.title, ...table.columns.map(({ title }) => title)];
  const fonts = {
    plain: new Face(await Faces.open(document, [...says, ...cells])),
    bold: new Face(await Faces.open(document, titles, 'DejaVuSans-Bold.ttf')),
  };
  const printer = new Printer(document, fonts, table);
  for (const row of table.rows) printer.row(row);
  printer.foot(made);
  return document.save();
}

class Printer {
  private page: PDFPage;
  private y = 0;
  private readonly places: readonly { readonly x: number; readonly width: number }[];

  constructor(
    private readonly document: PDFDocument,
    private readonly fonts: Fonts,
    private readonly table: OutTable,
  ) {
    const all = table.columns.reduce((sum, { width }) => sum + width, 0) || 1;
    const room = PAGE.width - 2 * PAGE.margin;
    let x: number = PAGE.margin;
    this.places = table.columns.map(({ width }) => {
      const place = { x, width: (width / all) * room };
      x += place.width;
      return place;
    });
    this.page = this.newPage(true);
  }

  row(row: OutRow): void {
    const cells = this.table.columns.map((column, at) => this.linesOf(column, at, row));
    const lines = Math.max(1, ...cells.map(({ length }) => length));
    for (let line = 0; line < lines; line++) {
      if (this.y < PAGE.margin + 2 * SIZE.row) this.page = this.newPage(false);
      this.y -= SIZE.row;
      if (row.mark) this.ground(GROUNDS[row.mark]);
      this.table.columns.forEach(({ align, isTree }, at) =>
        this.text(cells[at]?.[line] ?? '', at, {
          ...{ font: this.fonts.plain, align },
          indent: isTree ? indentOf(row) : 0,
        }),
      );
    }
    this.rule(0.3);
  }

  /** What stands in a cell, line by line. */
  private linesOf({ wraps, isTree }: OutColumn, at: number, row: OutRow): string[] {
    const value = row.cells[at];
    if (value === null || value === undefined) return [];
    const room = (this.places[at]?.width ?? 0) - 6 - (isTree ? indentOf(row) : 0);
    return wraps ? this.wrapped(String(value), room) : [String(value)];
  }

  /** In lines of at most so many points at the size of the rows. */
  private wrapped(text: string, room: number): string[] {
    return text.split('\n').flatMap((line) => wrapped(this.plain(line), room, this.fonts.plain));
  }

  /** Which page of how many, once all are there. */
  foot(made: string): void {
    const pages = this.document.getPages();
    pages.forEach((page, at) => {
      const says = `${this.table.title} · ${made} · page ${at + 1} of ${pages.length}`;
      this.fonts.plain.draw(page, this.plain(says), { x: PAGE.margin, y: 18, size: 7, color: SOFT });
    });
  }

  private newPage(isFirst: boolean): PDFPage {
    this.page = this.document.addPage([PAGE.width, PAGE.height]);
    this.y = PAGE.height - PAGE.margin;
    if (isFirst) this.title();
    this.y -= SIZE.row;
    this.table.columns.forEach(({ title, align }, at) =>
      this.text(title, at, { font: this.fonts.bold, align }),
    );
    this.rule(0.8);
    return this.page;
  }

  private title(): void {
    this.line(this.table.title, SIZE.title, this.fonts.bold, INK);
    for (const says of this.table.says) this.line(says, SIZE.text, this.fonts.plain, SOFT);
    const marks = marksOf(this.table);
    if (marks.length > 0)
      this.line(
        marks.map((mark) => `${SIGNS[mark]} ${mark}`).join('     '),
        SIZE.text,
        this.fonts.plain,
        INK,
      );
    this.y -= 4;
  }

  /** As many lines as it takes, on as many pages. */
  private line(says: string, size: number, own: Face, color: RGB): void {
    const room = ((PAGE.width - 2 * PAGE.margin) * SIZE.text) / size;
    for (const line of this.wrapped(says, room)) {
      if (this.y < PAGE.margin + 3 * SIZE.row) {
        this.page = this.document.addPage([PAGE.width, PAGE.height]);
        this.y = PAGE.height - PAGE.margin;
      }
      this.y -= size + 4;
      own.draw(this.page, line, { x: PAGE.margin, y: this.y, size, color });
    }
  }

  private text(
    value: string,
    at: number,
    { font: own, align, indent = 0 }: { font: Face; align: 'right' | undefined; indent?: number },
  ): void {
    const place = this.places[at];
    if (!place || value === '') return;
    const room = place.width - 6 - indent;
    const says = fitted(this.plain(value), room, own);
    const x = align === 'right' ? place.x + place.width - 4 - own.widthOf(says) : place.x + 2 + indent;
    own.draw(this.page, says, { x, y: this.y + 3.5, size: SIZE.text, color: INK });
  }

  private ground(hex: string): void {
    const part = (from: number): number => parseInt(hex.slice(from, from + 2), 16) / 255;
    this.page.drawRectangle({
      ...{ x: PAGE.margin, y: this.y, width: PAGE.width - 2 * PAGE.margin, height: SIZE.row },
      color: rgb(part(0), part(2), part(4)),
    });
  }

  private rule(thickness: number): void {
    const { y } = this;
    this.page.drawLine({
      ...{ start: { x: PAGE.margin, y }, end: { x: PAGE.width - PAGE.margin, y } },
      ...{ thickness, color: SOFT },
    });
  }

  /** One line without signs that are not drawn. */
  private plain(text: string): string {
    // eslint-disable-next-line no-control-regex -- these are not drawn
    return text.replace(/[\u0000-\u001f\u007f]+/g, ' ');
  }
}

function indentOf({ level }: OutRow): number {
  return Math.min(level - 1, 12) * INDENT;
}

/** Broken between words, and within those that are longer than a line. `O(length × length of a line)` */
function wrapped(text: string, room: number, own: Face): string[] {
  const lines: string[] = [];
  let line = '';
  for (const word of text.split(' ')) {
    const longer = line === '' ? word : `${line} ${word}`;
    if (own.widthOf(longer) <= room) {
      line = longer;
      continue;
    }
    if (line !== '') lines.push(line);
    line = '';
    for (const character of word) {
      if (line !== '' && own.widthOf(line + character) > room) {
        lines.push(line);
        line = '';
      }
      line += character;
    }
  }
  return [...lines, line];
}

/** As much of a text as there is room for. */
function fitted(text: string, room: number, own: Face): string {
  if (room <= 0) return '';
  const width = (part: string): number => own.widthOf(part);
  if (text.length * SIZE.text < room || width(text) <= room) return text;
  let [least, most] = [0, text.length];
  while (least < most) {
    const middle = Math.ceil((least + most) / 2);
    if (width(`${text.slice(0, middle)}…`) <= room) least = middle;
    else most = middle - 1;
  }
  return least === 0 ? '' : `${text.slice(0, least)}…`;
}
