/** Documents: what they are called, how long they are and the text in them. Their contents are not interpreted. */
import { MAX_TEXT, type FileFormat, type FileReading, type PropertyValue } from '@stem-trace/core';
import { refuseBloat } from './bloat.js';
import { broken, clean, openWorkbook } from './office.js';

/** Pages whose text is read; the rest can be looked at but not found. */
const MAX_PAGES = 500;

/** @throws KeptWhole where the file is broken or locked; FormatError where it unpacks to too much */
export async function readDocument(bytes: Uint8Array, format: FileFormat): Promise<FileReading> {
  switch (format) {
    case 'pdf':
      return readPdf(bytes);
    case 'workbook':
      return readWorkbook(bytes);
    case 'text document':
      return readTextDocument(bytes);
    case 'table':
    case 'text':
      return documentReading(format, { text: decodeText(bytes) });
    default:
      return documentReading(format, {});
  }
}

interface About {
  readonly name?: string;
  readonly description?: string;
  readonly properties?: readonly PropertyValue[];
  readonly text?: string;
}

export function documentReading(
  format: FileFormat,
  { name = '', description = '', properties = [], text = '' }: About,
): FileReading {
  return {
    format,
    schema: '',
    products: [
      {
        ref: 0,
        id: '',
        name: clean(name),
        description: clean(description),
        versionText: '',
        kind: 'document',
        source: 'unknown',
        properties,
      },
    ],
    root: 0,
    uses: [],
    text: withoutNulls(text).slice(0, MAX_TEXT),
  };
}

async function readPdf(bytes: Uint8Array): Promise<FileReading> {
  const { getDocument, VerbosityLevel } = await import('pdfjs-dist/legacy/build/pdf.mjs');
  const loading = getDocument({
    // The library takes the array over, and wants a plain one.
    data: new Uint8Array(bytes),
    isEvalSupported: false,
    disableFontFace: true,
    useSystemFonts: false,
    verbosity: VerbosityLevel.ERRORS,
  });
  try {
    const pdf = await loading.promise;
    const { info } = (await pdf.getMetadata()) as unknown as { info: Readonly<Record<string, unknown>> };
    const texts: string[] = [];
    let length = 0;
    for (let number = 1; number <= Math.min(pdf.numPages, MAX_PAGES) && length < MAX_TEXT; number++) {
      const page = await pdf.getPage(number);
      const { items } = await page.getTextContent();
      const text = items.map((item) => ('str' in item ? item.str + (item.hasEOL ? '\n' : ' ') : '')).join('');
      texts.push(text);
      length += text.length;
      page.cleanup();
    }
    const said = (key: string): string => (typeof info[key] === 'string' ? info[key] : '');
    return documentReading('pdf', {
      name: said('Title'),
      description: said('Subject'),
      properties: [
        { name: 'pages', kind: 'number', value: pdf.numPages, unit: '' },
        ...(said('Author') === ''
          ? []
          : [{ name: 'author', kind: 'text' as const, text: clean(said('Author')) }]),
      ],
      text: texts.join('\n'),
    });
  } catch (error) {
    throw broken('PDF', error);
  } finally {
    await loading.destroy();
  }
}

async function readWorkbook(bytes: Uint8Array): Promise<FileReading> {
  const workbook = await openWorkbook(bytes);
  try {
    const lines: string[] = [];
    let length = 0;
    workbook.eachSheet((sheet) => {
      lines.push(sheet.name);
      sheet.eachRow((row) => {
        if (length > MAX_TEXT) return;
        const cells: string[] = [];
        row.eachCell((cell) => cells.push(cell.text));
        const line = cells.join('\t');
        length += line.length;
        lines.push(line);
      });
    });
    return documentReading('workbook', {
      name: workbook.title ?? '',
      description: workbook.subject ?? '',
      properties: [{ name: 'sheets', kind: 'number', value: workbook.worksheets.length, unit: '' }],
      text: lines.join('\n'),
    });
  } catch (error) {
    throw broken('XLSX', error);
  }
}

async function readTextDocument(bytes: Uint8Array): Promise<FileReading> {
  await refuseBloat(bytes);
  const { default: mammoth } = await import('mammoth');
  try {
    const { value } = await mammoth.extractRawText({ buffer: Buffer.from(bytes) });
    return documentReading('text document', { text: value });
  } catch (error) {
    throw broken('DOCX', error);
  }
}

function decodeText(bytes: Uint8Array): string {
  // Four bytes a character at most.
  const piece = bytes.subarray(0, MAX_TEXT * 4);
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(piece, { stream: true });
  } catch {
    return new TextDecoder('windows-1252').decode(piece);
  }
}

// eslint-disable-next-line no-control-regex -- what a database refuses in a text
const withoutNulls = (text: string): string => text.replace(/\u0000/g, '');
