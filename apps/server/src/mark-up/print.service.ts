import type { FileAnswer, PrintRequest } from '@stem-trace/contract';
import {
  blendPages,
  FormatError,
  printDrawing,
  printImage,
  printPages,
  recognise,
  printSheets,
  type ListedMark,
  type OverlaidPart,
  type Printed,
  type PrintOptions,
} from '@stem-trace/formats';
import { overlayDrawings, type Drawing } from '@stem-trace/core/sheet';
import { drawingOf, type OtherDrawing } from '@stem-trace/formats/drawing';
import type { DataSource } from 'typeorm';
import type { RightsService } from '../access/rights.service.js';
import type { BlobStore } from '../blobs/blob-store.js';
import type { Person } from '../database/entities/person.js';
import { readRows, text } from '../database/read-rows.js';
import { ProblemError } from '../problems/problem.js';
import type { CatalogueService, DescribedVersion } from '../store/catalogue.service.js';
import type { MarkUpService } from './mark-up.service.js';

interface Printing extends Pick<PrintRequest, 'sheet' | 'scale'> {
  readonly title: string;
  readonly made: string;
  readonly marks: readonly ListedMark[];
  /** Places whose files the asker may not fetch. */
  readonly hidden: readonly string[];
}

/** Drawings, pages and pictures on paper. */
export class PrintService {
  constructor(
    private readonly database: DataSource,
    private readonly catalogue: CatalogueService,
    private readonly blobs: BlobStore,
    private readonly rights: RightsService,
    private readonly marks: MarkUpService,
  ) {}

  /** @throws ProblemError NO_TEXT for what is no flat picture; INPUT_INVALID where it does not fit the largest paper */
  async print(request: PrintRequest, person: Person): Promise<FileAnswer> {
    const version = await this.catalogue.resolve(request.item, person, 'fetch');
    await this.catalogue.requireFile(version, person);
    const bytes = await this.blobs.read(version.sha256);
    const title = `${version.number} ${version.label}`;
    const hidden = (await this.rights.of(person)).placesWithout('fetch');
    const options = {
      title,
      made: new Date().toISOString().slice(0, 10),
      marks: request.marks ? await this.listed(request.item, person) : [],
    };
    try {
      const made = await this.printed(version, bytes, { ...request, ...options, hidden });
      return {
        name: `${title.replace(/[/:\\]/g, '-')}.pdf`,
        media: 'application/pdf',
        base64: Buffer.from(made).toString('base64'),
      };
    } catch (error) {
      if (!(error instanceof FormatError)) throw error;
      throw new ProblemError(
        'INPUT_INVALID',
        `${title} cannot be printed: ${error.reason}. Nothing was changed.`,
      );
    }
  }

  private async printed(
    version: DescribedVersion,
    bytes: Uint8Array,
    { sheet, scale, hidden, ...options }: Printing,
  ): Promise<Uint8Array> {
    switch (recognise(version.storedFileName, bytes)) {
      case 'dxf': {
        const drawing = drawingOf(bytes, await this.drawnOn(version, hidden));
        return (await printDrawing(drawing, { ...options, sheet, ...(scale === undefined ? {} : { scale }) }))
          .bytes;
      }
      case 'pdf':
        return (await printPages(bytes, options)).bytes;
      case 'image':
        return (await printImage(bytes, options)).bytes;
      default:
        throw new ProblemError('NO_TEXT', `The file of ${version.number} is no drawing, page or picture.`);
    }
  }

  /**
   * All of a drawing, page or picture with a stamp, as it is issued.
   *
   * @returns with what it could not say
   * @throws ProblemError NO_TEXT for what is no flat picture; INPUT_INVALID where it cannot be printed
   */
  async stamped(
    version: DescribedVersion,
    { stamp, made }: { readonly stamp: string; readonly made: string },
  ): Promise<{ readonly bytes: Uint8Array; readonly remarks: readonly string[] }> {
    const title = `${version.number} ${version.label}`;
    const options = { title, made, stamp, marks: [] };
    const bytes = await this.blobs.read(version.sha256);
    try {
      const printed = await this.stampedOf(version, bytes, options);
      return { bytes: printed.bytes, remarks: [...printed.remarks, ...sayMissing(printed.missing)] };
    } catch (error) {
      if (!(error instanceof FormatError)) throw error;
      throw new ProblemError('INPUT_INVALID', `${title} cannot be printed: ${error.reason}.`);
    }
  }

  private async stampedOf(
    version: DescribedVersion,
    bytes: Uint8Array,
    options: PrintOptions,
  ): Promise<Printed & { readonly remarks: readonly string[] }> {
    switch (recognise(version.storedFileName, bytes)) {
      case 'dxf': {
        const drawing = drawingOf(bytes, await this.drawnOn(version, []));
        const { fitted, ...printed } = await printSheets(drawing, options);
        const undrawn = drawing.undrawn.map(({ what, count, why }) => `${count} ${what} not drawn: ${why}`);
        return {
          ...printed,
          remarks: [...fitted.map((name) => `${name} is fitted to the page, not to scale`), ...undrawn],
        };
      }
      case 'pdf':
        return { ...(await printPages(bytes, options)), remarks: [] };
      case 'image':
        return { ...(await printImage(bytes, options)), remarks: [] };
      default:
        throw new ProblemError('NO_TEXT', `The file of ${version.number} is no drawing, page or picture.`);
    }
  }

  /**
   * Two versions of a drawing, page or picture laid over each other.
   *
   * @returns as it can be printed, or why it cannot
   */
  async laidOver(
    before: string,
    after: string,
    person: Person,
  ): Promise<OverlaidPart['shows'] | { readonly says: string }> {
    try {
      const [first, second] = [await this.sideOf(before, person), await this.sideOf(after, person)];
      if (first.kind === 'drawing' && second.kind === 'drawing')
        return {
          ...{ kind: 'drawing', unitMm: second.drawing.unitMm },
          sheets: overlayDrawings(first.drawing, second.drawing),
        };
      return { kind: 'pages', blended: await blendPages(await pagesOf(first), await pagesOf(second)) };
    } catch (error) {
      if (error instanceof ProblemError) return { says: error.message };
      if (error instanceof FormatError) return { says: `It cannot be drawn: ${error.reason}.` };
      throw error;
    }
  }

  private async sideOf(reference: string, person: Person): Promise<Side> {
    const version = await this.catalogue.resolve(reference, person, 'fetch');
    await this.catalogue.requireFile(version, person);
    const title = `${version.number} ${version.label}`;
    const bytes = await this.blobs.read(version.sha256);
    const kind = recognise(version.storedFileName, bytes);
    if (kind === 'dxf') {
      const hidden = (await this.rights.of(person)).placesWithout('fetch');
      return { kind: 'drawing', title, drawing: drawingOf(bytes, await this.drawnOn(version, hidden)) };
    }
    if (kind === 'pdf') return { kind, title, bytes };
    if (kind === 'image') return { kind, title, bytes };
    throw new ProblemError('NO_TEXT', `The file of ${title} is no drawing, page or picture.`);
  }

  /** Drawings that it is drawn on, as far as the asker may see them. */
  private async drawnOn({ id }: DescribedVersion, hidden: readonly string[]): Promise<OtherDrawing[]> {
    const rows = await readRows(
      this.database,
      { name: text, sha256: text },
      `SELECT o.file_name AS name, o.sha256 FROM link l JOIN item i ON i.id = l.target_item_id
       JOIN version o ON o.id = i.newest_version_id
       WHERE l.version_id = $1 AND l.relation = 'draws on' AND i.kind = 'drawing' AND i.place_id <> ALL($2::bigint[])`,
      [id, hidden],
    );
    return Promise.all(
      rows.map(async ({ name, sha256 }) => ({ name, bytes: await this.blobs.read(sha256) })),
    );
  }

  private async listed(item: string, person: Person): Promise<ListedMark[]> {
    const { rows } = await this.marks.list(item, person);
    return rows.map((row, at) => ({
      ...{ number: at + 1, kind: row.kind, tone: row.tone, sheet: row.sheet, words: row.words },
      ...{ by: row.by, at: row.at.slice(0, 10), isSettled: row.settledAt !== null },
      spots: row.spots.map(([x = 0, y = 0]) => [x, y] as const),
      remarks: row.remarks.map(({ by, at: when, words }) => ({ by, at: when.slice(0, 10), words })),
    }));
  }
}

type Side =
  | { readonly kind: 'drawing'; readonly title: string; readonly drawing: Drawing }
  | { readonly kind: 'pdf'; readonly title: string; readonly bytes: Uint8Array }
  | { readonly kind: 'image'; readonly title: string; readonly bytes: Uint8Array };

/** As PDF, whatever it is. @throws FormatError where it cannot be printed */
async function pagesOf(side: Side): Promise<Uint8Array> {
  const options = { title: side.title, made: '', marks: [] };
  if (side.kind === 'pdf') return side.bytes;
  if (side.kind === 'image') return (await printImage(side.bytes, options)).bytes;
  return (await printSheets(side.drawing, options)).bytes;
}

function sayMissing(characters: readonly string[]): string[] {
  if (characters.length === 0) return [];
  const named = characters.map(
    (each) => `${each} (U+${(each.codePointAt(0) ?? 0).toString(16).toUpperCase().padStart(4, '0')})`,
  );
  return [`No font that ships has ${named.join(', ')}; a box stands for each`];
}
