// @vitest-environment happy-dom
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { cleanup, render, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { MemoryRouter, useLocation } from 'react-router';
import { afterEach, beforeAll, expect, it, vi } from 'vitest';
import { CommonDialog } from './common-dialog.js';

const ROW = { number: 'FM-1000', name: 'Station', version: 'B/2', state: 'released' };

beforeAll(() => {
  for (const name of ['offsetHeight', 'offsetWidth', 'clientHeight'])
    Object.defineProperty(HTMLElement.prototype, name, { configurable: true, get: () => 400 });
});
afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

function Where(): React.JSX.Element {
  const { pathname, search } = useLocation();
  return <output>{pathname + search}</output>;
}

function ask(answer: object): { readonly sent: () => unknown; readonly onClose: () => void } {
  const fetched = vi.fn((_: string, init?: RequestInit) => {
    void init;
    return Promise.resolve(Response.json(answer));
  });
  vi.stubGlobal('fetch', fetched);
  const onClose = vi.fn();
  render(
    <MemoryRouter initialEntries={['/find?lens=newest']}>
      <QueryClientProvider client={new QueryClient()}>
        <CommonDialog items={['FM-1', 'FM 2']} onClose={onClose} />
        <Where />
      </QueryClientProvider>
    </MemoryRouter>,
  );
  return { sent: () => JSON.parse(String(fetched.mock.calls[0]?.[1]?.body)) as unknown, onClose };
}

it('lists what holds all of them under the lens, and opens one by Enter', async () => {
  const { sent, onClose } = ask({ rows: [ROW], hidden: 2 });
  expect(await screen.findByRole('row', { name: /FM-1000/ })).toBeDefined();
  expect(sent()).toEqual({ items: ['FM-1', 'FM 2'], lens: 'newest' });
  expect(screen.getByText('2 not visible to you')).toBeDefined();
  await userEvent.setup().keyboard('{Enter}');
  expect(onClose).toHaveBeenCalledOnce();
  expect(screen.getByText('/trace?item=FM-1000&lens=newest')).toBeDefined();
});

it('says that nothing does, and leads to Find with all of them', async () => {
  ask({ rows: [], hidden: 0 });
  expect(await screen.findByText('Nothing holds all of them.')).toBeDefined();
  const words = new URL(
    screen.getByRole('link', { name: /in Find/ }).getAttribute('href') ?? '',
    'http://here',
  ).searchParams.get('words');
  expect(words).toBe('made of FM-1 made of "FM 2"');
});
