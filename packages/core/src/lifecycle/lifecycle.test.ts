import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  LIFECYCLE,
  refuseHold,
  refuseStep,
  stepsFrom,
  type LifecycleRole,
  type LifecycleState,
} from './lifecycle.js';
import { revisionCode } from './revision-scheme.js';

const STATES: readonly LifecycleState[] = ['draft', 'in check', 'released', 'superseded', 'withdrawn'];
const ROLES: readonly LifecycleRole[] = ['engineer', 'checker', 'planner', 'viewer', 'administrator'];

const stepNamed = (name: string): (typeof LIFECYCLE)[number] => {
  const step = LIFECYCLE.find((candidate) => candidate.name === name);
  if (!step) throw new Error(`no step ${name}`);
  return step;
};

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
          expect(refuseStep(step, { state }, { role, reason: 'because' }) === undefined).toBe(offered);
        },
      ),
    );
  });

  it('says why a step is refused', () => {
    const engineer = { role: 'engineer', reason: '' } as const;
    const checker = { role: 'checker', reason: ' ' } as const;
    expect(refuseStep(stepNamed('release'), { state: 'in check' }, engineer)).toBe(
      'only checker or administrator may release',
    );
    expect(refuseStep(stepNamed('ask for check'), { state: 'released' }, engineer)).toBe(
      'it is released, not draft',
    );
    expect(refuseStep(stepNamed('ask for check'), { state: 'draft', heldBy: 'Bo' }, engineer)).toBe(
      'Bo holds it; it must be let go first',
    );
    expect(refuseStep(stepNamed('take back'), { state: 'in check', sentBy: 'Bo' }, engineer)).toBe(
      'Bo sent it for checking; only they or an administrator may take it back',
    );
    const administrator = { role: 'administrator', reason: '' } as const;
    expect(
      refuseStep(stepNamed('take back'), { state: 'in check', sentBy: 'Bo' }, administrator),
    ).toBeUndefined();
    expect(refuseStep(stepNamed('send back'), { state: 'in check' }, checker)).toBe(
      'a reason is needed to send back',
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
