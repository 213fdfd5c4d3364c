import { open } from 'node:fs/promises';
import { LRUCache } from 'lru-cache';
import pLimit from 'p-limit';
import { keyOf, meshPath } from './geometry-source.js';
import { extrasIn, type MeshExtras } from '../jobs/packed-glb.js';
import type { GeometrySource } from '../queue/job.js';

/** Of very many parts; a mesh that was made stays what it is. */
const MOST_KNOWN = 50_000;
const FILES_AT_ONCE = 16;
/** A header and the length of the first chunk, which is JSON (glTF 2.0, 4.4.2 and 4.4.3). */
const HEADER_BYTES = 20;
const MOST_JSON_BYTES = 64 * 1024 * 1024;

/** How large the shapes are whose meshes are there, without reading these. */
export class MeshFacts {
  private readonly known = new LRUCache<string, MeshExtras>({ max: MOST_KNOWN });
  private readonly takeTurn = pLimit(FILES_AT_ONCE);

  constructor(private readonly blobFolder: string) {}

  /** Undefined where there is none yet. */
  async of(source: GeometrySource): Promise<MeshExtras | undefined> {
    const key = keyOf(source);
    const known = this.known.get(key);
    if (known) return known;
    const read = await this.takeTurn(() => readExtras(meshPath(this.blobFolder, key)));
    if (read) this.known.set(key, read);
    return read;
  }
}

async function readExtras(path: string): Promise<MeshExtras | undefined> {
  const file = await open(path).catch(() => undefined);
  if (!file) return undefined;
  try {
    const header = Buffer.alloc(HEADER_BYTES);
    await file.read(header, 0, HEADER_BYTES, 0);
    const length = Math.min(header.readUInt32LE(12), MOST_JSON_BYTES);
    const json = Buffer.alloc(length);
    await file.read(json, 0, length, HEADER_BYTES);
    return extrasIn(json.toString('utf8'));
  } finally {
    await file.close();
  }
}
