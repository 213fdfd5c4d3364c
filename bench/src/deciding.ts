/** Many people who sign at once, and a check sheet of many items. */
import type { BenchResult } from './report.js';
import { bringIn, served } from './served.js';

const PEOPLE = 50;
const ITEMS = 500;

interface Lifecycles {
  readonly lifecycles: readonly {
    readonly id: string;
    readonly scopes: readonly object[];
    readonly diagram: { readonly steps: readonly { readonly name: string }[] };
  }[];
}

type Call = <T>(path: string, body: unknown, method?: string) => Promise<T>;

export async function benchDeciding(): Promise<BenchResult> {
  return served(async ({ address, client, administratorPassword }) => {
    const admin = await signIn(address, 'admin', administratorPassword);
    const people = Array.from({ length: PEOPLE }, (_, at) => `checker-${at}`);
    for (const login of people)
      await admin('/api/people', {
        login,
        name: login,
        initials: 'CK',
        role: 'checker',
        password: secret(login),
      });
    await askForSignatures(admin);
    const bytes = new TextEncoder();
    const numbers = Array.from({ length: PEOPLE + ITEMS }, (_, at) => `D${at}`);
    await bringIn(
      client,
      new Map(numbers.map((number) => [`${number}.txt`, bytes.encode(`What is said of ${number}`)])),
    );
    const [alone, together] = [numbers.slice(0, PEOPLE), numbers.slice(PEOPLE)];
    for (const items of [alone, together])
      await client('POST', '/api/steps', { items, step: 'ask for check', reason: '' });
    const [{ id: sheet } = { id: '' }] = await client<{ id: string }[]>('GET', '/api/sheets');

    const signedIn = await timed(people, (login) => signIn(address, login, secret(login)));
    const calls = signedIn.values;
    const signed = await timed(calls, (call, at) => release(call, [alone[at] ?? ''], people[at] ?? ''));
    const [first] = calls;
    if (!first) throw new Error('nobody signed in');
    const opened = await timed([first], (call) => call(`/api/sheets/${sheet}`, undefined, 'GET'));
    const released = await timed([first], (call) => release(call, together, people[0] ?? ''));
    return {
      title: 'Deciding',
      rivalName: 'signing in, which takes the same hash of a password and nothing else, by as many at once',
      goal: `a decision of each of ${PEOPLE} people at once within 4 s (95th percentile)`,
      notes: ['Each decision is a signature: sealed, chained, and committed with the state.'],
      rows: [
        {
          what: `${PEOPLE} people sign one item each, at once: 95th percentile`,
          ours: signed.p95,
          rival: signedIn.p95,
        },
        { what: `a check sheet of ${ITEMS} items, opened`, ours: opened.p95 },
        { what: `all ${ITEMS} of it signed and released together`, ours: released.p95 },
      ],
    };
  });
}

const secret = (login: string): string => `${login}-password`;

/** Looks at what is to be signed, and signs it. */
async function release(call: Call, items: readonly string[], login: string): Promise<void> {
  const step = { items, step: 'release', reason: '' };
  const preview = await call<{ items: readonly { number: string; shown: string }[] }>(
    '/api/steps/preview',
    step,
  );
  const shown = Object.fromEntries(preview.items.map((each) => [each.number, each.shown]));
  await call('/api/steps', { ...step, shown, password: secret(login), zone: 'Europe/Oslo' });
}

/** The lifecycle that ships, with one signature of a checker for a release. */
async function askForSignatures(admin: Call): Promise<void> {
  const { lifecycles } = await admin<Lifecycles>('/api/lifecycles', undefined, 'GET');
  const [items] = lifecycles;
  if (!items) throw new Error('there is no lifecycle');
  const { id, diagram, scopes } = items;
  const steps = diagram.steps.map((step) =>
    step.name === 'release'
      ? { ...step, signatures: { count: 1, of: [{ kind: 'role', role: 'checker' }], isInOrder: false } }
      : step,
  );
  await admin('/api/lifecycles', { id, scopes, comment: '', diagram: { ...diagram, steps } });
}

/** As a browser. */
async function signIn(address: string, login: string, password: string): Promise<Call> {
  const entered = await fetch(`${address}/api/session`, {
    method: 'POST',
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify({ login, password }),
  });
  if (!entered.ok) throw new Error(`${login} cannot sign in: ${await entered.text()}`);
  const cookie = entered.headers.getSetCookie()[0]?.split(';')[0] ?? '';
  return async <T>(path: string, body: unknown, method = 'POST'): Promise<T> => {
    const response = await fetch(address + path, {
      method,
      headers: { Cookie: cookie, 'Content-Type': 'application/json' },
      ...(body === undefined ? {} : { body: JSON.stringify(body) }),
    });
    if (!response.ok) throw new Error(`${path}: ${response.status} ${await response.text()}`);
    return (response.status === 204 ? undefined : await response.json()) as T;
  };
}

/** All at once. */
async function timed<T, R>(
  all: readonly T[],
  act: (each: T, at: number) => Promise<R>,
): Promise<{ readonly p95: number; readonly values: readonly R[] }> {
  const times: number[] = [];
  const values = await Promise.all(
    all.map(async (each, at) => {
      const start = performance.now();
      const value = await act(each, at);
      times.push(performance.now() - start);
      return value;
    }),
  );
  times.sort((a, b) => a - b);
  return { p95: times[Math.ceil(times.length * 0.95) - 1] ?? 0, values };
}
