import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { document, drawing, file, store } from '../testing/builders.js';
import { FileIndex, joinPath } from './locate.js';
import { planIntake } from './plan.js';
import type { IntakeFile, IntakeOptions, IntakePlan } from './plan-types.js';

function plan(files: readonly IntakeFile[], options: Partial<IntakeOptions> = {}): IntakePlan {
  return planIntake({ files, store: store(), place: '/in', ...options });
}

const numbers = (planned: IntakePlan): string[] => planned.rows.map((row) => row.number);
const statuses = (planned: IntakePlan): string[] =>
  planned.rows.map((row) => `${row.number}: ${row.status.kind}`);
const linkText = (planned: IntakePlan, number: string): string[] =>
  planned.rows
    .find((row) => row.number === number)
    ?.links.map((link) => {
      const target =
        link.target.kind === 'row'
          ? link.target.key
          : link.target.kind === 'item'
            ? `store ${link.target.item.number}`
            : 'gap';
      return `${target} ×${link.occurrences.length}${link.carried ? ' carried' : ''}`;
    }) ?? [];

describe('locators', () => {
  const index = new FileIndex([
    'a/Head.stp',
    'a/nut.step',
    'b/bolt.stp',
    'c/bolt.stp',
    'top.stp',
    'a/odd%41.stp',
  ]);
  it.each([
    ['Head.stp', 'a/x.stp', 'a/Head.stp', 'exact'],
    ['./Head.stp', 'a/x.stp', 'a/Head.stp', 'exact'],
    ['../top.stp', 'a/x.stp', 'top.stp', 'exact'],
    ['a\\Head.stp', 'x.stp', 'a/Head.stp', 'exact'],
    ['HEAD.STP', 'a/x.stp', 'a/Head.stp', 'case'],
    ['D:\\other\\b\\bolt.stp', 'a/x.stp', 'b/bolt.stp', 'folder'],
    ['/abs/a/nut.step', 'top.stp', 'a/nut.step', 'folder'],
    ['C:\\work\\Head.stp', 'a/x.stp', 'a/Head.stp', 'folder'],
    ['Head.stp', 'top.stp', 'a/Head.stp', 'folder'],
    ['nut.stp', 'a/x.stp', 'a/nut.step', 'ending'],
    ['%48ead.stp', 'a/x.stp', 'a/Head.stp', 'exact'],
    ['odd%41.stp', 'a/x.stp', 'a/odd%41.stp', 'exact'],
  ])('%s from %s is %s (%s)', (locator, from, path, allowance) => {
    expect(index.find(locator, from)).toEqual({ kind: 'found', path, allowance });
  });

  it('prefer the same folder, and say so where several would do', () => {
    expect(index.find('bolt.stp', 'b/x.stp')).toMatchObject({ kind: 'found', path: 'b/bolt.stp' });
    expect(index.find('bolt.stp', 'top.stp')).toEqual({
      kind: 'doubled',
      paths: ['b/bolt.stp', 'c/bolt.stp'],
    });
    // A file that happens to have the same name in another folder is not what a locator with a folder means.
    expect(index.find('lost/folder/Head.stp', 'a/x.stp')).toEqual({ kind: 'missing', outside: false });
    expect(index.find('none.stp', 'top.stp')).toEqual({ kind: 'missing', outside: false });
    expect(index.find('../../etc/none.stp', 'a/x.stp')).toEqual({ kind: 'missing', outside: true });
  });

  it('never lead out of the folder', () => {
    fc.assert(
      fc.property(fc.array(fc.constantFrom('..', '.', 'a', 'b', ''), { maxLength: 12 }), (parts) => {
        expect(joinPath('x', parts.join('/'))?.split('/') ?? []).not.toContain('..');
      }),
    );
  });
});

describe('numbers', () => {
  it('are the ids in the files, with a prefix where one is given', () => {
    expect(
      numbers(
        plan([file('top.stp', ['TOP', 'P -> p.stp'], ['0>1']), file('p.stp', ['P'])], { prefix: 'X-' }),
      ),
    ).toEqual(['X-TOP', 'X-P']);
  });

  it('are those by which files are used, where every file calls itself the same', () => {
    const planned = plan([
      file('top.stp', ['s1', 'head -> head.stp', 'tail -> tail.stp'], ['0>1', '0>2']),
      file('head.stp', ['MASTER']),
      file('tail.stp', ['MASTER']),
      file('loose.stp', ['MASTER']),
    ]);
    expect(numbers(planned)).toEqual(['s1', 'head', 'tail', 'loose']);
    expect(planned.problems).toEqual([]);
    expect(planned.rows[1]?.notes[0]).toMatch(/calls itself 'MASTER'/);
  });

  it('are told apart where one file uses an id twice', () => {
    expect(numbers(plan([file('a.stp', ['A', 'P', 'P'], ['0>1', '0>2'])]))).toEqual(['A', 'P', 'P-2']);
  });

  it('that two files claim go to the first; the other gets one of its own, and says so', () => {
    const planned = plan([
      file('a.stp', ['A', 'P -> b/p.stp', 'p -> c/P.stp'], ['0>1', '0>2']),
      file('b/p.stp', ['P']),
      file('c/P.stp', ['p']),
    ]);
    expect(statuses(planned)).toEqual(['A: new', 'P: new', 'c-p: new']);
    expect(planned.rows[2]?.notes[0]).toMatch(/calls itself 'p', as another one does/);
    expect(linkText(planned, 'A')).toEqual(['b/p.stp#1 ×1', 'c/P.stp#1 ×1']);
  });

  it('can be corrected by hand', () => {
    const corrections = new Map([['a.stp#1', { number: 'N-1', name: 'Bracket' }]]);
    expect(plan([file('a.stp', ['A'])], { corrections, prefix: 'X-' }).rows[0]).toMatchObject({
      number: 'N-1',
      name: 'Bracket',
    });
    expect(
      plan([file('a.stp', ['A'])], { corrections: new Map([['a.stp#1', { number: ' ' }]]) }).problems[0]
        ?.reason,
    ).toMatch(/empty/);
  });
});

describe('what an intake does', () => {
  it('knows new, new version and unchanged', () => {
    const planned = plan(
      [file('a.stp', ['A'], [], 'one'), file('b.stp', ['B'], [], 'two'), file('c.stp', ['C'])],
      {
        store: store([
          { number: 'A', sha256: 'one' },
          { number: 'B', place: '/in', fileName: 'b.stp', sha256: 'old' },
        ]),
      },
    );
    expect(statuses(planned)).toEqual(['A: unchanged', 'B: newVersion', 'C: new']);
  });

  it('takes the same file twice as one', () => {
    const planned = plan([
      file('a.stp', ['A', 'P -> x/p.stp'], ['0>1']),
      file('x/p.stp', ['P'], [], 'p'),
      file('y/p.stp', ['P'], [], 'p'),
    ]);
    expect(statuses(planned)).toEqual(['A: new', 'P: new', 'P: sameAs']);
    expect(planned.problems).toEqual([]);
  });

  it('counts occurrences, and keeps products that live in one file together', () => {
    const planned = plan([file('a.stp', ['A', 'SUB', 'NUT'], ['0>1', '0>1', '1>2', '1>2', '1>2'])]);
    expect(linkText(planned, 'A')).toEqual(['a.stp#2 ×2 carried']);
    expect(linkText(planned, 'SUB')).toEqual(['a.stp#3 ×3 carried']);
    expect(planned.rows.map((row) => row.carrier)).toEqual([undefined, 'a.stp#1', 'a.stp#1']);
  });

  it('finds what is not among the files in the store, by file or by number', () => {
    const planned = plan(
      [file('a.stp', ['A', 'P -> p.stp', 'Q -> elsewhere/q.stp', 'R -> r.stp'], ['0>1', '0>2', '0>3'])],
      {
        store: store([
          { number: 'OTHER', fileName: 'P.STP', place: '/in' },
          { number: 'Q', fileName: 'other.stp' },
        ]),
      },
    );
    expect(linkText(planned, 'A')).toEqual(['store OTHER ×1', 'store Q ×1', 'gap ×1']);
    expect(planned.gaps).toEqual([{ file: 'a.stp', locator: 'r.stp' }]);
  });

  it('leaves a row out with what lives in its file, and what refers to it has a gap', () => {
    const planned = plan([file('a.stp', ['A', 'B -> b.stp'], ['0>1']), file('b.stp', ['B', 'C'], ['0>1'])], {
      corrections: new Map([['b.stp#1', { leaveOut: true }]]),
    });
    expect(statuses(planned)).toEqual(['A: new', 'B: leftOut', 'C: leftOut']);
    expect(linkText(planned, 'A')).toEqual(['gap ×1']);
  });

  it('refuses files that contain one another, naming the chain; the rest comes in', () => {
    const planned = plan([
      file('a.stp', ['A', 'B -> b.stp'], ['0>1']),
      file('b.stp', ['B', 'A -> a.stp'], ['0>1']),
      file('c.stp', ['C', 'A -> a.stp'], ['0>1']),
    ]);
    expect(statuses(planned)).toEqual(['A: problem', 'B: problem', 'C: new']);
    expect(planned.problems[0]?.reason).toBe('contains itself: A › B › A');
    expect(linkText(planned, 'C')).toEqual(['gap ×1']);
  });

  it('takes a file that refers to itself as defining the product', () => {
    expect(linkText(plan([file('a.stp', ['A -> a.stp', 'B -> A.STP'], ['0>1'])]), 'A')).toEqual([
      'a.stp#2 ×1 carried',
    ]);
  });

  it('passes on what could not be read', () => {
    const problem = { line: 3, reason: 'cut' };
    const planned = plan([
      { path: 'x.stp', sha256: 'x', problem },
      { path: 'y.log', sha256: 'y', passedOver: 'other kind' },
      file('a.stp', ['A']),
    ]);
    expect(planned.problems).toEqual([{ file: 'x.stp', ...problem }]);
    expect(planned.passedOver).toEqual([{ file: 'y.log', reason: 'other kind' }]);
    expect(statuses(planned)).toEqual(['A: new']);
  });
});

describe('drawings and documents', () => {
  const belonging = (planned: IntakePlan): string[] =>
    planned.rows.flatMap((row) =>
      row.links.map(({ relation, target }) => {
        const to = target.kind === 'row' ? target.key : target.kind === 'item' ? target.item.number : 'gap';
        return `${row.number} ${relation} ${to}`;
      }),
    );

  it('belong to the model with the same base name, and are called after it', () => {
    const planned = plan([
      file('a/arm.stp', ['P-1']),
      drawing('a/ARM.dxf'),
      document('b/arm.pdf'),
      document('a/else.pdf'),
    ]);
    expect(numbers(planned)).toEqual(['P-1', 'P-1-DXF', 'P-1-PDF', 'else']);
    expect(planned.rows.map(({ name }) => name)).toEqual(['P-1', 'P-1', 'P-1', 'else']);
    expect(belonging(planned)).toEqual(['P-1-DXF depicts a/arm.stp#1', 'P-1-PDF describes a/arm.stp#1']);
  });

  it('belong to a model of the store that lies where they come in', () => {
    const known = store([{ number: 'P-1', fileName: 'arm.stp', place: '/in/a' }]);
    expect(belonging(plan([document('a/arm.pdf'), document('b/arm.pdf')], { store: known }))).toEqual([
      'P-1-PDF describes P-1',
    ]);
  });

  it('depict what their title block names, whatever their file is called', () => {
    const files = [file('arm.stp', ['P-1']), file('other.stp', ['P-2']), drawing('arm.dxf', 'D-9', 'P-2')];
    expect(belonging(plan(files))).toEqual(['D-9 depicts other.stp#1']);
    expect(
      belonging(plan([drawing('arm.dxf', 'D-9', 'P-3')], { store: store([{ number: 'P-3' }]) })),
    ).toEqual(['D-9 depicts P-3']);
    expect(belonging(plan([drawing('arm.dxf', 'D-9', 'P-3')]))).toEqual(['D-9 depicts gap']);
    expect(belonging(plan(files, { prefix: 'V-' }))).toEqual(['V-D-9 depicts other.stp#1']);
  });

  it('belong to what a person says, or to nothing', () => {
    const files = [file('arm.stp', ['P-1']), file('other.stp', ['P-2']), document('arm.pdf')];
    const say = (belongsTo: string): string[] =>
      belonging(plan(files, { corrections: new Map([['arm.pdf#0', { belongsTo }]]) }));
    expect(say('p-2')).toEqual(['P-1-PDF describes other.stp#1']);
    expect(say('')).toEqual([]);
    expect(say('P-77')).toEqual([]);
  });

  it('never become a version of a part, nor take its number', () => {
    const planned = plan([file('arm.stp', ['P-1']), drawing('sheet.dxf', 'P-1', 'P-1')]);
    expect(statuses(planned)).toEqual(['P-1: new', 'P-1-DXF: new']);
    const known = store([{ number: 'P-1' }]);
    const corrections = new Map([['sheet.dxf#0', { number: 'P-1' }]]);
    expect(statuses(plan([drawing('sheet.dxf')], { store: known, corrections }))).toEqual(['P-1: problem']);
    expect(numbers(plan([drawing('sheet.dxf', 'P-1')], { store: known }))).toEqual(['P-1-DXF']);
  });
});
