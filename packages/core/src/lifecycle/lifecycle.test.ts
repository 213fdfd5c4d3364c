import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { LIFECYCLE_ROLES, type LifecycleRole } from './diagram.js';
import { SHIPPED, SHIPPED_STATES } from './shipped.js';
import { attempt, rightFor, stepsNow, type StepTaker } from './standing.js';
import { byAttention, refuseChange } from './states.js';
import { revisionCode } from './revision-scheme.js';

const STATES = SHIPPED.states.map(({ name }) => name);

describe('the lifecycle that ships', () => {
  it.each<[string, LifecycleRole, string[]]>([
    ['draft', 'engineer', ['ask for check']],
    ['draft', 'checker', []],
    ['in check', 'checker', ['release', 'send back']],
    ['in check', 'administrator', ['take back', 'release', 'send back']],
    ['in check', 'engineer', []],
    ['released', 'administrator', ['withdraw']],
    ['superseded', 'administrator', []],
    ['withdrawn', 'administrator', []],
    ['draft', 'viewer', []],
  ])('from %s a %s may %j', (state, role, names) => {
    expect(offered(state, role, 'somebody else')).toEqual(names);
  });

  it('offers exactly what it does not refuse', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...STATES),
        fc.constantFrom(...LIFECYCLE_ROLES),
        fc.constantFrom(...SHIPPED.steps),
        fc.constantFrom('me', 'somebody else'),
        (state, role, { name }, sender) => {
          const by: StepTaker = { id: 'me', role, rights: new Set() };
          const tried = attempt(
            SHIPPED,
            { state, signatures: [] },
            { step: name, by, reason: 'because' },
            { authors: new Set(), sender: { id: sender, name: sender } },
          );
          expect(tried.kind === 'taken').toBe(offered(state, role, sender).includes(name));
        },
      ),
    );
  });

  it('lets only drafts be taken for change, and says what to do about the others', () => {
    expect(STATES.filter((state) => refuseChange(SHIPPED_STATES, state) === undefined)).toEqual(['draft']);
    expect(refuseChange(SHIPPED_STATES, 'released')).toMatch(/revise it first/);
    expect(refuseChange(SHIPPED_STATES, 'in check')).toMatch(/sent back/);
    expect(refuseChange(SHIPPED_STATES, 'elsewhere')).toMatch(/no lifecycle knows/);
  });

  it('tells which states want attention most', () => {
    expect([...STATES].sort(byAttention(SHIPPED_STATES))).toEqual([
      ...['withdrawn', 'draft', 'in check', 'superseded', 'released'],
    ]);
  });

  it('asks those who send on for another right than those who decide', () => {
    expect(SHIPPED.steps.map((step) => `${step.name}: ${rightFor(SHIPPED, step)}`)).toEqual([
      ...['ask for check: change', 'take back: change', 'release: release', 'send back: release'],
      'withdraw: release',
    ]);
  });
});

function offered(state: string, role: LifecycleRole, sender: string): string[] {
  const by: StepTaker = { id: 'me', role, rights: new Set() };
  const subject = { authors: new Set<string>(), sender: { id: sender, name: sender } };
  return stepsNow(SHIPPED, { state, signatures: [] }, by, subject).map(({ name }) => name);
}

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
