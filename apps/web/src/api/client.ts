import type { Addresses, AnswerTo, Problem } from '@stem-trace/contract';

/** A problem that the server told, for showing as it is. */
export class ApiProblem extends Error {
  constructor(readonly problem: Problem) {
    super(problem.detail);
    this.name = 'ApiProblem';
  }
}

type Query = Readonly<Record<string, string | number | boolean | undefined>>;

export function addressOf(path: string, query: Query = {}): string {
  const search = new URLSearchParams();
  for (const [name, value] of Object.entries(query)) if (value !== undefined) search.set(name, String(value));
  const text = search.toString();
  return text === '' ? path : `${path}?${text}`;
}

export async function get<P extends Addresses<'GET'>>(
  path: P,
  query: Query = {},
  signal?: AbortSignal,
): Promise<AnswerTo<'GET', P>> {
  return request(addressOf(path, query), signal ? { signal } : {});
}

type Method = 'POST' | 'PUT' | 'PATCH' | 'DELETE';

export async function send<M extends Method, P extends Addresses<M>>(
  method: M,
  path: P,
  body?: unknown,
  signal?: AbortSignal,
): Promise<AnswerTo<M, P>> {
  return request(path, {
    method,
    headers: { 'Content-Type': 'application/json' },
    ...(body === undefined ? {} : { body: JSON.stringify(body) }),
    ...(signal ? { signal } : {}),
  });
}

/** As `send`, where the answer is no JSON. */
export async function sendForBytes(path: Addresses<'POST'>, body: unknown): Promise<ArrayBuffer> {
  const response = await answered(path, {
    method: 'POST',
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify(body),
  });
  return response.arrayBuffer();
}

export async function upload(path: Addresses<'PUT'>, query: Query, content: Blob): Promise<void> {
  await request<void>(addressOf(path, query), {
    method: 'PUT',
    headers: { 'Content-Type': 'application/octet-stream' },
    body: content,
  });
}

export async function uploadArchive<P extends Addresses<'POST'>>(
  path: P,
  query: Query,
  content: Blob,
): Promise<AnswerTo<'POST', P>> {
  return request(addressOf(path, query), {
    method: 'POST',
    headers: { 'Content-Type': 'application/zip' },
    body: content,
  });
}

/** A session that has ended waits for its person to sign in again; what was asked for goes on then. */
type Waiting = () => void;
let waiting: Waiting[] = [];
const watchers = new Set<() => void>();

export const endedSession = {
  isEnded: (): boolean => waiting.length > 0,
  subscribe: (watcher: () => void): (() => void) => {
    watchers.add(watcher);
    return () => watchers.delete(watcher);
  },
  /** The person is back. */
  resume: (): void => {
    const all = waiting;
    waiting = [];
    for (const goOn of all) goOn();
    for (const watcher of watchers) watcher();
  },
};

/** Whether somebody was signed in since this page was opened: before that, nobody's session has ended. */
let wasSignedIn = false;

function untilSignedIn(): Promise<void> {
  return new Promise((goOn) => {
    waiting = [...waiting, goOn];
    for (const watcher of watchers) watcher();
  });
}

async function request<T>(address: string, init: RequestInit): Promise<T> {
  const response = await answered(address, init);
  return (response.status === 204 ? undefined : await response.json()) as T;
}

async function answered(address: string, init: RequestInit): Promise<Response> {
  const response = await fetch(address, init).catch((error: unknown) => {
    if (error instanceof DOMException && error.name === 'AbortError') throw error;
    throw new ApiProblem({
      type: 'about:blank',
      title: 'offline',
      status: 0,
      code: 'INTERNAL',
      detail: 'The server does not answer. What you entered is kept; try again.',
    });
  });
  if (!response.ok) {
    const problem = await problemOf(response);
    if (problem.code !== 'NOT_SIGNED_IN' || !wasSignedIn) throw new ApiProblem(problem);
    await untilSignedIn();
    return answered(address, init);
  }
  if (address === '/api/session') wasSignedIn = init.method !== 'DELETE';
  return response;
}

async function problemOf(response: Response): Promise<Problem> {
  try {
    return (await response.json()) as Problem;
  } catch {
    return {
      type: 'about:blank',
      title: 'error',
      status: response.status,
      code: 'INTERNAL',
      detail: `The server answered ${response.status}. Try again.`,
    };
  }
}
