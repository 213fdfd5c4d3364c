import { readFile } from 'node:fs/promises';
import type { LensText, NearAnswer, NearRow } from '@stem-trace/contract';
import { near, type PlacedBody, type SolidBody } from '@stem-trace/core/look';
import { LRUCache } from 'lru-cache';
import type { BlobStore } from '../blobs/blob-store.js';
import type { Person } from '../database/entities/person.js';
import { ProblemError } from '../problems/problem.js';
import { geometryOf, keyOf, meshPath } from './geometry-source.js';
import { readBody } from './read-body.js';
import type { SceneService } from './scene.service.js';

export interface NearRequest {
  readonly item: string;
  readonly lens: LensText;
  /** Places of the selected uses in the scene's `nodes`, with commas between. */
  readonly of: string;
  /** How many nodes the scene had when they were selected. */
  readonly nodes: number;
  readonly within: number;
}

/** Triangles that are kept ready in memory, about 60 bytes each with their hierarchy. */
const MOST_TRIANGLES = 6_000_000;

interface Placed extends PlacedBody {
  readonly node: number;
}

/** What lies near to what, from the meshes that there are. */
export class NearService {
  private readonly bodies = new LRUCache<string, SolidBody>({
    maxSize: MOST_TRIANGLES,
    sizeCalculation: ({ indices }) => Math.max(1, indices.length / 3),
  });

  constructor(
    private readonly scenes: SceneService,
    private readonly blobs: BlobStore,
  ) {}

  /**
   * Everything within a distance of the selected uses and of what lies in them, but for these themselves.
   *
   * @throws ProblemError INPUT_INVALID where the scene has another number of uses than the one that was selected in
   */
  async near({ item, lens, of, nodes: count, within }: NearRequest, person: Person): Promise<NearAnswer> {
    const { files, nodes } = await this.scenes.placed({ item, lens }, person);
    const selected = new Set(of.split(',').map(Number));
    if (nodes.length !== count || [...selected].some((at) => at >= count))
      throw new ProblemError(
        'INPUT_INVALID',
        `${item} is made of other things by now than when this was selected. Look at it again, then ask again.`,
      );
    // What lies in something selected belongs to it: a node comes after what it lies in.
    nodes.forEach(({ parent }, at) => (selected.has(parent) ? selected.add(at) : undefined));
    const unknown: string[] = [];
    const placed: Placed[] = [];
    let triangles = 0;
    for (const { version, at, nodes: uses } of files) {
      const body = await this.bodyOf(keyOf(geometryOf(version)));
      triangles += (body?.indices.length ?? 0) / 3;
      if (triangles > 2 * MOST_TRIANGLES)
        throw new ProblemError(
          'TOO_COSTLY',
          `${item} has more than ${2 * MOST_TRIANGLES} triangles, which is more than can be gone through at once. Ask about one of its assemblies.`,
        );
      if (!body) unknown.push(version.number);
      else at.forEach((place, index) => placed.push({ body, at: place, node: uses[index] ?? -1 }));
    }
    const mine = placed.filter(({ node }) => selected.has(node));
    const others = placed.filter(({ node }) => !selected.has(node));
    const rows = near(mine, others, within).map((found): NearRow => {
      const node = others[found.other]?.node ?? -1;
      const { number = '', name = '' } = nodes[node] ?? {};
      const { kind, distanceMm, depthMm, toleranceMm, between } = found;
      return {
        node,
        of: mine[found.of]?.node ?? -1,
        number,
        name,
        kind,
        distanceMm,
        depthMm,
        toleranceMm,
        between,
      };
    });
    return { rows, unknown };
  }

  private async bodyOf(key: string): Promise<SolidBody | undefined> {
    const known = this.bodies.get(key);
    if (known) return known;
    const glb = await readFile(meshPath(this.blobs.folder, key)).catch(() => undefined);
    const body = glb && (await readBody(glb));
    if (body) this.bodies.set(key, body);
    return body;
  }
}
