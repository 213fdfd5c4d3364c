import { readFile } from 'node:fs/promises';
import type { LensText, NearAnswer, NearRow, OverlapsAnswer, OverlapsQuestion } from '@stem-trace/contract';
import { near, overlapsOf, type Near, type PlacedBody, type SolidBody } from '@stem-trace/core/look';
import { LRUCache } from 'lru-cache';
import type { DataSource } from 'typeorm';
import type { BlobStore } from '../blobs/blob-store.js';
import type { Person } from '../database/entities/person.js';
import { readRows, text } from '../database/read-rows.js';
import { ProblemError } from '../problems/problem.js';
import type { JobProgress } from '../queue/job-progress.js';
import { geometryOf, keyOf, meshPath } from './geometry-source.js';
import { readBody } from './read-body.js';
import type { PlacedScene, SceneService } from './scene.service.js';

export interface NearRequest {
  readonly item: string;
  readonly lens: LensText;
  /** Places of the selected uses in the scene's `nodes`, with commas between. */
  readonly of: string;
  /** The same, of the only others that are looked at; absent where that is all of them. */
  readonly to?: string;
  /** How many nodes the scene had when they were selected. */
  readonly nodes: number;
  readonly within: number;
}

/** More than anybody goes through. */
const MOST_OVERLAPS = 2000;

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
    private readonly database: DataSource,
  ) {}

  /**
   * Everything within a distance of the selected uses and of what lies in them, but for these themselves.
   *
   * @throws ProblemError INPUT_INVALID where the scene has another number of uses than the one that was selected in
   */
  async near({ item, lens, of, to, nodes: count, within }: NearRequest, person: Person): Promise<NearAnswer> {
    const scene = await this.scenes.placed({ item, lens }, person);
    refuseOther(item, scene, count);
    const selected = chosenIn(scene, of);
    const { placed, unknown } = await this.gather(item, scene);
    const mine = placed.filter(({ node }) => selected.has(node));
    const wanted = to === undefined ? undefined : chosenIn(scene, to);
    const others = placed.filter(({ node }) => !selected.has(node) && (wanted?.has(node) ?? true));
    return {
      rows: near(mine, others, within).map((found) => rowOf(found, { mine, others, scene })),
      unknown,
    };
  }

  /**
   * All pairs that touch or overlap, of all, of some uses with the others, or of some with some others.
   *
   * @param progress told pair by pair; what it throws ends the search
   * @throws ProblemError INPUT_INVALID as `near`; JOB_CANCELLED
   */
  async overlaps(
    { item, lens, of, to, nodes: count, without }: OverlapsQuestion,
    person: Person,
    progress: JobProgress,
  ): Promise<OverlapsAnswer> {
    const scene = await this.scenes.placed({ item, lens }, person);
    refuseOther(item, scene, count);
    const [mine, theirs] = [of, to].map((uses) => (uses === undefined ? undefined : chosenIn(scene, uses)));
    const { placed: all, unknown } = await this.gather(item, scene);
    const isLeftOut = await this.inClasses(scene, without);
    const placed = all.filter(({ node }) => !isLeftOut(node));
    const isAsked = (one: number, other: number): boolean => {
      const [a = -1, b = -1] = [placed[one]?.node, placed[other]?.node];
      if (!mine) return true;
      const isMine = (node: number): boolean => mine.has(node);
      const isTheirs = (node: number): boolean => !mine.has(node) && (theirs?.has(node) ?? true);
      return (isMine(a) && isTheirs(b)) || (isMine(b) && isTheirs(a));
    };
    const found = await overlapsOf(placed, {
      isAsked,
      onProgress: (done, total) => progress.goOn(done, total),
    });
    return {
      rows: found.slice(0, MOST_OVERLAPS).map((each) => rowOf(each, { mine: placed, others: placed, scene })),
      more: Math.max(0, found.length - MOST_OVERLAPS),
      unknown,
    };
  }

  /** Whether a use is of an item of one of some classes. */
  private async inClasses({ versions }: PlacedScene, without: string): Promise<(node: number) => boolean> {
    const names = without.split(',').flatMap((name) => name.trim().toLowerCase() || []);
    if (names.length === 0) return () => false;
    const rows = await readRows(
      this.database,
      { id: text },
      'SELECT i.id FROM item i JOIN class c ON c.id = i.class_id WHERE lower(c.name) = ANY($1::text[]) AND i.id = ANY($2::bigint[])',
      [names, [...new Set(versions.flatMap((version) => version?.itemId ?? []))]],
    );
    const items = new Set(rows.map(({ id }) => id));
    return (node) => items.has(versions[node]?.itemId ?? '');
  }

  /** Where all geometry of a scene stands. @throws ProblemError TOO_COSTLY */
  private async gather(
    item: string,
    { files }: PlacedScene,
  ): Promise<{ readonly placed: readonly Placed[]; readonly unknown: readonly string[] }> {
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
    return { placed, unknown };
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

function refuseOther(item: string, { nodes }: PlacedScene, count: number): void {
  if (nodes.length !== count)
    throw new ProblemError(
      'INPUT_INVALID',
      `${item} is made of other things by now than when this was selected. Look at it again, then ask again.`,
    );
}

/** Uses that were named, with all that lies in them: a node comes after what it lies in. @throws ProblemError INPUT_INVALID */
function chosenIn({ nodes }: PlacedScene, named: string): ReadonlySet<number> {
  const chosen = new Set(named.split(',').map(Number));
  const other = [...chosen].find((at) => at >= nodes.length);
  if (other !== undefined)
    throw new ProblemError('INPUT_INVALID', `There is no use ${other}: the scene has ${nodes.length}.`);
  nodes.forEach(({ parent }, at) => (chosen.has(parent) ? chosen.add(at) : undefined));
  return chosen;
}

interface RowSources {
  readonly mine: readonly Placed[];
  readonly others: readonly Placed[];
  readonly scene: PlacedScene;
}

function rowOf(
  { of, other, kind, distanceMm, depthMm, toleranceMm, between }: Near,
  { mine, others, scene }: RowSources,
): NearRow {
  const node = others[other]?.node ?? -1;
  const { number = '', name = '' } = scene.nodes[node] ?? {};
  return {
    ...{ node, of: mine[of]?.node ?? -1, number, name },
    ...{ kind, distanceMm, depthMm, toleranceMm, between },
  };
}
