import { randomUUID } from 'node:crypto';
import { mkdir, readFile, rename, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { Injectable } from '@nestjs/common';
import type { MeshForm } from '@stem-trace/contract';
import { BlobStore } from '../blobs/blob-store.js';
import type { Person } from '../database/entities/person.js';
import { CatalogueService } from '../store/catalogue.service.js';
import { plainGlb } from '../jobs/packed-glb.js';
import { TessellatePool } from '../jobs/tessellate-pool.js';
import { ProblemError } from '../problems/problem.js';
import type { GeometrySource } from '../queue/job.js';
import { JobQueue } from '../queue/job-queue.js';
import { geometryOf, keyOf, meshPath } from './geometry-source.js';

export interface MeshWanted {
  /** For messages. */
  readonly about: string;
  readonly person: Person;
  readonly form: MeshForm;
  /** Of whoever waits for it. */
  readonly asker?: AbortSignal;
}

/** Meshes of parts, made as jobs when first asked for and kept packed beside the blobs; they can be made again. */
@Injectable()
export class MeshesService {
  constructor(
    private readonly blobs: BlobStore,
    private readonly catalogue: CatalogueService,
    private readonly pool: TessellatePool,
    private readonly queue: JobQueue,
  ) {
    queue.handle('mesh', { atOnce: 1, work: ({ input }) => this.make(input) });
  }

  /**
   * @throws ProblemError NO_GEOMETRY where the item's file has none of its own
   */
  async meshOf(reference: string, wanted: Omit<MeshWanted, 'about'>): Promise<Uint8Array> {
    const version = await this.catalogue.resolve(reference, wanted.person);
    return this.meshFrom(geometryOf(version), { ...wanted, about: version.number });
  }

  /**
   * Those that are kept already, packed, in the order in which they are asked for; undefined where one has to be made first.
   *
   * @throws ProblemError INPUT_INVALID where two name the same
   */
  async keptOf(references: readonly string[], person: Person): Promise<(Uint8Array | undefined)[]> {
    const versions = await this.catalogue.resolveAll(references, person);
    if (versions.length !== references.length)
      throw new ProblemError('INPUT_INVALID', 'Two of these name the same version. Name each once.');
    return Promise.all(versions.map((version) => this.read(geometryOf(version))));
  }

  /**
   * Of geometry that need not be of an item yet. Whether somebody may see it is for who asks to know.
   *
   * @throws ProblemError NO_GEOMETRY
   */
  async meshFrom(source: GeometrySource, wanted: MeshWanted): Promise<Uint8Array> {
    const packed = await this.packed(source, wanted);
    return wanted.form === 'packed' ? packed : plainGlb(packed);
  }

  private async packed(source: GeometrySource, { about, person, asker }: MeshWanted): Promise<Uint8Array> {
    const known = await this.read(source);
    if (known) return known;
    const id = this.queue.idOf('mesh', keyOf(source));
    await this.queue.send('mesh', id, { input: source, about, personId: person.id });
    await this.queue.outcome('mesh', id, asker);
    const made = await this.read(source);
    if (made) return made;
    throw new ProblemError('NO_GEOMETRY', `The file of ${about} has no geometry of its own.`);
  }

  /** Leaves none where the file has no geometry. */
  private async make(source: GeometrySource): Promise<void> {
    if (await this.read(source)) return;
    const result = await this.pool.tessellate({
      file: this.blobs.pathOf(source.sha256),
      ...(source.names.length > 0 ? { names: source.names } : {}),
    });
    if (result.kind === 'nothing') return;
    const path = this.pathOf(keyOf(source));
    await mkdir(join(path, '..'), { recursive: true });
    const temporary = `${path}.${randomUUID()}`;
    await writeFile(temporary, result.glb);
    await rename(temporary, path);
  }

  private read(source: GeometrySource): Promise<Uint8Array | undefined> {
    return readFile(this.pathOf(keyOf(source))).catch(() => undefined);
  }

  private pathOf(key: string): string {
    return meshPath(this.blobs.folder, key);
  }
}
