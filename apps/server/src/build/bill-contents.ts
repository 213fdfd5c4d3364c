import { billUses, refuseBill, sayAmount, type BuildBill } from '@stem-trace/core';
import type { EntityManager } from 'typeorm';
import type { BlobStore, StoredBlob } from '../blobs/blob-store.js';
import { keepBlob } from '../blobs/keep-blob.js';
import { ProblemError } from '../problems/problem.js';
import type { DescribedVersion } from '../store/catalogue.service.js';

/** What is written into the file of a bill, so that whoever finds it knows what it is. */
const SCHEMA = 'urn:stem-trace:bill:1';

interface BillFile {
  readonly schema: typeof SCHEMA;
  readonly bill: BuildBill;
}

/** What versions of bills say, as files of the store: whole, hashed, backed up and verified like every other. */
export class BillContents {
  constructor(private readonly blobs: BlobStore) {}

  /** @throws ProblemError INPUT_INVALID where the version is of no bill, or its file says none */
  async read({ kind, number, label, sha256 }: DescribedVersion): Promise<BuildBill> {
    if (kind !== 'bill')
      throw new ProblemError('INPUT_INVALID', `${number} is no bill. Make one of it in Build.`);
    const text = new TextDecoder().decode(await this.blobs.read(sha256));
    const file = JSON.parse(text) as Partial<BillFile>;
    if (file.schema !== SCHEMA || !file.bill)
      throw new ProblemError('INPUT_INVALID', `The file of ${number} ${label} says no bill.`);
    return file.bill;
  }

  /** Writes the file of a version that is to be. @throws ProblemError INPUT_INVALID for what a bill cannot say */
  async write(manager: EntityManager, bill: BuildBill): Promise<StoredBlob> {
    const refusal = refuseBill(bill);
    if (refusal !== undefined) throw new ProblemError('INPUT_INVALID', `${refusal} Nothing was saved.`);
    const file: BillFile = { schema: SCHEMA, bill };
    const stored = await keepBlob(manager, this.blobs, Buffer.from(JSON.stringify(file)));
    const uses = billUses(bill.rows).map(({ itemId, rows, amounts }) => ({
      ...{ item_id: itemId, rows },
      amounts: amounts.map(sayAmount),
    }));
    await manager.query(
      `INSERT INTO bill_use (sha256, item_id, rows, amounts)
       SELECT $1, item_id, rows, amounts FROM jsonb_to_recordset($2::jsonb) AS u(item_id bigint, rows int, amounts text[])
       ON CONFLICT DO NOTHING`,
      [stored.sha256, JSON.stringify(uses)],
    );
    return stored;
  }
}
