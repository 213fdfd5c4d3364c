import type { FileAnswer, LensText } from '@stem-trace/contract';
import { base, folderOf } from '@stem-trace/core';
import { joinStep, readStep, rewriteFile, splitStep, StepError } from '@stem-trace/formats';
import type { DataSource } from 'typeorm';
import type { RightsService } from '../access/rights.service.js';
import type { BlobStore } from '../blobs/blob-store.js';
import type { Person } from '../database/entities/person.js';
import { ProblemError } from '../problems/problem.js';
import type { CatalogueService, DescribedVersion } from '../store/catalogue.service.js';
import { formatOf } from '../store/facts.js';
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
    const version = await this.catalogue.resolveUnder(item, lens, {
      person,
      right: 'fetch',
    });
    await this.catalogue.requireFile(version, person);
    const { bytes, files } = await this.joined(version, lens, person);
    await recordQuietly(this.database.manager, [
      {
        ...{ personId: person.id, kind: 'fetch' as const, itemId: version.itemId },
        says: `${person.name} fetched ${version.number} ${version.label} as one file of ${counted(files, 'file')}`,
        detail: { lens },
      },
    ]);
    return {
      name: joinedName(version),
      media: 'model/step',
      base64: Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength).toString('base64'),
    };
  }

  /**
   * A version with all below it that somebody may fetch; of one that lives in another's file, only that.
   *
   * @returns with how many files it was put together from
   * @throws ProblemError INPUT_INVALID where it is no model, is too large, or its files cannot be joined
   */
  async joined(
    version: DescribedVersion,
    lens: LensText,
    person: Person,
  ): Promise<{ readonly bytes: Uint8Array; readonly files: number }> {
    const rights = await this.rights.of(person);
    const tree = await this.trees.collect(version, {
      lens: await this.catalogue.lens(lens, rights),
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
      const { bytes } = rewriteFile(await this.blobs.read(sha256), storedFileName, renaming);
      size += bytes.length;
      if (size > MOST_BYTES)
        throw new ProblemError(
          'INPUT_INVALID',
          `${version.number} is more than ${MOST_BYTES / 1024 ** 2} MB in one file. Join a part of it, or fetch it as files.`,
        );
      files.set(path, bytes);
    }
    const root =
      version.carrierVersion === null
        ? tree.root.path
        : takenApart(files, tree.root.path, version.productRef);
    return { bytes: joined(files, root, version.number), files: files.size };
  }
}

export function joinedName({ number, label }: DescribedVersion): string {
  return `${number} ${label}.stp`.replace(/[/:\\]/g, '-');
}

/** Takes the file that several products live in apart, so that one of them can be put together by itself. @returns its path */
function takenApart(files: Map<string, Uint8Array>, path: string, product: number): string {
  const bytes = files.get(path);
  const parts = bytes ? splitStep(bytes, base(path), ({ ref }) => `product ${ref}.stp`) : [];
  const own = parts.find(({ ref }) => ref === product);
  if (!own) return path;
  const folder = folderOf(path);
  const within = (name: string): string => (folder === '' ? name : `${folder}/${name}`);
  for (const part of parts) files.set(within(part.fileName), part.bytes);
  return within(own.fileName);
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
