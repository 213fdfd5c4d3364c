import { expect, it } from 'vitest';
import { ProblemError } from '../problems/problem.js';
import { PerPerson } from './per-person.js';

/** Work that ends when it is told to. */
function task(): { readonly work: () => Promise<string>; readonly end: () => void; hasBegun: boolean } {
  let end = (): void => undefined;
  const ended = new Promise<void>((resolve) => (end = resolve));
  const made = {
    hasBegun: false,
    end: () => end(),
    work: async () => {
      made.hasBegun = true;
      await ended;
      return 'done';
    },
  };
  return made;
}

it('has one order of each person under way, whoever sent how many', async () => {
  const limit = new PerPerson();
  const tasks = Array.from({ length: 6 }, task);
  const other = task();
  const all = tasks.map(({ work }) => limit.run('ada', work));
  const others = limit.run('ben', other.work);
  await new Promise(setImmediate);
  expect(tasks.map(({ hasBegun }) => hasBegun)).toEqual([true, false, false, false, false, false]);
  expect(other.hasBegun).toBe(true);
  other.end();
  expect(await others).toBe('done');
  for (const { end } of tasks) end();
  expect(await Promise.all(all)).toHaveLength(6);
});

it('does not begin what nobody waits for, and refuses what never ends to queue up', async () => {
  const limit = new PerPerson();
  const [first, second] = [task(), task()];
  const running = limit.run('ada', first.work);
  const gone = new AbortController();
  const waiting = limit.run('ada', second.work, gone.signal);
  gone.abort();
  const more = Array.from({ length: 98 }, () => limit.run('ada', () => Promise.resolve()));
  await expect(limit.run('ada', () => Promise.resolve())).rejects.toThrow(ProblemError);
  first.end();
  await running;
  await expect(waiting).rejects.toThrow();
  expect(second.hasBegun).toBe(false);
  await Promise.all(more);
  expect(await limit.run('ada', () => Promise.resolve('again'))).toBe('again');
});
