import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { LIFECYCLE, refuseHold, SHIPPED, stepsFrom, type LifecycleState } from './lifecycle.js';
import type { LifecycleRole } from './diagram.js';
import { attempt, type StepTaker } from './standing.js';
import { revisionCode } from './revision-scheme.js';

const STATES: readonly LifecycleState[] = ['draft', 'in check', 'released', 'superseded', 'withdrawn'];
const ROLES: readonly LifecycleRole[] = ['engineer', 'checker', 'planner', 'viewer', 'administrator'];

describe('the lifecycle', () => {
  it.each<[LifecycleState, LifecycleRole, string[]]>([
    ['draft', 'engineer', ['ask for check']],
    ['draft', 'checker', []],
    ['in check', 'checker', ['release', 'send back']],
    ['in check', 'engineer', ['take back']],
    ['released', 'administrator', ['withdraw']],
    ['superseded', 'administrator', []],
    ['withdrawn', 'administrator', []],
    ['draft', 'viewer', []],
  ])('from %s a %s may %j', (state, role, names) => {
    expect(stepsFrom(state, role).map(({ name }) => name)).toEqual(names);
  });

  it('refuses exactly what is not offered', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...STATES),
        fc.constantFrom(...ROLES),
        fc.constantFrom(...LIFECYCLE),
        (state, role, step) => {
          const offered = stepsFrom(state, role).includes(step);
          const by: StepTaker = { id: 'me', role, rights: new Set() };
          const tried = attempt(
            SHIPPED,
            { state, signatures: [] },
            { step: step.name, by, reason: 'because' },
            { authors: new Set(), sender: { id: 'me', name: 'Me' } },
          );
          // Whoever sent it is one of those who could.
          const isSender = step.bySender && step.from.includes(state);
          expect(tried.kind).toBe(offered || isSender ? 'taken' : 'refused');
        },
      ),
    );
  });

  it('lets only drafts be taken for change, and says what to do about the others', () => {
    expect(STATES.filter((state) => refuseHold(state) === undefined)).toEqual(['draft']);
    expect(refuseHold('released')).toMatch(/revise it first/);
    expect(refuseHold('in check')).toMatch(/sent back/);
  });
});

describe('revision codes', () => {
  it.each([
    [1, 'A'],
    [26, 'Z'],
    [27, 'AA'],
    [52, 'AZ'],
    [53, 'BA'],
    [702, 'ZZ'],
    [703, 'AAA'],
  ])('%i is %s', (position, code) => {
    expect(revisionCode(position)).toBe(code);
  });

  it('differ for different positions, and grow', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 20_000 }), (position) => {
        const [one, next] = [revisionCode(position), revisionCode(position + 1)];
        expect(one.length < next.length || one < next).toBe(true);
      }),
    );
  });
});
