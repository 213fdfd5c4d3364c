import { describe, expect, it } from 'vitest';
import { planIntake } from '../intake/plan.js';
import type { IntakePlan, WorkingCopy } from '../intake/plan-types.js';
import { file, store } from '../testing/builders.js';
import { guardPlan, missingFrom, type CheckInOptions } from './check-in.js';
import { SHIPPED_STATES } from '../lifecycle/shipped.js';

const NOBODY = {
  holderOf: () => undefined,
  isMine: () => false,
  mayChange: () => true,
  mayBringInto: () => true,
};
const MINE = { holderOf: () => 'Me', isMine: () => true, mayChange: () => true, mayBringInto: () => true };
const HERS = { holderOf: () => 'Ada', isMine: () => false, mayChange: () => true, mayBringInto: () => true };

const workingCopy = (...files: readonly [path: string, number: string, version: string][]): WorkingCopy => ({
  files: new Map(
    files.map(([path, number, version]) => [
      path,
      { sha256: 'fetched', items: [{ number, version }], references: [] },
    ]),
  ),
});

/** A changed file of a known item P, with a new file N beside it. */
function changed(): IntakePlan {
  return planIntake({
    files: [file('p.stp', ['P'], [], 'new bytes'), file('n.stp', ['N'])],
    store: store([{ number: 'P', sha256: 'old bytes' }]),
    place: '/',
  });
}

type Options = Omit<CheckInOptions, 'place' | 'states'>;

const guard = (plan: IntakePlan, options: Options): IntakePlan =>
  guardPlan(plan, { place: '/in', states: SHIPPED_STATES, ...options });

const statusOf = (plan: IntakePlan, options: Options): string[] =>
  guard(plan, options).rows.map(({ number, status }) =>
    'reason' in status ? `${number}: ${status.kind}, ${status.reason}` : `${number}: ${status.kind}`,
  );

describe('a check-in', () => {
  const copy = workingCopy(['p.stp', 'P', 'A/1']);

  it('takes what I hold, and new files', () => {
    expect(statusOf(changed(), { custody: MINE, workingCopy: copy })).toEqual(['P: newVersion', 'N: new']);
  });

  it('refuses what nobody or somebody else holds, and still takes new files', () => {
    expect(statusOf(changed(), { custody: NOBODY, workingCopy: copy })).toEqual([
      'P: refused, it is not checked out; check it out first',
      'N: new',
    ]);
    expect(statusOf(changed(), { custody: HERS, workingCopy: copy })[0]).toBe(
      'P: refused, Ada holds it; only the holder can put a version back',
    );
  });

  it('refuses what lies, or would lie, where one may not change anything', () => {
    expect(statusOf(changed(), { custody: { ...MINE, mayChange: () => false }, workingCopy: copy })[0]).toBe(
      'P: refused, your access at its place does not allow you to change it',
    );
    expect(statusOf(changed(), { custody: { ...MINE, mayBringInto: (place) => place !== '/in' } })[1]).toBe(
      'N: problem, your access to /in does not allow you to bring anything in',
    );
  });

  it('refuses what was made from an older version, unless that was chosen', () => {
    const old = workingCopy(['p.stp', 'P', 'A/0']);
    const [row] = guard(changed(), { custody: MINE, workingCopy: old }).rows;
    expect(row?.status).toMatchObject({ kind: 'refused', canOverwrite: true });
    expect(statusOf(changed(), { custody: MINE, workingCopy: old, overwrite: new Set(['p.stp#1']) })[0]).toBe(
      'P: newVersion',
    );
  });

  it('keeps out with a refused file all that lives in it', () => {
    const plan = planIntake({
      files: [file('f.stp', ['F', 'IN', 'ADDED'], ['0>1', '0>2'], 'new bytes')],
      store: store([
        { number: 'F', sha256: 'old' },
        { number: 'IN', fileName: '', sha256: 'old', carrier: 'F' },
      ]),
      place: '/',
    });
    expect(statusOf(plan, { custody: NOBODY, workingCopy: workingCopy(['f.stp', 'F', 'A/1']) })).toEqual([
      'F: refused, it is not checked out; check it out first',
      'IN: refused, it is not checked out; check it out first',
      'ADDED: leftOut',
    ]);
  });

  it('says which files did not come back', () => {
    const both = workingCopy(['p.stp', 'P', 'A/1'], ['b/q.stp', 'Q', 'A/1']);
    expect(missingFrom(both, ['p.stp', 'other.stp'])).toEqual(['b/q.stp']);
  });
});

describe('an intake of other files', () => {
  it('is refused only what somebody else holds', () => {
    expect(statusOf(changed(), { custody: NOBODY })).toEqual(['P: newVersion', 'N: new']);
    expect(statusOf(changed(), { custody: MINE })).toEqual(['P: newVersion', 'N: new']);
    expect(statusOf(changed(), { custody: HERS })[0]).toMatch(/^P: refused, Ada holds it/);
  });
});

it('a file that is as it was fetched changes nothing, though other bytes are stored', () => {
  const plan = planIntake({
    files: [{ ...file('p.stp', ['P'], [], 'rewritten bytes'), asFetched: true }],
    store: store([{ number: 'P', sha256: 'stored bytes' }]),
    place: '/',
  });
  expect(plan.rows[0]?.status.kind).toBe('unchanged');
});
