import type { EntityManager } from 'typeorm';
import { isChange, numberKey } from '@stem-trace/core';
import type { Rights } from '../access/rights.service.js';
import type { BlobStore } from '../blobs/blob-store.js';
import { readRows, text } from '../database/read-rows.js';
import { ProblemError } from '../problems/problem.js';
import type { DescribedVersion } from './catalogue.service.js';

/** Members by which the files of MBOMs and changes refer to items, as the store wrote them; free text is not looked at. */
const IDS: ReadonlySet<string> = new Set(['itemId', 'item']);
const NUMBERS: ReadonlySet<string> = new Set(['product']);

/**
 * The file of an MBOM or a change, which only the store writes, holds the rows of everybody. Whoever may not see all of them reads them in the application, not as
 * a file.
 *
 * @throws ProblemError NOT_ALLOWED
 */
export async function refuseHiddenRows(
  manager: EntityManager,
  version: Pick<DescribedVersion, 'kind' | 'number' | 'sha256'>,
  blobs: BlobStore,
  rights: Rights,
): Promise<void> {
  if (version.kind !== 'bill' && !isChange(version.kind)) return;
  const hidden = rights.placesWithout('see');
  if (hidden.length === 0) return;
  const found = { ids: new Set<string>(), numbers: new Set<string>() };
  const contents: unknown = JSON.parse(
    new TextDecoder().decode(await blobs.read(version.sha256)),
    (key, value: unknown) => {
      if (IDS.has(key) && typeof value === 'string' && /^\d{1,18}$/.test(value)) found.ids.add(value);
      if (NUMBERS.has(key) && typeof value === 'string' && value !== '') found.numbers.add(numberKey(value));
      return value;
    },
  );
  if (contents === null) return;
  const rows = await readRows(
    manager,
    { id: text },
    `SELECT id FROM item WHERE (id = ANY($1::bigint[]) OR number_key = ANY($2::text[])) AND place_id = ANY($3::bigint[]) LIMIT 1`,
    [[...found.ids], [...found.numbers], hidden],
  );
  if (rows.length > 0)
    throw new ProblemError(
      'NOT_ALLOWED',
      `The file of ${version.number} names items that you have no access to. Open it in the application, which leaves them out.`,
    );
}
