import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { parseAmount, pieces, sayAmount } from '../bom/amount.js';
import { accountOf, countAccount, isClosed } from './account.js';
import { carryOver } from './carry.js';
import { changesFromEngineering, changesSince } from './changes.js';
import { rowsThatCount } from './counting.js';
import {
  combine,
  dissolve,
  divide,
  insertRows,
  moveRow,
  moveTo,
  pasteBlock,
  removeRows,
  replaceText,
  setCell,
  setCells,
  takeWhole,
  wrap,
  type Edited,
} from './edit.js';
import { billTree, engineeringRows } from './make.js';
import { DELETED, keyOfContradiction } from './merge.js';
import type { BuildBill, BuildColumn, BuildRow, EngineeringRow } from './model.js';
import { checkReadiness } from './readiness.js';
import { refuseBill } from './refuse.js';
import { added, BASE, billOf, engineering, structures } from '../testing/bills.js';
import { SHIPPED_STATES } from '../lifecycle/shipped.js';

const say = (rows: readonly BuildRow[]): string[] =>
  rows.map(({ level, number, name, amount }) => `${'·'.repeat(level)}${number || name} ${sayAmount(amount)}`);

function rowsOf(edited: Edited): readonly BuildRow[] {
  if (edited.kind === 'problem') throw new Error(edited.says);
  return edited.rows;
}

const closed = (bill: BuildBill): boolean => isClosed(countAccount(accountOf(bill)));
const withRows = (bill: BuildBill, rows: readonly BuildRow[]): BuildBill => ({ ...bill, rows });

const PUMP = engineering([
  { key: 'A', level: 1, count: 2 },
  { key: 'A1', level: 2, count: 3 },
  { key: 'A2', level: 2, count: 1 },
  { key: 'B', level: 1, count: 4 },
]);

const NUMBER: BuildColumn = {
  ...{ id: 'torque', name: 'Torque', type: 'number', unit: 'N*m', choices: [], isRequired: true },
};

describe('rows are edited as in a spreadsheet', () => {
  const { rows } = billOf(PUMP);

  it('goes in above, below and inside, with what lies in it', () => {
    expect(say(insertRows(rows, [added('glue')], 'B', 'above'))).toContain('·glue 1');
    expect(say(insertRows(rows, [added('glue')], 'A', 'below'))[3]).toBe('·glue 1');
    expect(say(insertRows(rows, [added('glue')], 'A', 'inside'))[3]).toBe('··glue 1');
  });

  it('moves by key and by place, and never into itself', () => {
    expect(say(moveRow(rows, 'B', 'up'))[0]).toBe('·B 4');
    expect(say(moveRow(rows, 'B', 'in')).at(-1)).toBe('··B 4');
    expect(say(moveRow(rows, 'A2', 'out'))).toEqual(['·A 2', '··A1 3', '·A2 1', '·B 4']);
    expect(moveTo(rows, 'A', 'A1', 'inside')).toBe(rows);
    expect(say(moveTo(rows, 'A1', 'B', 'inside')).at(-1)).toBe('··A1 3');
  });

  it('dissolves a level with its quantities, makes one, divides and combines', () => {
    const flat = rowsOf(dissolve(rows, 'A'));
    expect(say(flat)).toEqual(['·A1 6', '·A2 2', '·B 4']);
    expect(dissolve(rows, 'B').kind).toBe('problem');
    const level = rowsOf(wrap(flat, new Set(['A1', 'A2']), added('Kit')));
    expect(say(level)).toEqual(['·Kit 1', '··A1 6', '··A2 2', '·B 4']);
    expect(wrap(rows, new Set(['A1', 'B']), added('Kit')).kind).toBe('problem');
    const divided = rowsOf(divide(rows, 'B', '1', 'B.2'));
    expect(say(divided).slice(3)).toEqual(['·B 3', '·B 1']);
    expect(rowsOf(combine(divided, new Set(['B', 'B.2'])))).toEqual(rows);
    for (const share of ['0', '4', '1 m', 'some', 'as required'])
      expect(divide(rows, 'B', share, 'B.2').kind).toBe('problem');
  });

  it('takes a block of a spreadsheet, says what it cannot take, and replaces texts', () => {
    const columns = [NUMBER];
    const pasted = pasteBlock(
      rows,
      [
        ['2', '5'],
        ['0.4 m', 'much'],
        ['1', '7 mm'],
      ],
      {
        ...{ shown: rows.map(({ id }) => id), fields: ['amount', 'torque'], columns },
        at: { id: 'A1', field: 'amount' },
      },
    );
    expect(say(pasted.rows)).toEqual(['·A 2', '··A1 2', '··A2 0.4 m', '·B 1']);
    expect(pasted.rows[1]?.values).toEqual({ torque: '5' });
    expect(pasted.problems.map(({ id }) => id)).toEqual(['A2', 'B']);
    expect(
      pasteBlock(rows, [['1'], ['1']], {
        shown: ['B'],
        fields: ['amount'],
        columns,
        at: { id: 'B', field: 'amount' },
      }).problems,
    ).toHaveLength(1);
    const noted = setCell(added('x'), 'name', 'two by two', []);
    expect(
      typeof noted === 'string'
        ? []
        : replaceText([noted], { find: 'two', by: '2', fields: ['name'], columns: [] }).rows[0]?.name,
    ).toBe('2 by 2');
  });

  it('a bare number keeps the unit that is there', () => {
    const glue = { ...added('glue'), amount: { value: '2', unit: 'ml', basis: 'each' as const } };
    const said = (text: string): string => {
      const row = setCell(glue, 'amount', text, []);
      return typeof row === 'string' ? row : sayAmount(row.amount);
    };
    expect(['3', '3 pcs', '0.5 g', 'as required'].map(said)).toEqual(['3 ml', '3', '0.5 g', 'as required']);
  });

  it('a bare number keeps scrap and kind; pieces are said to get rid of them', () => {
    const row = { ...added('x'), amount: parseAmount('2 m + 5 % by-product') ?? pieces(0) };
    const over = (text: string): unknown => setCell(row, 'amount', text, []);
    expect(over('3')).toMatchObject({ amount: { value: '3', unit: 'm', scrap: '0.05', role: 'by-product' } });
    expect(over('3 each')).toMatchObject({ amount: pieces(3) });
  });

  it('refuses what a column cannot hold', () => {
    const row = added('x');
    const column = (type: BuildColumn['type']): BuildColumn[] => [
      { ...NUMBER, id: 'c', type, choices: ['red'] },
    ];
    for (const [type, good, bad] of [
      ['number', '3', 'three'],
      ['choice', 'red', 'blue'],
      ['day', '2026-02-28', '2026-02-31x'],
      ['link', 'https://example.org/a', 'javascript:alert(1)'],
    ] as const) {
      expect(typeof setCell(row, 'c', good, column(type))).toBe('object');
      expect(typeof setCell(row, 'c', bad, column(type))).toBe('string');
    }
    expect(typeof setCell(row, 'other', 'x', [])).toBe('string');
  });

  it('is a bill after any edits, undone by taking the old rows again', () => {
    fc.assert(
      fc.property(
        structures,
        fc.array(fc.tuple(fc.nat(), fc.nat(), fc.nat(6)), { maxLength: 12 }),
        (base, moves) => {
          const bill = billOf(base);
          let { rows: now } = bill;
          for (const [times, [at, other, kind]] of moves.entries()) {
            const id = now[at % Math.max(1, now.length)]?.id ?? '';
            const beside = now[other % Math.max(1, now.length)]?.id ?? '';
            if (kind === 0) now = insertRows(now, [added(`new ${times}`)], id, 'inside');
            if (kind === 1) now = moveRow(now, id, (['up', 'down', 'in', 'out'] as const)[other % 4] ?? 'up');
            if (kind === 2) now = moveTo(now, id, beside, 'below');
            if (kind === 3) now = removeRows(now, new Set([id]));
            if (kind === 4) now = orSame(now, dissolve(now, id));
            if (kind === 5) now = orSame(now, wrap(now, new Set([id]), added(`level ${times}`)));
            if (kind === 6) now = takeWhole(now, id);
            expect(refuseBill({ rows: now, columns: bill.columns })).toBeUndefined();
          }
          expect(say(bill.rows)).toEqual(say(billOf(base).rows));
        },
      ),
    );
  });
});

function orSame(rows: readonly BuildRow[], edited: Edited): readonly BuildRow[] {
  return edited.kind === 'problem' ? rows : edited.rows;
}

describe('the account', () => {
  it('is closed by what only lays out otherwise: levels, phantoms, division, one piece, units', () => {
    fc.assert(
      fc.property(structures, fc.array(fc.tuple(fc.nat(), fc.nat(3)), { maxLength: 8 }), (base, steps) => {
        const bill = billOf(base);
        let { rows } = bill;
        for (const [times, [at, kind]] of steps.entries()) {
          const { id = '', from } = rows[at % rows.length] ?? {};
          if (kind === 0) rows = orSame(rows, dissolve(rows, id));
          if (kind === 1) rows = orSame(rows, wrap(rows, new Set([id]), added(`level ${times}`)));
          if (kind === 2) rows = orSame(rows, divide(rows, id, '1', `${id}.${times}`));
          // In one piece counts as engineering has it, so only what nobody took apart is taken so.
          if (kind === 3 && from === id && steps.every(([, other]) => other === 3))
            rows = takeWhole(rows, id);
          expect(closed(withRows(bill, rows))).toBe(true);
        }
      }),
    );
  });

  it('is opened by one lost piece, and by one too many', () => {
    fc.assert(
      fc.property(structures, fc.nat(), fc.boolean(), (base, at, isLost) => {
        const bill = billOf(base);
        const leaves = bill.rows.filter((row, place) => (bill.rows[place + 1]?.level ?? 0) <= row.level);
        const leaf = leaves[at % leaves.length];
        if (!leaf) return;
        const count = Number(leaf.amount.value) + (isLost ? -1 : 1);
        const rows =
          count === 0
            ? removeRows(bill.rows, new Set([leaf.id]))
            : bill.rows.map((row) => (row === leaf ? { ...row, amount: pieces(count) } : row));
        const [wrong] = accountOf(withRows(bill, rows)).filter(({ status }) => status !== 'same');
        expect(wrong).toMatchObject({ key: leaf.itemId, status: isLost ? 'missing' : 'surplus' });
      }),
    );
  });

  it('takes a reason for the difference that it was given for, and no other', () => {
    const bill = billOf(PUMP);
    const rows = bill.rows.map((row) => (row.id === 'B' ? { ...row, amount: pieces(3) } : row));
    const reasons = { B: { difference: '−1', reason: 'the customer brings one' } };
    expect(closed({ ...bill, rows, reasons })).toBe(true);
    const fewer = rows.map((row) => (row.id === 'B' ? { ...row, amount: pieces(2) } : row));
    expect(accountOf({ ...bill, rows: fewer, reasons }).find(({ key }) => key === 'B')).toMatchObject({
      status: 'missing',
      difference: '−2',
    });
  });

  it('counts no references, nor what lies in them', () => {
    const [needed, pointed, inside] = engineering([
      { key: 'A', level: 1, count: 2 },
      { key: 'B', level: 1, count: 1 },
      { key: 'C', level: 2, count: 3 },
    ]);
    const reference = { value: '1', unit: '', basis: 'each', role: 'reference' } as const;
    const base = [needed, pointed && { ...pointed, amount: reference }, inside].filter(
      (row) => row !== undefined,
    );
    const bill = billOf(base);
    expect(accountOf(bill).map(({ number, status }) => `${number} ${status}`)).toEqual(['A same']);
    const without = bill.rows.map((row) => (row.number === 'A' ? { ...row, amount: reference } : row));
    expect(accountOf({ ...bill, rows: without })).toMatchObject([{ number: 'A', status: 'missing' }]);
  });

  it('reckons in units, and leaves what is not of engineering alone', () => {
    const amount = parseAmount('0.4 m');
    if (!amount) throw new Error('no amount');
    const [hose] = engineering([{ key: 'H', level: 1, count: 1 }]);
    if (!hose) throw new Error('no row');
    const bill = billOf([{ ...hose, amount }]);
    const [row] = bill.rows;
    if (!row) throw new Error('no row');
    const cm = { ...row, amount: { value: '40', unit: 'cm', basis: 'each' as const, scrap: '0.1' } };
    expect(closed(withRows(bill, [cm, added('Adhesive')]))).toBe(true);
    expect(closed(withRows(bill, [{ ...cm, amount: { ...cm.amount, value: '39.9' } }]))).toBe(false);
    expect(closed(withRows(bill, [{ ...cm, amount: { value: '', unit: '', basis: 'as required' } }]))).toBe(
      false,
    );
  });
});

describe('what differs', () => {
  it('is said cell by cell against engineering, with what is left out and what was divided', () => {
    const bill = billOf(PUMP);
    const rows = rowsOf(divide(removeRows(bill.rows, new Set(['A2'])), 'B', '1', 'B.2')).map((row) =>
      row.id === 'A1' ? { ...row, amount: pieces(9) } : row,
    );
    const { rows: changes, removed } = changesFromEngineering(withRows(bill, [...rows, added('Label')]));
    expect(changes.get('A1')).toEqual({ change: 'changed', was: { amount: '3' } });
    expect([changes.get('B.2')?.change, changes.get('Label')?.change]).toEqual(['divided', 'added']);
    expect(removed.map(({ number, amount }) => `${number} ${amount}`)).toEqual(['A2 1']);
    expect(changesFromEngineering(withRows(bill, takeWhole(bill.rows, 'A'))).removed).toEqual([]);
  });

  it('against a version before is the mirror of the other way', () => {
    fc.assert(
      fc.property(structures, fc.nat(), (base, at) => {
        const before = billOf(base);
        const id = before.rows[at % before.rows.length]?.id ?? '';
        const after = withRows(before, [...removeRows(before.rows, new Set([id])), added('Label')]);
        const forth = changesSince(before, after);
        const back = changesSince(after, before);
        const addedIn = ({ rows }: typeof forth): string[] =>
          [...rows].flatMap(([key, { change }]) => (change === 'added' ? [key] : []));
        expect(addedIn(forth)).toEqual(back.removed.map(({ id: key }) => key));
        expect(addedIn(back)).toEqual(forth.removed.map(({ id: key }) => key));
      }),
    );
  });
});

/** Engineering moves on: quantities change, rows go and come. */
const moved = (base: readonly EngineeringRow[], at: number, kind: number): EngineeringRow[] => {
  const row = base[at % base.length];
  const place = base.indexOf(row as EngineeringRow);
  if (!row) return [...base];
  if (kind === 0) return base.map((each) => (each === row ? { ...each, amount: pieces(7) } : each));
  if (kind === 1) {
    const gone = new Set(removeRows(billOf(base).rows, new Set([row.key])).map(({ id }) => id));
    return base.filter(({ key }) => gone.has(key));
  }
  const [fresh] = engineering([{ key: 'NEW', level: row.level, count: 2 }]);
  return fresh ? base.toSpliced(place, 0, fresh) : [...base];
};

describe('carrying over', () => {
  const newer = (
    rows: readonly EngineeringRow[],
  ): { engineering: typeof BASE; rows: readonly EngineeringRow[] } => ({
    engineering: { ...BASE, version: 'A/2', versionId: '11' },
    rows,
  });

  it('of an untouched bill is taking it anew; of unchanged engineering it changes nothing', () => {
    fc.assert(
      fc.property(structures, fc.nat(), fc.nat(2), (base, at, kind) => {
        const rows = moved(base, at, kind);
        const carried = carryOver(billOf(base), newer(rows));
        expect(carried.contradictions).toEqual([]);
        expect(say(carried.bill.rows)).toEqual(say(billOf(rows).rows));
        const edited = withRows(billOf(base), [...billOf(base).rows, added('Label')]);
        expect(carryOver(edited, newer(base)).bill.rows).toEqual(edited.rows);
      }),
    );
  });

  it('keeps every added row and cell, shows no row twice, and the account holds afterwards', () => {
    fc.assert(
      fc.property(
        structures,
        fc.nat(),
        fc.nat(2),
        fc.array(fc.tuple(fc.nat(), fc.nat(2)), { maxLength: 6 }),
        (base, at, kind, steps) => {
          const bill = billOf(base);
          let rows: readonly BuildRow[] = insertRows(bill.rows, [added('Label')], 'K0', 'below');
          for (const [times, [place, step]] of steps.entries()) {
            const { id = '' } = rows[place % rows.length] ?? {};
            if (step === 0) rows = orSame(rows, dissolve(rows, id));
            if (step === 1) rows = orSame(rows, wrap(rows, new Set([id]), added(`level ${times}`)));
            if (step === 2)
              rows = rows.map((row) => (row.id === id ? { ...row, values: { note: `note ${times}` } } : row));
          }
          const mine = withRows(bill, rows);
          expect(closed(mine)).toBe(true);
          const now = newer(moved(base, at, kind));
          // A row with a note of ours that engineering drops is for somebody to decide, and nothing else is.
          const { contradictions } = carryOver(mine, now);
          for (const { id, what } of contradictions)
            expect([what, rows.find((row) => row.id === id)?.values['note']]).toEqual([
              DELETED,
              expect.any(String),
            ]);
          const dropped = new Map(
            contradictions.map((each) => [keyOfContradiction(each), 'theirs' as const]),
          );
          const carried = carryOver(mine, now, dropped);
          const ids = carried.bill.rows.map(({ id }) => id);
          expect(new Set(ids).size).toBe(ids.length);
          expect(refuseBill(carried.bill)).toBeUndefined();
          for (const { id, kind: own } of rows) if (own !== 'engineering') expect(ids).toContain(id);
          for (const row of carried.bill.rows) {
            const before = rows.find(({ id }) => id === row.id);
            if (before) expect(row.values).toEqual(before.values);
          }
          expect(accountOf(carried.bill).filter(({ status }) => status !== 'same')).toEqual([]);
        },
      ),
    );
  });

  it('says where both changed the same, and takes the side that somebody chose', () => {
    const bill = billOf(PUMP);
    const rows = bill.rows.map((row) => (row.id === 'B' ? { ...row, amount: pieces(3) } : row));
    const now = newer(PUMP.map((row) => (row.key === 'B' ? { ...row, amount: pieces(5) } : row)));
    const { contradictions } = carryOver(withRows(bill, rows), now);
    expect(contradictions).toHaveLength(1);
    const decided = carryOver(withRows(bill, rows), now, new Map([['amount of B', 'theirs']]));
    expect(say(decided.bill.rows).at(-1)).toBe('·B 5');
    expect(closed(decided.bill)).toBe(true);
  });

  it('replaces an item in what was divided off too', () => {
    const bill = billOf(PUMP);
    const rows = rowsOf(divide(bill.rows, 'B', '1', 'B.2'));
    const now = PUMP.map((row) =>
      row.key === 'B' ? { ...row, number: 'B9', itemId: 'B9', stem: 'B' } : row,
    );
    expect(say(carryOver(withRows(bill, rows), newer(now)).bill.rows).slice(3)).toEqual(['·B9 3', '·B9 1']);
  });
});

it('is ready where nothing is wrong, and says what is at its cell', () => {
  const facts = {
    ...{ baseState: 'released', behind: 0, states: new Map<string, string>() },
    book: SHIPPED_STATES,
  };
  const bill = billOf(PUMP);
  expect(checkReadiness(bill, facts)).toEqual([]);
  const columns = [NUMBER];
  expect(checkReadiness({ ...bill, columns }, facts).map(({ rule, id }) => `${rule} ${id}`)).toEqual([
    'columns A1',
    'columns A2',
    'columns B',
  ]);
  const wrong = checkReadiness(withRows(bill, removeRows(bill.rows, new Set(['A2']))), {
    baseState: 'draft',
    behind: 2,
    states: new Map([['B', 'withdrawn']]),
    book: SHIPPED_STATES,
  });
  expect(wrong.map(({ rule }) => rule)).toEqual(['base released', 'behind', 'withdrawn', 'account']);
  expect(checkReadiness(bill, { ...facts, behind: 1 }, ['account'])).toEqual([]);
});

it('is not ready while rows of one place overlap in time, or leave a hole', () => {
  const facts = { baseState: 'released', behind: 0, states: new Map<string, string>(), book: SHIPPED_STATES };
  const column = (id: string, type: BuildColumn['type']): BuildColumn => ({
    ...{ id, name: id, type, unit: '', choices: [], isRequired: false },
  });
  const columns = [column('plan', 'planned effectivity'), column('was', 'actual effectivity')];
  const rows = billOf(
    engineering([
      { key: 'A', level: 1, count: 2 },
      { key: 'B', level: 1, count: 4 },
    ]),
  ).rows.map((row) => ({ ...row, find: '10' }));
  const write = (...cells: readonly [string, string, string][]): string[] => {
    const texts = new Map<string, Map<string, string>>();
    for (const [id, field, text] of cells)
      texts.set(id, (texts.get(id) ?? new Map<string, string>()).set(field, text));
    const set = setCells(rows, texts, columns);
    if (set.problems.length > 0) return set.problems.map(({ says }) => says);
    return checkReadiness({ ...withRows(billOf(PUMP), set.rows), columns }, facts, ['effectivity']).map(
      ({ says, id }) => `${id} ${says}`,
    );
  };
  expect(write()).toEqual([]);
  expect(write(['A', 'plan', 'to 2026-05-31'], ['B', 'plan', 'from 2026-06-01'])).toEqual([]);
  const late = [
    ['A', 'plan', 'to 2026-05-31'],
    ['B', 'plan', 'from 2026-06-01'],
    ['B', 'was', 'from 2026-06-09'],
  ] as const;
  expect(write(...late.map((each) => [...each] as [string, string, string]))).toEqual([
    'B find number 10: neither A nor B counts from 2026-06-01 to 2026-06-08',
  ]);
  expect(write(['A', 'plan', 'P-1 to 9'], ['B', 'plan', 'P-1  from  9'])).toEqual([
    'B find number 10: A and B both count for P-1 9',
  ]);
  expect(write(['A', 'plan', 'to 2026-01-31'], ['A', 'was', 'from 2026-02-01'])).toEqual([
    expect.stringMatching(/^A A: With what became of it, it ends/),
  ]);
  expect(write(['A', 'plan', 'some day'])).toEqual([expect.stringMatching(/plan: “some day” is no range/)]);
});

it('shows on a day the rows that count then, none below one that does not, and all that cannot be read', () => {
  const day = (at: number): string => `2026-05-${String(at).padStart(2, '0')}`;
  const said = fc.record({
    level: fc.integer({ min: 1, max: 4 }),
    from: fc.option(fc.integer({ min: 1, max: 28 }), { nil: undefined }),
    isOdd: fc.nat(9).map((at) => at === 0),
  });
  fc.assert(
    fc.property(fc.array(said, { maxLength: 12 }), fc.integer({ min: 1, max: 28 }), (rows, on) => {
      const column = {
        ...{
          id: 'p',
          name: 'p',
          type: 'planned effectivity' as const,
          unit: '',
          choices: [],
          isRequired: false,
        },
      };
      const [pattern] = billOf(PUMP).rows;
      if (!pattern) throw new Error('no row');
      let level = 0;
      const made = rows.map((row, at) => {
        level = Math.min(row.level, level + 1);
        const from = row.isOdd ? 'some day' : row.from === undefined ? '' : `from ${day(row.from)}`;
        return { ...pattern, id: String(at), level, values: { p: from } };
      });
      const seen = rowsThatCount({ rows: made, columns: [column] }, { kind: 'day', day: day(on) });
      // Row by row, with all rows above it in the tree looked for anew.
      const expected = made.filter((row, at) => {
        const path = [at];
        for (let above = at - 1, under = row.level; above >= 0; above--)
          if ((made[above]?.level ?? 0) < under) {
            path.push(above);
            under = made[above]?.level ?? 0;
          }
        return path.every((each) => rows[each]?.isOdd === true || (rows[each]?.from ?? 0) <= on);
      });
      expect(seen).toEqual(expected);
    }),
  );
});

it('reads as a BOM, and engineering keeps its keys', () => {
  const bill = billOf(PUMP);
  const tree = billTree(bill);
  expect(tree.children.map(({ number, children }) => `${number} ${children.length}`)).toEqual(['A 2', 'B 0']);
  expect(engineeringRows(tree).map(({ key }) => key)).toEqual(['A', 'A › A1', 'A › A2', 'B']);
});
