import { readFile } from 'node:fs/promises';
import type { FileAnswer, LensText } from '@stem-trace/contract';
import { joinStep, readStep, rewriteFile, StepError } from '@stem-trace/formats';
import type { DataSource } from 'typeorm';
import type { RightsService } from '../access/rights.service.js';
import type { BlobStore } from '../blobs/blob-store.js';
import type { Person } from '../database/entities/person.js';
import { ProblemError } from '../problems/problem.js';
import type { CatalogueService } from '../store/catalogue.service.js';
import { formatOf } from '../store/facts.js';
import { parseLens } from '../structure/lens-text.js';
import { counted, recordQuietly } from '../trail/record.js';
import type { FetchTreeService } from './fetch-tree.js';

export interface JoinRequest {
  readonly item: string;
  readonly lens: LensText;
}

/** Longest that a joined file may be, so that it fits into the memory of a thread and of whoever reads it. */
const MOST_BYTES = 512 * 1024 ** 2;

/** Hands out an assembly as one file, for programs that read no references. */
export class JoinService {
  constructor(
    private readonly database: DataSource,
    private readonly catalogue: CatalogueService,
    private readonly trees: FetchTreeService,
    private readonly blobs: BlobStore,
    private readonly rights: RightsService,
  ) {}

  /** @throws ProblemError ITEM_UNKNOWN, NOT_ALLOWED; INPUT_INVALID where it is no model, or its files cannot be joined */
  async join({ item, lens }: JoinRequest, person: Person): Promise<FileAnswer> {
    const version = await this.catalogue.resolveUnder(item, parseLens(lens), {
      person,
      right: 'fetch',
      orNewest: true,
    });
    await this.catalogue.requireFile(version, person);
    const rights = await this.rights.of(person);
    const tree = await this.trees.collect(version, {
      lens: parseLens(lens),
      drawings: false,
      mayFetch: (placeId) => rights.may('fetch', placeId),
      maySee: (placeId) => rights.may('see', placeId),
    });
    if (formatOf(version.facts) !== 'step')
      throw new ProblemError(
        'INPUT_INVALID',
        `${version.number} is no STEP model, so that there is nothing to join.`,
      );
    const files = new Map<string, Uint8Array>();
    let size = 0;
    for (const { path, sha256, storedFileName, renaming } of tree.plan.files) {
      if (!/\.(stp|step|p21)$/i.test(path)) continue;
      const { bytes } = rewriteFile(await readFile(this.blobs.pathOf(sha256)), storedFileName, renaming);
      size += bytes.length;
      if (size > MOST_BYTES)
        throw new ProblemError(
          'INPUT_INVALID',
          `${version.number} is more than ${MOST_BYTES / 1024 ** 2} MB in one file. Join a part of it, or fetch it as files.`,
        );
      files.set(path, bytes);
    }
    const bytes = joined(files, tree.root.path, version.number);
    await recordQuietly(this.database.manager, [
      {
        ...{ personId: person.id, kind: 'fetch' as const, itemId: version.itemId },
        says: `${person.name} fetched ${version.number} ${version.label} as one file of ${counted(files.size, 'file')}`,
        detail: { lens },
      },
    ]);
    return {
      name: `${version.number} ${version.label}.stp`.replace(/[/:\\]/g, '-'),
      media: 'model/step',
      base64: Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength).toString('base64'),
    };
  }
}

function joined(files: ReadonlyMap<string, Uint8Array>, root: string, number: string): Uint8Array {
  try {
    const bytes = joinStep(files, root);
    // Whatever came out is read once before anybody gets it.
    readStep(bytes, root);
    return bytes;
  } catch (error) {
    if (!(error instanceof StepError)) throw error;
    throw new ProblemError(
      'INPUT_INVALID',
      `${number} cannot be joined: ${error.message}. Fetch it as files instead.`,
    );
  }
}
