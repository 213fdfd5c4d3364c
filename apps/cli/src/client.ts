import { readFile } from 'node:fs/promises';
import { dirname, join, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';
import type { Problem } from '@stem-trace/contract';

/** A sentence for standard error; the program ends with 1. */
export class CliError extends Error {}

export interface Client {
  get<T>(path: string, query?: Query): Promise<T>;
  send<T>(method: 'POST' | 'PUT' | 'PATCH', path: string, body: unknown): Promise<T>;
  put(path: string, query: Query, body: Uint8Array): Promise<void>;
  /** Sends bytes. */
  post<T>(path: string, query: Query, body: Uint8Array): Promise<T>;
  download(path: string, query: Query): Promise<Uint8Array>;
}

type Query = Readonly<Record<string, string | number | boolean | undefined>>;

/** A client of the public API at `STEM_URL` with `STEM_TOKEN`, or of what `npm start` left. */
export async function connect(): Promise<Client> {
  const { url, token } = await address();
  const call = async (
    method: string,
    path: string,
    query: Query = {},
    body?: { type: string; content: string | Uint8Array<ArrayBuffer> },
  ): Promise<Response> => {
    const target = new URL(path, url);
    for (const [name, value] of Object.entries(query))
      if (value !== undefined) target.searchParams.set(name, String(value));
    const response = await fetch(target, {
      method,
      headers: { Authorization: `Bearer ${token}`, ...(body ? { 'Content-Type': body.type } : {}) },
      ...(body ? { body: body.content } : {}),
    }).catch(() => {
      throw new CliError(`Nothing answers at ${url}. Start it with 'npm start', or set STEM_URL.`);
    });
    if (!response.ok) throw new CliError(await problemOf(response));
    return response;
  };
  return {
    get: async <T>(path: string, query: Query = {}) => (await (await call('GET', path, query)).json()) as T,
    send: async <T>(method: 'POST' | 'PUT' | 'PATCH', path: string, body: unknown) => {
      const response = await call(
        method,
        path,
        {},
        { type: 'application/json', content: JSON.stringify(body) },
      );
      return (response.status === 204 ? undefined : await response.json()) as T;
    },
    put: async (path, query, body) => {
      await call('PUT', path, query, {
        type: 'application/octet-stream',
        content: body as Uint8Array<ArrayBuffer>,
      });
    },
    post: async <T>(path: string, query: Query, body: Uint8Array) =>
      (await (
        await call('POST', path, query, {
          type: 'application/zip',
          content: body as Uint8Array<ArrayBuffer>,
        })
      ).json()) as T,
    download: async (path, query) => new Uint8Array(await (await call('GET', path, query)).arrayBuffer()),
  };
}

async function problemOf(response: Response): Promise<string> {
  const text = await response.text();
  try {
    return (JSON.parse(text) as Problem).detail;
  } catch {
    return `The server answered ${response.status} ${response.statusText}.`;
  }
}

async function address(): Promise<{ url: string; token: string }> {
  const { STEM_URL, STEM_TOKEN } = process.env;
  if (STEM_URL && STEM_TOKEN) return { url: STEM_URL, token: STEM_TOKEN };
  const root = resolve(dirname(fileURLToPath(import.meta.url)), '../../..');
  const file = process.env.STEM_CLI_FILE ?? join(root, '.stem-trace/cli.json');
  const text = await readFile(file, 'utf8').catch(() => {
    throw new CliError(
      "No token was found. Start the application with 'npm start', or set STEM_URL and STEM_TOKEN.",
    );
  });
  const left = JSON.parse(text) as { url: string; token: string };
  return { url: STEM_URL ?? left.url, token: STEM_TOKEN ?? left.token };
}
