import fc from 'fast-check';
import { expect, it } from 'vitest';
import { beginAt, putOn, settle, type CursorState, type RowSource } from './cursor.js';

interface Row {
  readonly id: number;
  readonly text: string;
}

const keyOf = ({ id }: Row): string => String(id);

/** Rows of which some may not have come yet. */
function sourceOf(rows: readonly Row[], hasCome: (index: number) => boolean = () => true): RowSource<Row> {
  return { count: rows.length, at: (index) => (hasCome(index) ? rows[index] : undefined), keyOf };
}

/** What others do to a table, whatever it is. */
const change = fc.oneof(
  fc.record({ kind: fc.constant('in' as const), at: fc.nat(), id: fc.integer({ min: 100, max: 120 }) }),
  fc.record({ kind: fc.constant('out' as const), at: fc.nat() }),
  fc.record({ kind: fc.constant('turn' as const) }),
  fc.record({ kind: fc.constant('by text' as const) }),
  fc.record({ kind: fc.constant('say' as const), at: fc.nat(), text: fc.string({ maxLength: 3 }) }),
  fc.record({ kind: fc.constant('all out' as const) }),
);

function changed(rows: readonly Row[], one: typeof change extends fc.Arbitrary<infer T> ? T : never): Row[] {
  const at = 'at' in one && rows.length > 0 ? one.at % rows.length : 0;
  switch (one.kind) {
    case 'in':
      return rows.some(({ id }) => id === one.id)
        ? [...rows]
        : rows.toSpliced(at, 0, { id: one.id, text: '' });
    case 'out':
      return rows.filter((_, index) => index !== at);
    case 'turn':
      return rows.toReversed();
    case 'by text':
      return rows.toSorted((a, b) => (a.text < b.text ? -1 : 1));
    case 'say':
      return rows.map((row, index) => (index === at ? { ...row, text: one.text } : row));
    case 'all out':
      return [];
  }
}

it('is on the row that it was put on or on none, whatever comes in, goes or is sorted', () => {
  fc.assert(
    fc.property(
      fc.uniqueArray(fc.integer({ min: 0, max: 99 }), { minLength: 1, maxLength: 12 }),
      fc.nat(),
      fc.array(change, { maxLength: 30 }),
      (ids, where, changes) => {
        let rows: Row[] = ids.map((id) => ({ id, text: String(id) }));
        const place = where % rows.length;
        const wanted = rows[place]?.id;
        let state: CursorState<Row> = putOn(place, rows[place], keyOf);
        for (const one of changes) {
          rows = changed(rows, one);
          const settled = settle(state, sourceOf(rows));
          ({ state } = settled);
          const isThere = rows.some(({ id }) => id === wanted);
          expect(settled.row?.id).toBe(isThere ? wanted : undefined);
          // What is acted on is what is drawn there, with what is known of it now.
          expect(settled.index < 0 ? undefined : rows[settled.index]).toBe(settled.row);
        }
      },
    ),
    { numRuns: 500 },
  );
});

it('begins on the first row that comes, and waits for it', () => {
  const rows = [1, 2, 3].map((id) => ({ id, text: '' }));
  const waiting = settle(
    beginAt<Row>(0),
    sourceOf(rows, () => false),
  );
  expect(waiting.row).toBeUndefined();
  const come = settle(waiting.state, sourceOf(rows));
  expect([come.index, come.row?.id]).toEqual([0, 1]);
  // From then on it stays, though another one comes first.
  expect(settle(come.state, sourceOf([{ id: 9, text: '' }, ...rows])).row?.id).toBe(1);
});

it('keeps what it knows of a row that was scrolled out of what is loaded', () => {
  const rows = Array.from({ length: 1000 }, (_, id) => ({ id, text: '' }));
  const on = settle(putOn(5, rows[5], keyOf), sourceOf(rows));
  const away = settle(
    on.state,
    sourceOf(rows, (index) => index > 800),
  );
  expect([away.index, away.row?.id]).toEqual([5, 5]);
});

it('draws nothing anew where nothing changed', () => {
  const source = sourceOf([{ id: 1, text: '' }]);
  const { state } = settle(beginAt<Row>(0), source);
  expect(settle(state, source).state).toBe(state);
});
