/** Shows a view as it stands in the application, with a server that answers what it is told to. */
import type { PersonView } from '@stem-trace/contract';
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { render, screen } from '@testing-library/react';
import userEvent, { type UserEvent } from '@testing-library/user-event';
import { MemoryRouter, useLocation } from 'react-router';
import { vi } from 'vitest';
import { DeskProvider } from '../frame/desk.js';
import { PersonContext } from '../frame/person.js';

export interface Sent {
  readonly method: string;
  readonly path: string;
  readonly search: URLSearchParams;
  readonly body: unknown;
}

/** By path: an answer, or what is worked out from what was sent. A `Response` goes out as it is. */
export type Answers = Readonly<Record<string, unknown>>;

export interface Shown {
  readonly user: UserEvent;
  /** What was sent to a path, oldest first. */
  readonly sentTo: (path: string) => readonly Sent[];
  /** Address of the view. */
  readonly address: () => string;
}

export const ENGINEER: PersonView = {
  login: 'ines',
  name: 'Ines Halvorsen',
  initials: 'IH',
  role: 'engineer',
};

export function show(
  view: React.JSX.Element,
  {
    address = '/',
    answers,
    person = ENGINEER,
  }: { readonly address?: string; readonly answers: Answers; readonly person?: PersonView },
): Shown {
  giveSizes();
  // Addresses are read from the window where keys may come faster than drawing.
  window.history.replaceState(null, '', address);
  const sent: Sent[] = [];
  vi.stubGlobal('fetch', (to: string, init: RequestInit = {}) => {
    const { pathname, searchParams } = new URL(to, 'http://here');
    const one: Sent = {
      method: init.method ?? 'GET',
      path: pathname,
      search: searchParams,
      body: typeof init.body === 'string' ? JSON.parse(init.body) : undefined,
    };
    sent.push(one);
    const known = answers[pathname];
    if (known === undefined) return Promise.reject(new Error(`nothing answers ${pathname}`));
    const answer: unknown = typeof known === 'function' ? (known as (sent: Sent) => unknown)(one) : known;
    return Promise.resolve(answer).then((given) =>
      given instanceof Response ? given : Response.json(given),
    );
  });
  render(
    <MemoryRouter initialEntries={[address]}>
      <QueryClientProvider client={new QueryClient({ defaultOptions: { queries: { retry: false } } })}>
        <PersonContext value={person}>
          <DeskProvider>
            {view}
            <Where />
          </DeskProvider>
        </PersonContext>
      </QueryClientProvider>
    </MemoryRouter>,
  );
  return {
    user: userEvent.setup(),
    sentTo: (path) => sent.filter((one) => one.path === path),
    address: () => screen.getByTestId('address').textContent,
  };
}

/** Nothing is laid out here; tables need some height to show rows. */
function giveSizes(): void {
  for (const name of ['offsetHeight', 'offsetWidth', 'clientHeight', 'clientWidth'])
    Object.defineProperty(HTMLElement.prototype, name, { configurable: true, get: () => 600 });
}

function Where(): React.JSX.Element {
  const { pathname, search } = useLocation();
  return <output data-testid="address">{pathname + search}</output>;
}
