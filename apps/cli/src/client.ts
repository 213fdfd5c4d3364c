import { mkdir, readFile, writeFile } from 'node:fs/promises';
import { dirname, join, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';
import type { Addresses, AnswerTo, Problem } from '@stem-trace/contract';

/** A sentence for standard error; the program ends with 1. */
export class CliError extends Error {}

export interface Client {
  get<P extends Addresses<'GET'>>(path: P, query?: Query): Promise<AnswerTo<'GET', P>>;
  send<M extends 'POST' | 'PUT' | 'PATCH', P extends Addresses<M>>(
    method: M,
    path: P,
    body: unknown,
  ): Promise<AnswerTo<M, P>>;
  put(path: Addresses<'PUT'>, query: Query, body: Uint8Array): Promise<void>;
  /** Sends bytes. */
  post<P extends Addresses<'POST'>>(path: P, query: Query, body: Uint8Array): Promise<AnswerTo<'POST', P>>;
  download(path: Addresses<'GET'>, query: Query): Promise<Uint8Array>;
  /** Kinds of what changes in the store, and `connected` whenever it is heard again; until the signal. */
  events(signal: AbortSignal): AsyncGenerator<readonly string[]>;
}

const RETRY_MS = 1000;

type Query = Readonly<Record<string, string | number | boolean | undefined>>;

/** A client of the public API at `STEM_URL` with `STEM_TOKEN`, or of what `npm start` left. */
export async function connect(env: NodeJS.ProcessEnv): Promise<Client> {
  const { url, token } = await address(env);
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
    get: async <P extends Addresses<'GET'>>(path: P, query: Query = {}) =>
      (await (await call('GET', path, query)).json()) as AnswerTo<'GET', P>,
    send: async <M extends 'POST' | 'PUT' | 'PATCH', P extends Addresses<M>>(
      method: M,
      path: P,
      body: unknown,
    ) => {
      const response = await call(
        method,
        path,
        {},
        { type: 'application/json', content: JSON.stringify(body) },
      );
      return (response.status === 204 ? undefined : await response.json()) as AnswerTo<M, P>;
    },
    put: async (path, query, body) => {
      await call('PUT', path, query, {
        type: 'application/octet-stream',
        content: body as Uint8Array<ArrayBuffer>,
      });
    },
    post: async <P extends Addresses<'POST'>>(path: P, query: Query, body: Uint8Array) =>
      (await (
        await call('POST', path, query, {
          type: 'application/zip',
          content: body as Uint8Array<ArrayBuffer>,
        })
      ).json()) as AnswerTo<'POST', P>,
    download: async (path, query) => new Uint8Array(await (await call('GET', path, query)).arrayBuffer()),
    async *events(signal) {
      while (!signal.aborted) {
        const response = await fetch(new URL('/api/feed', url), {
          headers: { Authorization: `Bearer ${token}` },
          signal,
        }).catch(() => undefined);
        if (response && !response.ok) throw new CliError(await problemOf(response));
        if (response?.body) {
          yield ['connected'];
          yield* eventsIn(response.body);
        }
        // A server that is away for a while is asked again.
        if (!signal.aborted) await new Promise((done) => setTimeout(done, RETRY_MS));
      }
    },
  };
}

/** Server-sent events (HTML Living Standard, 9.2) with a JSON list each, until the stream ends or breaks. */
async function* eventsIn(body: ReadableStream<Uint8Array>): AsyncGenerator<readonly string[]> {
  const decoder = new TextDecoder();
  let rest = '';
  const reader = body.getReader();
  for (;;) {
    const { done, value } = await reader.read().catch(() => ({ done: true, value: undefined }));
    if (done || !value) return;
    const lines = (rest + decoder.decode(value, { stream: true })).split('\n');
    rest = lines.pop() ?? '';
    for (const line of lines)
      if (line.startsWith('data: ')) yield JSON.parse(line.slice('data: '.length)) as readonly string[];
  }
}

async function problemOf(response: Response): Promise<string> {
  const text = await response.text();
  try {
    return (JSON.parse(text) as Problem).detail;
  } catch {
    return `The server answered ${response.status} ${response.statusText}.`;
  }
}

export interface SigningIn {
  readonly login: string;
  readonly password: string;
  readonly url: string | undefined;
  readonly env: NodeJS.ProcessEnv;
}

/**
 * Signs in by name and leaves a token for the verbs that follow, where `npm start` leaves its own.
 *
 * @throws CliError
 */
export async function signIn({ login, password, url, env }: SigningIn): Promise<void> {
  const file = cliFile(env);
  const server = url ?? env.STEM_URL ?? (await leftIn(file))?.url;
  if (server === undefined) throw new CliError('Say where the server is: signin NAME --url http://…');
  const post = async (path: string, body: object, cookie = ''): Promise<Response> => {
    const response = await fetch(new URL(path, server), {
      method: 'POST',
      headers: { 'Content-Type': 'application/json', ...(cookie === '' ? {} : { Cookie: cookie }) },
      body: JSON.stringify(body),
    }).catch(() => {
      throw new CliError(`Nothing answers at ${server}. Start it with 'npm start', or set STEM_URL.`);
    });
    if (!response.ok) throw new CliError(await problemOf(response));
    return response;
  };
  const session = await post('/api/session', { login, password });
  const cookie = session.headers.getSetCookie().find((text) => text.startsWith('stem_session=')) ?? '';
  const made = await post('/api/tokens', { name: 'command line', days: 30 }, cookie.split(';')[0]);
  const { token } = (await made.json()) as AnswerTo<'POST', '/api/tokens'>;
  await fetch(new URL('/api/session', server), {
    method: 'DELETE',
    headers: { Cookie: cookie.split(';')[0] ?? '' },
  });
  await mkdir(dirname(file), { recursive: true });
  await writeFile(file, `${JSON.stringify({ url: server, token })}\n`, { mode: 0o600 });
}

function cliFile(env: NodeJS.ProcessEnv): string {
  const root = resolve(dirname(fileURLToPath(import.meta.url)), '../../..');
  return env.STEM_CLI_FILE ?? join(root, '.stem-trace/cli.json');
}

async function leftIn(file: string): Promise<{ url: string; token: string } | undefined> {
  const text = await readFile(file, 'utf8').catch(() => undefined);
  return text === undefined ? undefined : (JSON.parse(text) as { url: string; token: string });
}

/** Where the server is, and with what one comes in. @throws CliError */
export async function address(env: NodeJS.ProcessEnv): Promise<{ url: string; token: string }> {
  const { STEM_URL, STEM_TOKEN } = env;
  if (STEM_URL && STEM_TOKEN) return { url: STEM_URL, token: STEM_TOKEN };
  const left = await leftIn(cliFile(env));
  if (!left)
    throw new CliError(
      "No token was found. Start the application with 'npm start', or set STEM_URL and STEM_TOKEN.",
    );
  return { url: STEM_URL ?? left.url, token: STEM_TOKEN ?? left.token };
}
