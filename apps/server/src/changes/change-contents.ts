import { isChange, NO_CHANGE, refuseContents, type ChangeContents, type ChangeKind } from '@stem-trace/core';
import type { EntityManager } from 'typeorm';
import type { BlobStore, StoredBlob } from '../blobs/blob-store.js';
import { keepBlob } from '../blobs/keep-blob.js';
import { ProblemError } from '../problems/problem.js';
import type { DescribedVersion } from '../store/catalogue.service.js';

/** What is written into the file of a change, so that whoever finds it knows what it is. */
const SCHEMA = 'urn:stem-trace:change:1';

interface ChangeFile {
  readonly schema: typeof SCHEMA;
  readonly kind: ChangeKind;
  readonly change: ChangeContents;
}

/** What versions of changes say, as files of the store: whole, hashed, signed, backed up and verified like every other. */
export class ChangeFiles {
  constructor(private readonly blobs: BlobStore) {}

  /** @throws ProblemError INPUT_INVALID where the version is of no change, or its file says none */
  async read({
    kind,
    number,
    label,
    sha256,
  }: Pick<DescribedVersion, 'kind' | 'number' | 'label' | 'sha256'>): Promise<ChangeContents> {
    if (!isChange(kind))
      throw new ProblemError('INPUT_INVALID', `${number} is no change request and no change order.`);
    const file = JSON.parse(new TextDecoder().decode(await this.blobs.read(sha256))) as Partial<ChangeFile>;
    if (file.schema !== SCHEMA || !file.change)
      throw new ProblemError('INPUT_INVALID', `The file of ${number} ${label} says no change.`);
    return { ...NO_CHANGE, ...file.change };
  }

  /** @throws ProblemError INPUT_INVALID for what a change cannot say */
  async write(manager: EntityManager, kind: ChangeKind, change: ChangeContents): Promise<StoredBlob> {
    const refusal = refuseContents(kind, change);
    if (refusal !== undefined) throw new ProblemError('INPUT_INVALID', `${refusal} Nothing was saved.`);
    const file: ChangeFile = { schema: SCHEMA, kind, change };
    return keepBlob(manager, this.blobs, Buffer.from(JSON.stringify(file)));
  }
}
