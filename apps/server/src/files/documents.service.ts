import { Injectable } from '@nestjs/common';
import { BlobStore } from '../blobs/blob-store.js';
import type { Person } from '../database/entities/person.js';
import { DocumentPool } from '../jobs/document-pool.js';
import { ProblemError } from '../problems/problem.js';
import { JsonBytes } from '../serve/json-bytes.js';
import { CatalogueService } from '../store/catalogue.service.js';
import { PerPerson } from '../work/per-person.js';

/** Office documents as they are looked at in the browser. */
@Injectable()
export class DocumentsService {
  private readonly limit = new PerPerson();

  constructor(
    private readonly catalogue: CatalogueService,
    private readonly blobs: BlobStore,
    private readonly pool: DocumentPool,
  ) {}

  /**
   * @param asker ends the wait of whoever has gone
   * @returns a `DocumentAnswer`
   * @throws ProblemError ITEM_UNKNOWN, NOT_ALLOWED; NO_TEXT if it is no office document, is damaged or takes too much to read
   */
  async open(reference: string, person: Person, asker: AbortSignal): Promise<JsonBytes> {
    const version = await this.catalogue.resolve(reference, person, 'fetch');
    const { format } = version.facts;
    if (format !== 'workbook' && format !== 'text document')
      throw new ProblemError(
        'NO_TEXT',
        `The file of ${version.number} is neither a workbook nor a document.`,
      );
    const file = this.blobs.pathOf(version.sha256);
    const report = await this.limit.run(person.id, () => this.pool.show({ file, format }), asker);
    if (report.kind === 'problem')
      throw new ProblemError('NO_TEXT', `The file of ${version.number} cannot be shown: ${report.reason}.`);
    return new JsonBytes(new TextEncoder().encode(report.answer));
  }
}
