import { readFile } from 'node:fs/promises';
import type { DocumentAnswer } from '@stem-trace/contract';
import { flowOf, FormatError, KeptWhole, tablesOf } from '@stem-trace/formats';
import type { BlobStore } from '../blobs/blob-store.js';
import type { Person } from '../database/entities/person.js';
import { ProblemError } from '../problems/problem.js';
import type { CatalogueService } from '../store/catalogue.service.js';

/** Office documents, to be looked at. */
export class DocumentsService {
  constructor(
    private readonly catalogue: CatalogueService,
    private readonly blobs: BlobStore,
  ) {}

  /** @throws ProblemError ITEM_UNKNOWN, NOT_ALLOWED; NO_TEXT where it is no office document or is broken */
  async open(reference: string, person: Person): Promise<DocumentAnswer> {
    const version = await this.catalogue.resolve(reference, person, 'fetch');
    const { format } = version.facts;
    if (format !== 'workbook' && format !== 'text document')
      throw new ProblemError(
        'NO_TEXT',
        `The file of ${version.number} is neither a workbook nor a document.`,
      );
    const bytes = await readFile(this.blobs.pathOf(version.sha256));
    try {
      return format === 'workbook'
        ? { kind: 'tables', tables: await tablesOf(bytes) }
        : { kind: 'text', ...(await flowOf(bytes)) };
    } catch (error) {
      if (error instanceof KeptWhole || error instanceof FormatError)
        throw new ProblemError('NO_TEXT', `The file of ${version.number} cannot be shown: ${error.message}.`);
      throw error;
    }
  }
}
