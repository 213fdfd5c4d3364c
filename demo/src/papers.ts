/** The demo's documents: datasheets and specifications as PDF, lists as XLSX. The same input gives the same bytes. */
import excel from 'exceljs';
import { unzipSync, zipSync } from 'fflate';
import { PDFDocument, rgb, StandardFonts, type PDFFont, type PDFPage } from 'pdf-lib';

export interface Paper {
  readonly title: string;
  readonly subject: string;
  readonly author: string;
  /** ISO 8601 */
  readonly at: string;
  readonly paragraphs: readonly string[];
  /** Name and value, as a table under the text. */
  readonly rows?: readonly (readonly [string, string])[];
}

const A4 = [595, 842] as const;
const EDGE = 56;
const LINE = 15;

export async function pdf({ title, subject, author, at, paragraphs, rows = [] }: Paper): Promise<Uint8Array> {
  const document = await PDFDocument.create();
  document.setTitle(title);
  document.setSubject(subject);
  document.setAuthor(author);
  document.setCreationDate(new Date(at));
  document.setModificationDate(new Date(at));
  document.setProducer('Fenmark Hydrometrics');
  const plain = await document.embedFont(StandardFonts.Helvetica);
  const bold = await document.embedFont(StandardFonts.HelveticaBold);
  let page: PDFPage | undefined;
  let y = 0;
  const write = (text: string, font: PDFFont, size: number): void => {
    if (!page || y < EDGE) {
      page = document.addPage([...A4]);
      y = A4[1] - EDGE;
      page.drawText('Fenmark Hydrometrics', {
        x: EDGE,
        y: A4[1] - 36,
        size: 8,
        font: plain,
        color: rgb(0.4, 0.45, 0.48),
      });
    }
    // The standard fonts have no Greek.
    page.drawText(text.replaceAll('Ω', 'Ohm'), { x: EDGE, y, size, font });
    y -= LINE * (size / 10);
  };
  write(title, bold, 17);
  write(subject, plain, 10);
  y -= 10;
  for (const paragraph of paragraphs) {
    for (const line of wrapped(paragraph, 88)) write(line, plain, 10);
    y -= 6;
  }
  for (const [name, value] of rows) write(`${name}:  ${value}`, plain, 10);
  return document.save();
}

export interface Sheet {
  readonly name: string;
  readonly rows: readonly (readonly (string | number)[])[];
}

export async function workbook(title: string, at: string, sheets: readonly Sheet[]): Promise<Uint8Array> {
  const book = new excel.Workbook();
  book.title = title;
  book.creator = 'Fenmark Hydrometrics';
  book.created = new Date(at);
  book.modified = new Date(at);
  for (const { name, rows } of sheets) {
    const sheet = book.addWorksheet(name);
    rows.forEach((row) => sheet.addRow([...row]));
    sheet.getRow(1).font = { bold: true };
    sheet.columns.forEach((column) => (column.width = 22));
  }
  // Packed anew, so that the moment of making is not in it.
  const entries = unzipSync(new Uint8Array(await book.xlsx.writeBuffer()));
  return zipSync(entries, { mtime: new Date(at), level: 9 });
}

function wrapped(text: string, width: number): string[] {
  const lines: string[] = [];
  let line = '';
  for (const word of text.split(' ')) {
    if (line !== '' && line.length + word.length + 1 > width) {
      lines.push(line);
      line = word;
    } else line = line === '' ? word : `${line} ${word}`;
  }
  return line === '' ? lines : [...lines, line];
}
