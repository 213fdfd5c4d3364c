import { randomUUID } from 'node:crypto';
import { rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Injectable, Logger, type OnApplicationBootstrap, type OnModuleDestroy } from '@nestjs/common';
import type { LikeAnswer, LikeRow } from '@stem-trace/contract';
import { likenessOf, shapeVector, type Likeness, type ShapeDescriptor } from '@stem-trace/core';
import { DataSource } from 'typeorm';
import { RightsService } from '../access/rights.service.js';
import { BlobStore } from '../blobs/blob-store.js';
import type { Person } from '../database/entities/person.js';
import { countRows, json, listOf, number, orNull, readRows, text, word } from '../database/read-rows.js';
import { announce, Feed } from '../feed/feed.js';
import { CatalogueService } from '../store/catalogue.service.js';
import { Pauses } from '../jobs/pauses.js';
import { TessellatePool } from '../jobs/tessellate-pool.js';
import { ProblemError } from '../problems/problem.js';
import type { GeometrySource } from '../queue/job.js';
import { JobProgress, type JobRef } from '../queue/job-progress.js';
import { JobQueue } from '../queue/job-queue.js';
import { StandingJob } from '../queue/standing-job.js';
import { geometryOf, keyOf } from './geometry-source.js';

/** Looked at more closely, of those whose points lie nearest. */
const NEAREST = 300;
/** Below this, shapes have little in common. */
const LEAST_SCORE = 0.6;
const MOST = 100;
const REST_MS = 2000;
/** How long it must have been quiet, where very many shapes are missing, before the next is worked out. */
const GIVE_WAY = { quietMs: 1500, mostMs: 15_000 } as const;
/** Parts without a shape that are looked up at a time. */
const MANY = 1000;

/** Newest versions of parts whose shapes are not known yet. */
const UNKNOWN = `
  FROM item i JOIN version v ON v.id = i.newest_version_id
  LEFT JOIN shape s ON s.sha256 = v.sha256 AND s.product_ref = CASE WHEN v.carrier_version_id IS NULL THEN 0 ELSE v.product_ref END
  WHERE i.kind = 'part' AND coalesce(v.facts->>'format', 'step') = 'step' AND s.sha256 IS NULL`;
const UNKNOWN_SOURCES = `
  SELECT DISTINCT v.sha256, CASE WHEN v.carrier_version_id IS NULL THEN 0 ELSE v.product_ref END::float8 AS "productRef",
         CASE WHEN v.carrier_version_id IS NULL THEN ARRAY[]::text[] ELSE ARRAY[v.name_in_file, v.id_in_file] END AS names ${UNKNOWN}`;

const LIKENESS_JOB = '00000000-0000-4000-8000-000000000001';

/** What it stands on, in the order in which it takes them. */
export type ShapesNeeds =
  ConstructorParameters<typeof ShapesService> extends [boolean, ...infer Needs] ? Needs : never;

/** Shapes of parts, worked out in the background, and which are alike. */
@Injectable()
export class ShapesService implements OnApplicationBootstrap, OnModuleDestroy {
  private readonly logger = new Logger('shapes');
  private readonly likeness: StandingJob<'likeness'> | undefined;
  private isEnded = false;

  constructor(
    private readonly inBackground: boolean,
    private readonly database: DataSource,
    private readonly blobs: BlobStore,
    private readonly pool: TessellatePool,
    private readonly catalogue: CatalogueService,
    private readonly rights: RightsService,
    feed: Feed,
    private readonly pauses: Pauses,
    private readonly queue: JobQueue,
  ) {
    queue.handle('shape', { atOnce: 1, work: ({ input }) => this.workOut(input) });
    if (!inBackground) return;
    this.likeness = new StandingJob(
      {
        kind: 'likeness',
        id: LIKENESS_JOB,
        about: 'Shapes of parts',
        after: 'items',
        restMs: REST_MS,
        isWanted: async () => (await countRows(database, `SELECT ${UNKNOWN} LIMIT 1`)) > 0,
        work: (job) => this.catchUp(job),
      },
      queue,
      feed,
    );
  }

  onApplicationBootstrap(): void {
    this.likeness?.begin();
  }

  onModuleDestroy(): void {
    this.isEnded = true;
    this.likeness?.end();
  }

  /** Works out every shape that is missing, one after another. */
  async catchUp(job?: JobRef): Promise<void> {
    const progress = new JobProgress(this.database, job);
    for (let done = 0; ;) {
      const sources = await readRows<GeometrySource>(
        this.database,
        { sha256: text, productRef: number, names: listOf(text) },
        `${UNKNOWN_SOURCES} LIMIT ${MANY}`,
      );
      if (sources.length === 0) return;
      for (const source of sources) {
        // A few are done soon; where there are very many, people must not be held up by them.
        if (this.inBackground && sources.length === MANY) await this.pauses.wait(GIVE_WAY);
        await this.workOut(source);
        await progress.goOn(++done, done + sources.length);
      }
      await announce(this.database, 'shapes');
    }
  }

  private async workOut({ sha256, productRef, names }: GeometrySource): Promise<void> {
    let shape: ShapeDescriptor | undefined;
    let failure: string | null = null;
    try {
      shape = await this.shapeOf(this.blobs.pathOf(sha256), names);
    } catch (error) {
      if (this.isEnded) throw error;
      // One file that fails must not keep the others from being worked out, nor be tried for ever.
      failure = error instanceof Error ? error.message : String(error);
      this.logger.warn(`the shape of ${sha256.slice(0, 12)} could not be worked out: ${failure}`);
    }
    await this.database.query(
      `INSERT INTO shape (sha256, product_ref, descriptor, point, failure)
       VALUES ($1, $2, $3, cube($4::float8[]), $5) ON CONFLICT DO NOTHING`,
      [sha256, productRef, shape ? JSON.stringify(shape) : null, shape ? shapeVector(shape) : null, failure],
    );
  }

  private async shapeOf(file: string, names: readonly string[]): Promise<ShapeDescriptor | undefined> {
    const wanted = names.filter((name) => name !== '');
    const result = await this.pool.tessellate({ file, ...(wanted.length > 0 ? { names: wanted } : {}) });
    return result.kind === 'mesh' ? result.shape : undefined;
  }

  /** Parts shaped like one of the store, the most alike first, without that one. @throws ProblemError NO_GEOMETRY */
  async like(reference: string, person: Person, asker?: AbortSignal): Promise<LikeAnswer> {
    const version = await this.catalogue.resolve(reference, person);
    const source = geometryOf(version);
    const known = await this.known(source);
    if (!known) {
      const id = this.queue.idOf('shape', keyOf(source));
      await this.queue.send('shape', id, { input: source, about: version.number, personId: person.id });
      await this.queue.outcome('shape', id, asker);
    }
    const { descriptor: shape = null } = known ?? (await this.known(source)) ?? {};
    if (!shape)
      throw new ProblemError(
        'NO_GEOMETRY',
        `No shape to compare: the file of ${version.number} has no geometry of its own.`,
      );
    return { rows: await this.nearest(shape, person, version.itemId) };
  }

  private async known({
    sha256,
    productRef,
  }: GeometrySource): Promise<{ descriptor: ShapeDescriptor | null } | undefined> {
    const [row] = await readRows(
      this.database,
      { descriptor: orNull(json<ShapeDescriptor>()) },
      'SELECT descriptor FROM shape WHERE sha256 = $1 AND product_ref = $2',
      [sha256, productRef],
    );
    return row;
  }

  /** As `like`, of a file that is not kept. @throws ProblemError NO_GEOMETRY */
  async likeFile(bytes: Uint8Array, person: Person): Promise<LikeAnswer> {
    const file = join(tmpdir(), `stem-trace-${randomUUID()}.stp`);
    await writeFile(file, bytes, { mode: 0o600 });
    try {
      const shape = await this.shapeOf(file, []);
      if (!shape)
        throw new ProblemError(
          'NO_GEOMETRY',
          'No geometry was found in this file. Choose a STEP file of a part. Nothing was kept.',
        );
      return { rows: await this.nearest(shape, person) };
    } finally {
      await rm(file, { force: true });
    }
  }

  private async nearest(shape: ShapeDescriptor, person: Person, besides = '0'): Promise<LikeRow[]> {
    const hidden = (await this.rights.of(person)).placesWithout('see');
    const rows = await readRows<Omit<LikeRow, 'likeness'> & { descriptor: ShapeDescriptor }>(
      this.database,
      {
        number: text,
        name: text,
        state: word<(Omit<LikeRow, 'likeness'> & { descriptor: ShapeDescriptor })['state']>(),
        descriptor: json<(Omit<LikeRow, 'likeness'> & { descriptor: ShapeDescriptor })['descriptor']>(),
      },
      `WITH near AS MATERIALIZED (
           SELECT sha256, product_ref, descriptor, point <-> cube($1::float8[]) AS far FROM shape
           WHERE point IS NOT NULL ORDER BY point <-> cube($1::float8[]) LIMIT ${NEAREST})
         SELECT i.number, i.name, i.state, near.descriptor
         FROM near JOIN version v ON v.sha256 = near.sha256
           AND near.product_ref = CASE WHEN v.carrier_version_id IS NULL THEN 0 ELSE v.product_ref END
         JOIN item i ON i.newest_version_id = v.id
         WHERE i.kind = 'part' AND i.id <> $2 AND i.place_id <> ALL($3::bigint[])
         ORDER BY near.far, i.number_key LIMIT ${NEAREST}`,
      [shapeVector(shape), besides, hidden],
    );
    return rows
      .map(({ descriptor, number, name, state }): LikeRow => ({
        ...{ number, name, state },
        likeness: rounded(likenessOf(shape, descriptor)),
      }))
      .filter(({ likeness }) => likeness.score >= LEAST_SCORE)
      .sort((a, b) => b.likeness.score - a.likeness.score || (a.number < b.number ? -1 : 1))
      .slice(0, MOST);
  }
}

function rounded({ score, size, proportions, surface, distances }: Likeness): Likeness {
  const round = (value: number): number => Math.round(value * 1000) / 1000;
  return {
    score: round(score),
    size: round(size),
    proportions: round(proportions),
    surface: round(surface),
    distances: round(distances),
  };
}
