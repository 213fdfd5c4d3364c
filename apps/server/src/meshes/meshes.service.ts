import { randomUUID } from 'node:crypto';
import { mkdir, readFile, rename, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { Injectable } from '@nestjs/common';
import { BlobStore } from '../blobs/blob-store.js';
import type { Person } from '../database/entities/person.js';
import { CatalogueService, type DescribedVersion } from '../store/catalogue.service.js';
import { TessellatePool } from '../jobs/tessellate-pool.js';
import { ProblemError } from '../problems/problem.js';

/** Changes when meshes are made in another way, so that kept ones are made anew. */
const RECIPE = 'a';

/** Meshes of parts as binary glTF, made when first asked for and kept beside the blobs; they can be made again. */
@Injectable()
export class MeshesService {
  private readonly making = new Map<string, Promise<Uint8Array>>();

  constructor(
    private readonly blobs: BlobStore,
    private readonly catalogue: CatalogueService,
    private readonly pool: TessellatePool,
  ) {}

  /** @throws ProblemError NO_GEOMETRY where the item's file has none of its own */
  async meshOf(reference: string, person: Person): Promise<Uint8Array> {
    const version = await this.catalogue.resolve(reference, person);
    // One that lives in another's file is a part of that file's meshes.
    const key = version.carrierVersion === null ? version.sha256 : `${version.sha256}-${version.productRef}`;
    const known = await readFile(this.pathOf(key)).catch(() => undefined);
    if (known) return known;
    const made = this.making.get(key) ?? this.make(key, version);
    this.making.set(key, made);
    return made.finally(() => this.making.delete(key));
  }

  private async make(key: string, version: DescribedVersion): Promise<Uint8Array> {
    const result = await this.pool.tessellate({
      file: this.blobs.pathOf(version.sha256),
      ...(version.carrierVersion === null
        ? {}
        : { names: [version.nameInFile, version.idInFile].filter((name) => name !== '') }),
    });
    if (result.kind === 'nothing')
      throw new ProblemError('NO_GEOMETRY', `The file of ${version.number} has no geometry of its own.`);
    const path = this.pathOf(key);
    await mkdir(join(path, '..'), { recursive: true });
    const temporary = `${path}.${randomUUID()}`;
    await writeFile(temporary, result.glb);
    await rename(temporary, path);
    return result.glb;
  }

  private pathOf(key: string): string {
    return join(this.blobs.folder, 'meshes', `${key}-${RECIPE}.glb`);
  }
}
