/** A running server with an empty store of its own, and a client that speaks to it over HTTP. */
import { randomUUID } from 'node:crypto';
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type {
  DeriveRequest,
  DeriveResult,
  FetchManifest,
  IntakeResult,
  IntakeView,
  Problem,
  Role,
  StepPreview,
  StepRequest,
  StructureAnswer,
} from '@stem-trace/contract';
import type { Proof } from '@stem-trace/core';
import { unzipSync } from 'fflate';
import { DataSource } from 'typeorm';
import { inject } from 'vitest';
import { ensureDatabase } from '../../../../scripts/lib/cluster.mjs';
import { AccessService } from '../access/access.service.js';
import { connect, dataSourceOptions } from '../database/data-source.js';
import { ReaderPool } from '../jobs/reader-pool.js';
import { TessellatePool } from '../jobs/tessellate-pool.js';
import { checkAnswer } from './answers.js';
import { TEMPLATE } from './cluster.setup.js';
import { startServer, type RunningServer, type ServerOptions } from '../server.js';

export interface TestStoreOptions extends Partial<
  Pick<ServerOptions, 'settings' | 'pools' | 'demoFolder' | 'worksInBackground'>
> {
  /** Whether work is done on threads, as it is outside of tests. */
  readonly inThreads?: boolean;
}

/** Processes take a while to start; all servers of a test file share them. They end with the test's own process. */
const POOLS = { readers: new ReaderPool(), tessellators: new TessellatePool() };

export type Files = ReadonlyMap<string, Uint8Array>;

/** What the server refused, with its problem. */
export class Refused extends Error {
  constructor(
    readonly status: number,
    readonly problem: Problem,
  ) {
    super(problem.detail);
  }
}

export class TestStore {
  private asOwner: Promise<DataSource> | undefined;

  private constructor(
    readonly server: RunningServer,
    readonly databaseUrl: string,
    readonly blobFolder: string,
    readonly token: string,
  ) {}

  /** An empty store, or the one that is given. */
  static async open(
    given?: { readonly databaseUrl: string; readonly blobFolder: string },
    { inThreads = false, ...options }: TestStoreOptions = {},
  ): Promise<TestStore> {
    const blobFolder = given?.blobFolder ?? (await mkdtemp(join(tmpdir(), 'stem-trace-blobs-')));
    const databaseUrl =
      given?.databaseUrl ??
      inject('databaseUrl').replace(/\/[^/]*$/, `/test_${randomUUID().replaceAll('-', '')}`);
    await ensureDatabase(databaseUrl, given ? {} : { template: TEMPLATE });
    const server = await startServer({
      databaseUrl,
      blobFolder,
      port: 0,
      logLevels: ['error', 'fatal'],
      pools: POOLS,
      worksInline: !inThreads,
      ...options,
    });
    return new TestStore(server, databaseUrl, blobFolder, await tokenFor(server, 'ada', 'engineer'));
  }

  get database(): DataSource {
    return this.server.app.get(DataSource);
  }

  /** The database as its owner, past what the server may do: for tests that break a store or take it back in time. */
  async owner(): Promise<DataSource> {
    this.asOwner ??= connect(dataSourceOptions(this.databaseUrl, { poolSize: 2, isOwner: true }));
    return this.asOwner;
  }

  tokenFor(login: string, role: Role): Promise<string> {
    return tokenFor(this.server, login, role);
  }

  /** Headers of a browser that somebody whom `tokenFor` made has signed in with. */
  async sessionOf(login: string): Promise<Readonly<Record<string, string>>> {
    const response = await this.call('POST', '/api/session', { login, password: `${login}-password` });
    return { Authorization: '', Cookie: response.headers.getSetCookie()[0]?.split(';')[0] ?? '' };
  }

  async close(): Promise<void> {
    await (await this.asOwner)?.destroy();
    await this.server.close();
    await rm(this.blobFolder, { recursive: true, force: true });
  }

  /** @throws Refused */
  async call(
    method: string,
    path: string,
    body?: unknown,
    headers: Readonly<Record<string, string>> = {},
  ): Promise<Response> {
    const bytes = body instanceof Uint8Array;
    const response = await fetch(this.server.address + path, {
      method,
      headers: {
        Authorization: `Bearer ${this.token}`,
        ...(body === undefined || bytes ? {} : { 'Content-Type': 'application/json' }),
        ...headers,
      },
      ...(body === undefined
        ? {}
        : { body: bytes ? (body as Uint8Array<ArrayBuffer>) : JSON.stringify(body) }),
    });
    await checkAnswer(method, path, response);
    if (!response.ok) throw new Refused(response.status, (await response.json()) as Problem);
    return response;
  }

  async json<T>(method: string, path: string, body?: unknown): Promise<T> {
    return (await (await this.call(method, path, body)).json()) as T;
  }

  /** Digests of what a step would sign, as its preview shows them. */
  async shownFor(
    request: object,
    headers: Readonly<Record<string, string>> = {},
  ): Promise<Readonly<Record<string, string>>> {
    const { password: _, zone: _zone, shown: _shown, ...asked } = request as Partial<StepRequest>;
    const response = await this.call('POST', '/api/steps/preview', asked, headers);
    const { items } = (await response.json()) as StepPreview;
    return Object.fromEntries(items.map(({ number, shown }) => [number, shown]));
  }

  async review(files: Files, options: { place?: string; prefix?: string } = {}): Promise<IntakeView> {
    const { id } = await this.json<IntakeView>('POST', '/api/intakes', {
      place: options.place ?? '/in',
      prefix: options.prefix ?? '',
    });
    for (const [path, bytes] of files)
      await this.call('PUT', `/api/intakes/${id}/files?path=${encodeURIComponent(path)}`, bytes);
    return this.json<IntakeView>('GET', `/api/intakes/${id}`);
  }

  async carryOut(id: string, comment = ''): Promise<IntakeView> {
    let view = await this.json<IntakeView>('POST', `/api/intakes/${id}/carry-out`, { comment });
    while (view.state === 'carrying out') {
      await new Promise((done) => setTimeout(done, 20));
      view = await this.json<IntakeView>('GET', `/api/intakes/${id}`);
    }
    return view;
  }

  async intake(
    files: Files,
    options: { place?: string; prefix?: string; comment?: string } = {},
  ): Promise<IntakeResult> {
    const review = await this.review(files, options);
    if (review.expected.versions === 0) return review.expected;
    const view = await this.carryOut(review.id, options.comment);
    if (!view.result) throw new Error(view.failure ?? `the intake is ${view.state}`);
    return view.result;
  }

  made(item: string, query = ''): Promise<StructureAnswer> {
    return this.json('GET', `/api/made?item=${encodeURIComponent(item)}&all=true${query}`);
  }

  used(item: string, query = ''): Promise<StructureAnswer> {
    return this.json('GET', `/api/used?item=${encodeURIComponent(item)}&all=true${query}`);
  }

  /** Derives and proves. */
  async derive(
    request: Partial<DeriveRequest> & { item: string },
  ): Promise<DeriveResult & { readonly proof: Proof }> {
    const result = await this.json<DeriveResult>('POST', '/api/derive', request);
    const variant = encodeURIComponent(result.variant);
    return { ...result, proof: await this.json<Proof>('GET', `/api/derive/proof?item=${variant}`) };
  }

  async fetch(item: string, query = ''): Promise<{ files: Files; manifest: FetchManifest }> {
    const response = await this.call('GET', `/api/fetch?item=${encodeURIComponent(item)}${query}`);
    const entries = new Map(Object.entries(unzipSync(new Uint8Array(await response.arrayBuffer()))));
    const manifest = JSON.parse(new TextDecoder().decode(entries.get('stem-trace.json'))) as FetchManifest;
    entries.delete('stem-trace.json');
    return { files: entries, manifest };
  }
}

async function tokenFor(server: RunningServer, login: string, role: Role): Promise<string> {
  const access = server.app.get(AccessService);
  const person = await access.ensurePerson({
    login,
    name: login,
    initials: login.slice(0, 2).toUpperCase(),
    role,
    password: `${login}-password`,
  });
  return access.issue({ personId: person.id, kind: 'program', name: 'test', expiresAt: null });
}

/** A structure as indented lines, for comparing: `  HEAD ×1 = 2`. */
export function treeText(
  answer: StructureAnswer,
  rename: (number: string) => string = (number) => number,
): string[] {
  return answer.rows.map(
    (row) => `${'  '.repeat(row.level - 1)}${rename(row.number)} ×${row.quantity} = ${row.total}`,
  );
}
