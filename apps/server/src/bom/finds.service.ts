import type { FindProposal } from '@stem-trace/contract';
import { findsFromDrawing, numberKey, proposeFinds, type DrawnPart } from '@stem-trace/core';
import { FormatError, readPartsList } from '@stem-trace/formats';
import { DataSource } from 'typeorm';
import { RightsService } from '../access/rights.service.js';
import type { BlobStore } from '../blobs/blob-store.js';
import type { Person } from '../database/entities/person.js';
import { readRows, text } from '../database/read-rows.js';
import { CatalogueService } from '../store/catalogue.service.js';
import { mentionsIn, type Mention } from '../structure/mentions.js';
import { usesOf, type Use } from './bill-edit.service.js';

/** A drawing with more bytes than this is not looked into for a list. */
const MOST_BYTES = 50_000_000;
/** Drawings of one assembly that are looked into. */
const MOST_DRAWINGS = 5;

/** Find numbers for rows that have none: from the list on a drawing of the assembly, else counted on. */
export class FindsService {
  constructor(
    private readonly database: DataSource,
    private readonly catalogue: CatalogueService,
    private readonly rights: RightsService,
    private readonly blobs: BlobStore,
  ) {}

  /** Rows that have a number keep it. @throws ProblemError ITEM_UNKNOWN */
  async proposal({ item }: { readonly item: string }, person: Person): Promise<FindProposal> {
    const newest = await this.catalogue.resolve(item, person);
    const uses = await usesOf(this.database.manager, newest.id);
    const drawn = await this.drawn(newest.itemId, uses, person);
    const known = uses.map(({ find }, at) => (find === '' ? (drawn.finds[at] ?? '') : find));
    const finds = proposeFinds(known);
    return {
      drawing: drawn.drawing,
      drawn: uses.filter(({ find }, at) => find === '' && known[at] !== '').length,
      otherwise: drawn.otherwise.map((at) => uses[at]?.number ?? ''),
      rows: uses.flatMap(({ position, find }, at) => {
        const proposed = finds[at] ?? '';
        return proposed === find ? [] : [{ position, find: proposed }];
      }),
    };
  }

  /** What the first drawing says that has a list with rows of the assembly. */
  private async drawn(
    itemId: string,
    uses: readonly Use[],
    person: Person,
  ): Promise<ReturnType<typeof findsFromDrawing> & { readonly drawing: string | null }> {
    const drawings = await readRows(
      this.database,
      { number: text, sha256: text, version: text },
      `SELECT i.number, v.sha256, v.id::text AS version
       FROM link l JOIN item i ON i.newest_version_id = l.version_id JOIN version v ON v.id = l.version_id JOIN blob b ON b.sha256 = v.sha256
       WHERE l.target_item_id = $1 AND l.relation = 'depicts' AND i.kind = 'drawing' AND i.place_id <> ALL($2::bigint[])
         AND lower(v.file_name) LIKE '%.dxf' AND b.size <= ${MOST_BYTES}
       ORDER BY i.number_key LIMIT ${MOST_DRAWINGS}`,
      [itemId, (await this.rights.of(person)).placesWithout('fetch')],
    );
    const mentions = await mentionsIn(
      this.database,
      drawings.map(({ version }) => version),
    );
    for (const { number: drawing, sha256, version } of drawings) {
      const parts = partsIn(await this.blobs.read(sha256));
      const said = findsFromDrawing(uses, asCalledNow(parts, mentions.get(version) ?? []));
      if (said.finds.some((find) => find !== '')) return { ...said, drawing };
    }
    return { finds: [], otherwise: [], drawing: null };
  }
}

/** A file that cannot be read is kept, and has no list that could be read. */
function partsIn(bytes: Uint8Array): DrawnPart[] {
  try {
    return readPartsList(bytes);
  } catch (error) {
    if (error instanceof FormatError) return [];
    throw error;
  }
}

/** A drawing may call items otherwise than the store does: its file is that of the origin, or they were renamed. */
function asCalledNow(parts: readonly DrawnPart[], mentions: readonly Mention[]): DrawnPart[] {
  const numbers = new Map(mentions.map(({ was, number }) => [numberKey(was), number]));
  return parts.map((part) => ({ ...part, number: numbers.get(numberKey(part.number)) ?? part.number }));
}
