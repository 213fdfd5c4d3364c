import { refuseHiddenRows } from '../store/named-in-file.js';
import { holderFor } from '../store/names.js';
import { once } from 'node:events';
import type { Readable } from 'node:stream';
import { Injectable, Logger } from '@nestjs/common';
import {
  ISSUED_FOLDER,
  MANIFEST_NAME,
  type FetchManifest,
  type FetchPlanAnswer,
  type LensText,
} from '@stem-trace/contract';
import { isUntouched, nameFold, portableName, uniqueFileName, type PlannedFile } from '@stem-trace/core';
import { ZipArchive } from 'archiver';
import { DataSource } from 'typeorm';
import { RightsService } from '../access/rights.service.js';
import { BlobStore } from '../blobs/blob-store.js';
import type { Person } from '../database/entities/person.js';
import { CatalogueService, type DescribedVersion } from '../store/catalogue.service.js';
import { IssuedService, type IssuedBlob } from '../issued/issued.service.js';
import { HandOutPool, type HandedOut } from '../jobs/hand-out-pool.js';
import { counted, recordQuietly } from '../trail/record.js';
import { FetchTreeService, type FetchTree } from './fetch-tree.js';

export interface FetchRequest {
  readonly item: string;
  readonly lens: LensText;
  /** Whether drawings of everything in the tree come along. */
  readonly drawings: boolean;
  /** Whether the issued files of all that is fetched come along, in a folder of their own. */
  readonly issued?: boolean;
}

/** Hands out an item with everything below it as files that refer to one another. */
@Injectable()
export class FetchService {
  private readonly logger = new Logger('fetch');

  constructor(
    private readonly database: DataSource,
    private readonly catalogue: CatalogueService,
    private readonly trees: FetchTreeService,
    private readonly blobs: BlobStore,
    private readonly rights: RightsService,
    private readonly handOuts: HandOutPool,
    private readonly issued: IssuedService,
  ) {}

  /** A ZIP, written while it is read: one file at a time in memory, the manifest last. */
  async zip(
    { item, lens, drawings, issued: isIssued = false }: FetchRequest,
    person: Person,
  ): Promise<{ name: string; content: Readable }> {
    const { version, tree } = await this.collect({ item, lens, drawings }, person);
    await recordQuietly(this.database.manager, [
      {
        personId: person.id,
        kind: 'fetch',
        itemId: version.itemId,
        says: `${person.name} fetched ${version.number} ${version.label}, ${counted(tree.plan.files.length, 'file')}`,
        detail: { lens },
      },
    ]);
    const versions = [...tree.contents.values()].flat().map(({ id }) => id);
    const issued = isIssued ? await this.issued.madeOf(versions, person) : [];
    const archive = new ZipArchive({ zlib: { level: 6 } });
    const describe = { item: version.number, version: version.label, lens, drawings };
    void this.fill(archive, tree, describe, issued).catch((error: unknown) => {
      this.logger.error(error instanceof Error ? error.stack : error);
      archive.destroy(error instanceof Error ? error : new Error(String(error)));
    });
    return { name: `${version.number} ${version.label}.zip`, content: archive };
  }

  /** What `zip` would hand out; nothing leaves the store, so that it is in no trail. */
  async plan(request: FetchRequest, person: Person): Promise<FetchPlanAnswer> {
    const { version, tree } = await this.collect(request, person);
    const rights = await this.rights.of(person);
    const { maySee } = await this.sightOf(person);
    return {
      item: version.number,
      version: version.label,
      lens: request.lens,
      files: tree.plan.files.map(({ path, versionId }) => ({
        path,
        items: ownFirst(tree.contents.get(versionId) ?? [], versionId)
          // What lives in a file that is handed out is in the reader's hands; who holds it is told to those who see it.
          .map(({ number, label, heldBy, placeId }) => ({
            number,
            version: label,
            heldBy: maySee(placeId) ? holderFor(rights, heldBy) : null,
          })),
      })),
    };
  }

  private async collect(
    { item, lens, drawings }: FetchRequest,
    person: Person,
  ): Promise<{ version: DescribedVersion; tree: FetchTree }> {
    // What is asked for is handed out in any case; the lens decides which version of it where it can.
    const version = await this.catalogue.resolveUnder(item, lens, {
      person,
      right: 'fetch',
    });
    await this.catalogue.requireFile(version, person);
    const rights = await this.rights.of(person);
    await refuseHiddenRows(this.database.manager, version, this.blobs, rights);
    const tree = await this.trees.collect(version, {
      lens: await this.catalogue.lens(lens, await this.rights.of(person)),
      drawings,
      ...(await this.sightOf(person)),
    });
    return { version, tree };
  }

  private async sightOf(
    person: Person,
  ): Promise<{ mayFetch: (placeId: string) => boolean; maySee: (placeId: string) => boolean }> {
    const rights = await this.rights.of(person);
    return {
      mayFetch: (placeId) => rights.may('fetch', placeId),
      maySee: (placeId) => rights.may('see', placeId),
    };
  }

  /** The bytes that a planned file has when it is handed out. */
  private async bytesOf({ sha256, storedFileName, renaming }: PlannedFile): Promise<HandedOut> {
    if (isUntouched(renaming)) return { bytes: await this.blobs.read(sha256), sha256, isChanged: false };
    return this.handOuts.handOut({ file: this.blobs.pathOf(sha256), storedFileName, renaming });
  }

  private async fill(
    archive: ZipArchive,
    tree: FetchTree,
    about: { item: string; version: string; lens: LensText; drawings: boolean },
    issued: readonly IssuedBlob[],
  ): Promise<void> {
    const files: FetchManifest['files'][number][] = [];
    let rewritten = 0;
    for (const file of tree.plan.files) {
      const { bytes, sha256, isChanged } = await this.bytesOf(file);
      if (isChanged) rewritten++;
      await append(archive, bytes, file.path);
      files.push({
        path: file.path,
        sha256,
        stored: file.sha256,
        items: ownFirst(tree.contents.get(file.versionId) ?? [], file.versionId).map(({ number, label }) => ({
          number,
          version: label,
        })),
        references: (tree.references.get(file.versionId) ?? []).map(({ ref, locator, number, version }) => ({
          says: file.says.get(ref) ?? locator,
          number,
          version,
        })),
      });
    }
    const others = issuedPaths(issued, tree);
    for (const { path, sha256 } of others) await append(archive, await this.blobs.read(sha256), path);
    const manifest: FetchManifest = {
      format: 'stem-trace working copy',
      formatVersion: 2,
      ...about,
      root: tree.root.path,
      rewritten,
      files,
      ...(others.length === 0 ? {} : { issued: others }),
      left: tree.plan.left,
    };
    await append(archive, Buffer.from(`${JSON.stringify(manifest, null, 2)}\n`), MANIFEST_NAME);
    await archive.finalize();
  }
}

/** Where issued files go, each beside whatever has its place already. */
function issuedPaths(
  issued: readonly IssuedBlob[],
  { plan }: FetchTree,
): { readonly path: string; readonly sha256: string }[] {
  const taken = new Set(plan.files.map(({ path }) => nameFold(path)));
  return issued.map(({ name, sha256 }) => {
    const path = uniqueFileName(`${ISSUED_FOLDER}/${portableName(name)}`, taken);
    taken.add(nameFold(path));
    return { path, sha256 };
  });
}

/** What a file is about before what else lives in it. */
function ownFirst(versions: readonly DescribedVersion[], own: string): DescribedVersion[] {
  return [...versions].sort((a, b) => Number(b.id === own) - Number(a.id === own));
}

/** Adds one entry and waits until it is written, so that the next is only made when there is room for it. */
async function append(archive: ZipArchive, bytes: Uint8Array, name: string): Promise<void> {
  const written = once(archive, 'entry');
  // A fixed date: the same tree gives the same archive.
  archive.append(Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength), {
    name,
    date: new Date(Date.UTC(2000, 0, 1)),
  });
  await written;
}
