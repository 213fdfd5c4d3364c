import { QueryClient, QueryObserver } from '@tanstack/react-query';
import { afterEach, beforeEach, expect, it, vi } from 'vitest';
import { AskAgain } from './use-feed.js';

let queries: QueryClient;
let again: AskAgain;
/** What a server knows, and questions under way, which are answered by hand with what it knew when they were asked. */
let known: string;
let underWay: (() => void)[];

beforeEach(() => {
  queries = new QueryClient();
  again = new AskAgain(queries);
  known = 'old';
  underWay = [];
});
afterEach(() => {
  again.end();
  queries.clear();
});

function show(key: string): { readonly shown: () => unknown; readonly leave: () => void } {
  const observer = new QueryObserver(queries, {
    queryKey: [key],
    queryFn: () => {
      const answer = known;
      return new Promise<string>((done) => underWay.push(() => done(answer)));
    },
    staleTime: Infinity,
  });
  const leave = observer.subscribe(() => undefined);
  return { shown: () => observer.getCurrentResult().data, leave };
}

async function answerAll(): Promise<void> {
  for (const answer of underWay.splice(0)) answer();
  await new Promise((done) => setTimeout(done));
}

it('an answer on screen is asked for again, one of another kind is not', async () => {
  const [items, notices] = [show('items'), show('notices')];
  await answerAll();
  known = 'new';
  again.ask(['items']);
  expect(underWay).toHaveLength(1);
  await answerAll();
  expect([items.shown(), notices.shown()]).toEqual(['new', 'old']);
});

it('a first answer that was read before the change, and comes after it was told, does not stay', async () => {
  const items = show('items');
  known = 'new';
  again.ask(['items']);
  again.ask(['items']);
  await answerAll();
  await vi.waitFor(() => expect(underWay).toHaveLength(1));
  await answerAll();
  expect(items.shown()).toBe('new');
  expect(underWay).toHaveLength(0);
});

it('a slow answer is shown though changes go on, and is asked for again once', async () => {
  const items = show('items');
  await answerAll();
  again.ask(['items']);
  for (const value of ['a', 'b', 'c']) {
    known = value;
    again.ask(['items']);
  }
  expect(underWay).toHaveLength(1);
  await answerAll();
  await vi.waitFor(() => expect(underWay).toHaveLength(1));
  await answerAll();
  expect(items.shown()).toBe('c');
  expect(underWay).toHaveLength(0);
});

it('what nobody looks at is asked for when somebody does', async () => {
  const first = show('items');
  await answerAll();
  first.leave();
  known = 'new';
  again.ask(['items']);
  expect(underWay).toHaveLength(0);
  const second = show('items');
  await answerAll();
  expect(second.shown()).toBe('new');
});
