import { Readable } from 'node:stream';
import { Injectable } from '@nestjs/common';
import { MANIFEST_NAME, type FetchManifest } from '@stem-trace/contract';
import { manifestSchema, uploadPath } from '@stem-trace/contract/schemas';
import { DataSource } from 'typeorm';
import { openPromise, type Entry, type ZipFile } from 'yauzl';
import { BlobStore } from '../blobs/blob-store.js';
import { Intake } from '../database/entities/intake.js';
import { CatalogueService } from '../store/catalogue.service.js';
import { Person } from '../database/entities/person.js';
import { RightsService } from '../access/rights.service.js';
import { ProblemError } from '../problems/problem.js';
import type { JobProgress } from '../queue/job-progress.js';
import { FileReader, LIMITS } from './file-reader.js';

/** Most that an entry may unpack to for each byte that it takes in the archive; design text seldom passes 30. */
const MAX_RATIO = 500;
/** A link instead of a file (POSIX `S_IFLNK`), in the upper half of the external attributes of entries from such systems. */
const FILE_TYPE = 0o170000;
const LINK = 0o120000;
/** Entries that are read side by side. */
const PARALLEL = 3;

/** Takes archives apart: everything in one comes onto the sheet, or nothing does. */
@Injectable()
export class Unpacker {
  constructor(
    private readonly database: DataSource,
    private readonly blobs: BlobStore,
    private readonly reader: FileReader,
    private readonly catalogue: CatalogueService,
    private readonly rights: RightsService,
  ) {}

  /** @throws ProblemError ARCHIVE_REFUSED where it is broken or not what it seems; JOB_CANCELLED */
  async unpack(id: string, progress: JobProgress): Promise<void> {
    const intakes = this.database.getRepository(Intake);
    const intake = await intakes.findOneByOrFail({ id });
    if (intake.archiveSha256 === null || intake.state !== 'unpacking') return;
    const archive = await open(this.blobs.pathOf(intake.archiveSha256));
    try {
      const entries = await listEntries(archive);
      const own = entries.find(({ fileName }) => fileName === MANIFEST_NAME);
      const manifest = own ? await readManifest(archive, own) : undefined;
      const fetched = new Map(manifest?.files.map(({ path, sha256 }) => [path, sha256]));
      // A file that is only called like a manifest is a file like any other.
      const files = manifest ? entries.filter((entry) => entry !== own) : entries;
      await progress.goOn(0, files.length);
      const read: Awaited<ReturnType<FileReader['read']>>[] = [];
      let next = 0;
      let done = 0;
      const worker = async (): Promise<void> => {
        for (let entry = files[next++]; entry; entry = files[next++]) {
          const row = await this.readEntry(archive, entry);
          // What was not changed since it was fetched need not come back.
          if (fetched.get(row.path) !== row.sha256) read.push(row);
          await progress.goOn(++done, files.length);
        }
      };
      await Promise.all(Array.from({ length: PARALLEL }, worker));
      const place = manifest ? await this.placeOf(manifest, intake) : undefined;
      if (!manifest) await this.requirePlace(intake);
      await this.database.transaction(async (manager) => {
        const { affected } = await manager.getRepository(Intake).update(
          { id, state: 'unpacking' },
          {
            state: 'collecting',
            manifest: manifest ?? null,
            ...(place === undefined ? {} : { place }),
          },
        );
        // It may have been given up meanwhile.
        if (affected === 1) await this.reader.keep(manager, id, read);
      });
    } finally {
      archive.close();
    }
  }

  private async readEntry(archive: ZipFile, entry: Entry): ReturnType<FileReader['read']> {
    const content = await contentOf(archive, entry);
    try {
      return await this.reader.read(entry.fileName, content);
    } catch (error) {
      throw content.errored ? refused(`'${entry.fileName}' cannot be unpacked (${sayError(error)})`) : error;
    }
  }

  /** What is no working copy goes to the place that was said. @throws ProblemError NOT_ALLOWED */
  private async requirePlace({ createdBy, place }: Intake): Promise<void> {
    const person = await this.database.getRepository(Person).findOneByOrFail({ id: createdBy });
    (await this.rights.of(person)).require('change', place);
  }

  private async placeOf(manifest: FetchManifest, { createdBy, place }: Intake): Promise<string> {
    const person = await this.database.getRepository(Person).findOneByOrFail({ id: createdBy });
    return placeOfWorkingCopy(this.catalogue, { manifest, otherwise: place, person });
  }
}

/** A working copy lies as its places do, from the one that all have in common. */
export async function placeOfWorkingCopy(
  catalogue: CatalogueService,
  { manifest, otherwise, person }: { manifest: FetchManifest; otherwise: string; person: Person },
): Promise<string> {
  const root = await catalogue.resolve(manifest.item, person).catch(() => undefined);
  const folder = manifest.root.includes('/')
    ? `/${manifest.root.slice(0, manifest.root.lastIndexOf('/'))}`
    : '';
  if (!root?.place.endsWith(folder)) return otherwise;
  return root.place.slice(0, root.place.length - folder.length) || '/';
}

function refused(reason: string): ProblemError {
  return new ProblemError('ARCHIVE_REFUSED', `The archive was not taken: ${reason}. Nothing of it was kept.`);
}

async function open(path: string): Promise<ZipFile> {
  try {
    return await openPromise(path, { lazyEntries: true, autoClose: false, strictFileNames: false });
  } catch (error) {
    throw refused(`it cannot be opened as a ZIP (${sayError(error)})`);
  }
}

/** The files of an archive, after all that its directory says was found harmless. */
async function listEntries(archive: ZipFile): Promise<Entry[]> {
  const entries: Entry[] = [];
  const names = new Set<string>();
  let unpacked = 0;
  if (archive.entryCount > LIMITS.files) throw refused(`it holds more than ${LIMITS.files} files`);
  try {
    for await (const entry of archive.eachEntry()) {
      if (entry.fileName.endsWith('/')) continue;
      refuseEntry(entry);
      if (names.has(entry.fileName)) throw refused(`'${entry.fileName}' is in it twice`);
      names.add(entry.fileName);
      unpacked += entry.uncompressedSize;
      if (unpacked > LIMITS.bytes) throw refused(`it unpacks to more than ${LIMITS.bytes / 1e9} GB`);
      entries.push(entry);
    }
  } catch (error) {
    throw error instanceof ProblemError ? error : refused(sayError(error));
  }
  return entries;
}

function refuseEntry(entry: Entry): void {
  const { fileName, uncompressedSize, compressedSize } = entry;
  const name = fileName.slice(0, 120);
  if (uploadPath.validate(fileName).error) throw refused(`'${name}' is not a path inside a folder`);
  if (((entry.externalFileAttributes >>> 16) & FILE_TYPE) === LINK)
    throw refused(`'${name}' is a link, not a file`);
  if (entry.isEncrypted()) throw refused(`'${name}' is encrypted`);
  if (uncompressedSize > LIMITS.fileBytes)
    throw refused(`'${name}' is larger than ${LIMITS.fileBytes / 1e6} MB`);
  if (uncompressedSize > MAX_RATIO * Math.max(compressedSize, 1000))
    throw refused(`'${name}' unpacks to more than ${MAX_RATIO} times its size`);
}

/** Unpacks one entry; what its directory said of its size is checked while it flows. */
async function contentOf(archive: ZipFile, entry: Entry): Promise<Readable> {
  try {
    return await archive.openReadStreamPromise(entry);
  } catch (error) {
    throw refused(`'${entry.fileName}' cannot be unpacked (${sayError(error)})`);
  }
}

/** @returns undefined where the file is none of ours, though it is called like one */
async function readManifest(archive: ZipFile, entry: Entry): Promise<FetchManifest | undefined> {
  if (entry.uncompressedSize > LIMITS.manifestBytes) throw refused(`its ${MANIFEST_NAME} is too large`);
  const chunks: Buffer[] = [];
  for await (const chunk of await contentOf(archive, entry)) chunks.push(chunk as Buffer);
  const text = Buffer.concat(chunks).toString('utf8');
  if (!text.includes('stem-trace working copy')) return undefined;
  try {
    const { value, error } = manifestSchema.validate(JSON.parse(text));
    if (error) throw error;
    return value;
  } catch (error) {
    throw refused(`its ${MANIFEST_NAME} is not a working copy's (${sayError(error)})`);
  }
}

function sayError(error: unknown): string {
  return (error instanceof Error ? error.message : String(error)).slice(0, 200);
}
