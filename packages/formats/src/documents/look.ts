/** Workbooks as tables and documents as flowing text, to be looked at without the program that made them. */
import { refuseBloat } from './bloat.js';
import { broken, openWorkbook } from './office.js';

export interface LookTable {
  readonly name: string;
  readonly rows: readonly (readonly string[])[];
  /** Of columns, in characters, where the file says them; 0 where it does not. */
  readonly widths: readonly number[];
  /** Rows of the sheet; more than are given where it is very long. */
  readonly count: number;
}

export interface LookText {
  /** HTML of a few harmless elements; pictures are inside. */
  readonly html: string;
  /** What was not understood or left out, in words. */
  readonly left: readonly string[];
}

/** Rows and columns that are given; the file itself has them all. */
const MOST_ROWS = 2000;
const MOST_COLUMNS = 100;
/** Characters of one cell. */
const MOST_IN_CELL = 2000;

/**
 * Sheets of a workbook (ECMA-376), as what their cells show; what is hidden in it is left out.
 *
 * @throws KeptWhole where the file is broken or locked; FormatError where it unpacks to too much
 */
export async function tablesOf(bytes: Uint8Array): Promise<LookTable[]> {
  const workbook = await openWorkbook(bytes);
  try {
    return workbook.worksheets
      .filter(({ state }) => state === 'visible')
      .map((sheet): LookTable => {
        const rows: string[][] = [];
        let columns = 0;
        sheet.eachRow({ includeEmpty: false }, (row, number) => {
          if (number > MOST_ROWS) return;
          const cells: string[] = [];
          row.eachCell((cell, column) => {
            if (column <= MOST_COLUMNS) cells[column - 1] = shown(cell.text);
          });
          rows[number - 1] = Array.from(cells, (cell) => cell ?? '');
          columns = Math.max(columns, cells.length);
        });
        const width = (at: number): number => sheet.getColumn(at + 1).width ?? 0;
        return {
          name: sheet.name,
          rows: Array.from(rows, (row) => row ?? []),
          widths: Array.from({ length: columns }, (_, at) => width(at)),
          count: sheet.rowCount,
        };
      });
  } catch (error) {
    throw broken('XLSX', error);
  }
}

/** A cell whose text is made of odd things says them as it can. */
function shown(text: unknown): string {
  const said = typeof text === 'string' ? text : String(text ?? '');
  return said.length > MOST_IN_CELL ? `${said.slice(0, MOST_IN_CELL)} …` : said;
}

/** Pictures of a document, in bytes; what comes after is left out. */
const MOST_PICTURED = 20_000_000;
const PICTURES: ReadonlySet<string> = new Set(['image/png', 'image/jpeg', 'image/gif']);

/**
 * A document (ECMA-376, WordprocessingML) as flowing text with headings, lists, tables and pictures.
 *
 * @throws KeptWhole where the file is broken or locked; FormatError where it unpacks to too much
 */
export async function flowOf(bytes: Uint8Array): Promise<LookText> {
  await refuseBloat(bytes);
  const { default: mammoth } = await import('mammoth');
  const left = new Map<string, number>();
  const leave = (what: string): void => void left.set(what, (left.get(what) ?? 0) + 1);
  let pictured = 0;
  try {
    const { value, messages } = await mammoth.convertToHtml(
      { buffer: Buffer.from(bytes) },
      {
        convertImage: mammoth.images.imgElement(async (image) => {
          const content = await image.readAsBase64String();
          pictured += content.length;
          if (PICTURES.has(image.contentType) && pictured <= MOST_PICTURED)
            return { src: `data:${image.contentType};base64,${content}` };
          leave(`picture of type ${image.contentType}`);
          return { src: '' };
        }),
      },
    );
    for (const { message } of messages) leave(message);
    return {
      html: await harmless(value),
      left: [...left].map(([what, count]) => (count === 1 ? what : `${what} (${count} times)`)),
    };
  } catch (error) {
    throw broken('DOCX', error);
  }
}

/** Nothing that runs, is loaded from elsewhere or leads elsewhere. */
async function harmless(html: string): Promise<string> {
  const { default: sanitize } = await import('sanitize-html');
  return sanitize(html, {
    allowedTags: [
      ...['h1', 'h2', 'h3', 'h4', 'h5', 'h6', 'p', 'br', 'strong', 'em', 's', 'sub', 'sup'],
      ...['ul', 'ol', 'li', 'table', 'thead', 'tbody', 'tr', 'th', 'td', 'img'],
    ],
    allowedAttributes: { td: ['colspan', 'rowspan'], th: ['colspan', 'rowspan'], img: ['src', 'alt'] },
    allowedSchemes: [],
    allowedSchemesByTag: { img: ['data'] },
    exclusiveFilter: ({ tag, attribs }) => tag === 'img' && !attribs.src,
  });
}
