import { createHash } from 'node:crypto';
import { buffer } from 'node:stream/consumers';
import { MANIFEST_NAME, type FetchManifest, type FileAnswer } from '@stem-trace/contract';
import { fileNameFor, nameFold, RECORDED, uniqueFileName, type PlannedFile } from '@stem-trace/core';
import { rewriteFile, splitStep, StepError, type SplitPart } from '@stem-trace/formats';
import { ZipArchive } from 'archiver';
import type { RightsService } from '../access/rights.service.js';
import type { BlobStore } from '../blobs/blob-store.js';
import type { Person } from '../database/entities/person.js';
import { ProblemError } from '../problems/problem.js';
import type { CatalogueService, DescribedVersion } from '../store/catalogue.service.js';
import { formatOf } from '../store/facts.js';
import type { FetchTree, FetchTreeService } from './fetch-tree.js';

/** Takes a file that holds several items apart, as a working copy to be checked in: then each of them has a file of its own. */
export class SplitService {
  constructor(
    private readonly catalogue: CatalogueService,
    private readonly trees: FetchTreeService,
    private readonly blobs: BlobStore,
    private readonly rights: RightsService,
  ) {}

  /**
   * @returns a ZIP with a file for each item that lives in the item's file, and the manifest by which a check-in knows them
   * @throws ProblemError ITEM_UNKNOWN, NOT_ALLOWED; INPUT_INVALID where the file holds one item only, or cannot be read
   */
  async split(item: string, person: Person): Promise<FileAnswer> {
    const asked = await this.catalogue.resolve(item, person, 'change');
    const newest = await this.catalogue.newest(asked.itemId);
    // The parts are the geometry of everything in the file.
    await this.catalogue.requireFile(newest, person);
    const rights = await this.rights.of(person);
    const tree = await this.trees.collect(newest, {
      lens: RECORDED,
      drawings: false,
      mayFetch: (placeId) => rights.may('fetch', placeId),
      maySee: (placeId) => rights.may('see', placeId),
    });
    const contents = tree.contents.get(tree.root.versionId) ?? [];
    const carrier = contents.find(({ id }) => id === tree.root.versionId);
    if (!carrier || contents.length < 2 || formatOf(carrier.facts) !== 'step')
      throw new ProblemError(
        'INPUT_INVALID',
        `The file of ${asked.number} holds nothing else, so that there is nothing to take apart.`,
      );
    const parts = await this.partsOf(tree.root, contents);
    const archive = new ZipArchive({ zlib: { level: 1 } });
    for (const { fileName, bytes } of parts)
      archive.append(Buffer.from(bytes), { name: inFolder(tree.root.path, fileName) });
    const manifest = manifestOf({ tree, carrier, contents, parts });
    archive.append(`${JSON.stringify(manifest, null, 2)}\n`, { name: MANIFEST_NAME });
    void archive.finalize();
    return {
      name: `${carrier.number} taken apart.zip`.replace(/[/:\\]/g, '-'),
      media: 'application/zip',
      base64: (await buffer(archive)).toString('base64'),
    };
  }

  private async partsOf(root: PlannedFile, contents: readonly DescribedVersion[]): Promise<SplitPart[]> {
    const name = root.path.slice(root.path.lastIndexOf('/') + 1);
    // What comes back says what the store says, as whatever is fetched.
    const { bytes } = rewriteFile(await this.blobs.read(root.sha256), root.storedFileName, root.renaming);
    const byRef = new Map(contents.map((version) => [version.productRef, version]));
    const taken = new Set([nameFold(name)]);
    try {
      return splitStep(bytes, name, ({ ref, id }) => {
        const fileName = uniqueFileName(fileNameFor(byRef.get(ref)?.number ?? id, '.stp'), taken);
        taken.add(nameFold(fileName));
        return fileName;
      });
    } catch (error) {
      if (!(error instanceof StepError)) throw error;
      throw new ProblemError('INPUT_INVALID', `${name} cannot be taken apart: ${error.message}.`);
    }
  }
}

function inFolder(path: string, fileName: string): string {
  const cut = path.lastIndexOf('/');
  return cut < 0 ? fileName : `${path.slice(0, cut)}/${fileName}`;
}

function manifestOf({
  tree,
  carrier,
  contents,
  parts,
}: {
  readonly tree: FetchTree;
  readonly carrier: DescribedVersion;
  readonly contents: readonly DescribedVersion[];
  readonly parts: readonly SplitPart[];
}): FetchManifest {
  const byRef = new Map(contents.map((version) => [version.productRef, version]));
  const { root } = tree;
  // As it lay in the store: what lies there now is another file, so that a check-in sees that it changed.
  const stored = createHash('sha256').update(root.sha256).digest('hex');
  const inside = parts.flatMap(({ ref, fileName }) => {
    const version = byRef.get(ref);
    return version ? [{ says: fileName, number: version.number, version: version.label }] : [];
  });
  const outside = (tree.references.get(root.versionId) ?? []).map(({ ref, locator, number, version }) => ({
    says: root.says.get(ref) ?? locator,
    ...{ number, version },
  }));
  return {
    format: 'stem-trace working copy',
    formatVersion: 2,
    item: carrier.number,
    version: carrier.label,
    lens: 'recorded',
    root: root.path,
    rewritten: 0,
    files: parts.flatMap(({ ref, fileName }) => {
      const version = byRef.get(ref);
      if (!version) return [];
      return [
        {
          path: inFolder(root.path, fileName),
          ...{ sha256: stored, stored: root.sha256 },
          items: [{ number: version.number, version: version.label }],
          references: [...inside, ...outside],
        },
      ];
    }),
    left: [],
  };
}
