import fc from 'fast-check';
import { expect, it } from 'vitest';
import { DELETED, mergeRows, type MergeRow } from './merge.js';

const row = (id: string, level = 1, fields: Record<string, string> = {}): MergeRow => ({ id, level, fields });

/** Lists over the same ids, in any order, with any of them left out. */
const lists: fc.Arbitrary<MergeRow[]> = fc
  .shuffledSubarray(['a', 'b', 'c', 'd', 'e', 'f', 'g', 'h'])
  .chain((ids) =>
    fc.tuple(
      ...ids.map((id) =>
        fc.record({
          id: fc.constant(id),
          dive: fc.integer({ min: -2, max: 1 }),
          x: fc.constantFrom('1', '2', '3'),
        }),
      ),
    ),
  )
  .map((steps) => {
    let level = 0;
    return steps.map(({ id, dive, x }) => {
      level = Math.max(1, Math.min(level + 1, level + dive + (level === 0 ? 1 : 0)));
      return row(id, level, { x });
    });
  });

it('of what one side changed alone, or both alike, is what they changed', () => {
  fc.assert(
    fc.property(lists, lists, (o, x) => {
      for (const merged of [mergeRows(o, o, x), mergeRows(o, x, o), mergeRows(o, x, x)]) {
        expect(merged.rows).toEqual(x);
        expect(merged.contradictions).toEqual([]);
      }
    }),
    { numRuns: 500 },
  );
});

it('shows no row twice, loses none that nobody deleted, and is the same from both sides where nothing contradicts', () => {
  fc.assert(
    fc.property(lists, lists, lists, (o, a, b) => {
      const merged = mergeRows(o, a, b);
      const ids = merged.rows.map(({ id }) => id);
      expect(new Set(ids).size).toBe(ids.length);
      let level = 0;
      for (const each of merged.rows) {
        expect(each.level).toBeLessThanOrEqual(level + 1);
        ({ level } = each);
      }
      const [inO, inA, inB] = [o, a, b].map((rows) => new Set(rows.map(({ id }) => id))) as [
        Set<string>,
        Set<string>,
        Set<string>,
      ];
      const disputed = new Set(
        merged.contradictions.filter(({ what }) => what === DELETED).map(({ id }) => id),
      );
      for (const id of new Set([...inA, ...inB])) {
        if (inA.has(id) && inB.has(id)) expect(ids).toContain(id);
        else if (!inO.has(id)) expect(ids).toContain(id);
        else if (!disputed.has(id)) expect(ids).not.toContain(id);
      }
      if (merged.contradictions.length === 0) expect(mergeRows(o, b, a).rows).toEqual(merged.rows);
    }),
    { numRuns: 2000 },
  );
});

it('takes the side that was decided, in every contradiction', () => {
  fc.assert(
    fc.property(lists, lists, lists, (o, a, b) => {
      const { contradictions } = mergeRows(o, a, b);
      const theirs = new Map(contradictions.map(({ id, what }) => [`${what} of ${id}`, 'theirs' as const]));
      const decided = mergeRows(o, a, b, { decisions: theirs });
      const mirrored = mergeRows(o, b, a);
      for (const { id, what } of contradictions) {
        if (what !== 'x') continue;
        const find = (rows: readonly MergeRow[]): string | undefined =>
          rows.find((each) => each.id === id)?.fields['x'];
        expect(find(decided.rows)).toBe(find(mirrored.rows));
      }
    }),
  );
});

it('carries a deletion out, and brings what was added inside to where it lay', () => {
  const base = [row('a'), row('b', 2), row('c')];
  const merged = mergeRows(base, [row('c')], [row('a'), row('b', 2), row('n', 2), row('c')]);
  expect(merged.rows).toEqual([row('c'), row('n')]);
  expect(merged.movedOut).toEqual(['n']);
});

it('is linear in rows', () => {
  const rows = (prefix: string): MergeRow[] =>
    Array.from({ length: 50_000 }, (_, at) => row(`${at % 7 === 0 ? prefix : ''}${at}`, 1 + (at % 3)));
  const base = rows('').map((each, at) => ({ ...each, level: at === 0 ? 1 : each.level }));
  // Quadratic work on so many rows would take minutes, not seconds.
  expect(mergeRows(base, rows('m'), rows('t')).rows.length).toBeGreaterThan(50_000);
});
