/** A server and a database of their own, as processes that can be killed. */
import { spawn, type ChildProcess } from 'node:child_process';
import { chmodSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { readFile } from 'node:fs/promises';
import type { VerifyAnswer } from '@stem-trace/contract';
import { ensureDatabase, freePort, startCluster, type Cluster } from '../../../../scripts/lib/cluster.mjs';
import { ensurePostgres } from '../../../../scripts/lib/install.mjs';

const MAIN = join(import.meta.dirname, '../../dist/main.js');

export class RealServer {
  readonly folder = mkdtempSync(join(tmpdir(), 'stem-trace-faults-'));
  address = '';
  private server: ChildProcess | undefined;
  private cluster: Cluster | undefined;
  private bin = '';
  private port = 0;
  private token = '';
  /** Of the administrator, told at the first start. */
  private password = '';
  /** The server's last words. */
  private said = '';

  static async start(): Promise<RealServer> {
    const own = new RealServer();
    chmodSync(own.folder, 0o711);
    own.bin = await ensurePostgres();
    own.port = await freePort();
    await own.startDatabase();
    await ensureDatabase(own.databaseUrl);
    await own.startServer();
    return own;
  }

  get databaseUrl(): string {
    return this.cluster?.url ?? '';
  }

  async startDatabase(): Promise<void> {
    this.cluster = await startCluster({ bin: this.bin, folder: this.folder, port: this.port });
  }

  async startServer(): Promise<void> {
    const cliFile = join(this.folder, 'cli.json');
    const server = spawn(process.execPath, [MAIN], {
      stdio: ['ignore', 'pipe', 'pipe'],
      env: {
        ...process.env,
        NODE_OPTIONS: '',
        STEM_DATABASE_URL: this.databaseUrl,
        STEM_BLOBS: join(this.folder, 'blobs'),
        STEM_PORT: '0',
        STEM_CLI_FILE: cliFile,
      },
    });
    this.server = server;
    this.said = '';
    server.stderr.on('data', (chunk: Buffer) => (this.said = (this.said + chunk.toString()).slice(-4000)));
    this.address = await new Promise<string>((ready, fail) => {
      let out = '';
      server.stdout.on('data', (chunk: Buffer) => {
        out += chunk.toString();
        this.password = /with the password (\S+)/.exec(out)?.[1] ?? this.password;
        const found = /listening (\S+)/.exec(out)?.[1];
        if (found) ready(found);
      });
      server.once('exit', () => fail(new Error(`the server ended before it listened:\n${this.said}`)));
    });
    ({ token: this.token } = JSON.parse(await readFile(cliFile, 'utf8')) as { token: string });
  }

  killServer(): void {
    this.server?.kill('SIGKILL');
  }

  async restartServer(): Promise<void> {
    await this.ended();
    await this.startServer();
  }

  killDatabase(): void {
    if (this.cluster) process.kill(this.cluster.pid, 'SIGKILL');
  }

  async restartDatabase(): Promise<void> {
    await this.cluster?.ended;
    await this.startDatabase();
  }

  private async ended(): Promise<void> {
    const { server } = this;
    if (server && server.exitCode === null && server.signalCode === null)
      await new Promise((done) => server.once('exit', done));
  }

  async call<T>(method: string, path: string, body?: unknown): Promise<T> {
    return this.ask<T>(method, path, body, { Authorization: `Bearer ${this.token}` });
  }

  /** As the administrator in a browser, who signs with the password; see `signing`. */
  async callAsPerson<T>(method: string, path: string, body?: unknown): Promise<T> {
    const signedIn = await fetch(`${this.address}/api/session`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify({ login: 'admin', password: this.password }),
    });
    const Cookie = signedIn.headers.getSetCookie()[0]?.split(';')[0] ?? '';
    return this.ask<T>(method, path, body, { Cookie });
  }

  /** What is sent along with a step that is signed. */
  get signing(): { readonly password: string; readonly zone: string } {
    return { password: this.password, zone: 'Europe/Oslo' };
  }

  private async ask<T>(
    method: string,
    path: string,
    body: unknown,
    headers: Readonly<Record<string, string>>,
  ): Promise<T> {
    const bytes = body instanceof Uint8Array;
    const response = await fetch(this.address + path, {
      method,
      headers: { ...headers, ...(bytes ? {} : { 'Content-Type': 'application/json' }) },
      ...(body === undefined
        ? {}
        : { body: bytes ? (body as Uint8Array<ArrayBuffer>) : JSON.stringify(body) }),
    });
    if (!response.ok) throw new Error(`${response.status} ${await response.text()}`);
    return (response.status === 204 ? undefined : await response.json()) as T;
  }

  async textOf(item: string): Promise<string> {
    const file = await fetch(`${this.address}/api/file?item=${item}`, {
      headers: { Authorization: `Bearer ${this.token}` },
    });
    return file.text();
  }

  /** As the administrator: what the command line was left may not. */
  async verify(): Promise<VerifyAnswer> {
    return this.callAsPerson<VerifyAnswer>('GET', '/api/verify').catch((error: unknown) => {
      const end = this.server?.exitCode ?? this.server?.signalCode ?? '';
      throw new Error(`${String(error)}; the server's end: ${end}; its last words: ${this.said}`);
    });
  }

  async close(): Promise<void> {
    this.server?.kill('SIGTERM');
    await this.ended();
    await this.cluster?.stop();
    rmSync(this.folder, { recursive: true, force: true });
  }
}
