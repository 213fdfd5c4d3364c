import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { checkDiagram, reachedFrom, type CheckContext } from './diagram-check.js';
import {
  bookOf,
  LANES,
  LIFECYCLE_ROLES,
  type Diagram,
  type DiagramStep,
  type SetConsequence,
  type StepBy,
} from './diagram.js';
import { SHIPPED } from './shipped.js';
import { refuseChange } from './states.js';
import { sayStep } from './say-step.js';
import { attempt, type Standing, type StepTaker } from './standing.js';

const PEOPLE: readonly StepTaker[] = LIFECYCLE_ROLES.flatMap((role) =>
  [1, 2].map((at) => ({
    id: `${role} ${at}`,
    role,
    rights: new Set(role === 'viewer' ? [] : (['change'] as const)),
  })),
);
const CONTEXT: CheckContext = { people: PEOPLE, webhooks: [] };

const setsTo = (property: string, to: SetConsequence['to'], text = ''): SetConsequence => ({
  ...{ kind: 'set', property, to, text },
});
const STATES = ['one', 'two', 'three', 'four'] as const;

const who: fc.Arbitrary<StepBy> = fc.oneof(
  fc.constantFrom(...LIFECYCLE_ROLES).map((role): StepBy => ({ kind: 'role', role })),
  fc.constantFrom(...PEOPLE).map(({ id }): StepBy => ({ kind: 'person', id, name: id })),
  fc.constant<StepBy>({ kind: 'right', right: 'change' }),
  fc.constant<StepBy>({ kind: 'sender' }),
);
const signatures = fc
  .record({
    of: fc.array(who, { minLength: 1, maxLength: 3 }),
    count: fc.integer({ min: 1, max: 3 }),
    isInOrder: fc.boolean(),
  })
  .map((ask) => (ask.isInOrder ? { ...ask, count: ask.of.length } : ask));
const step = (at: number): fc.Arbitrary<DiagramStep> =>
  fc
    .record({
      from: fc.uniqueArray(fc.constantFrom(...STATES), { minLength: 1, maxLength: 2 }),
      to: fc.constantFrom(...STATES),
      who: fc.array(who, { minLength: 1, maxLength: 2 }),
      notByAuthors: fc.boolean(),
      asksReason: fc.boolean(),
      signed: fc.option(signatures, { nil: undefined }),
    })
    .map(({ signed, ...rest }) => ({
      ...rest,
      ...{ name: `step ${at}`, done: `did ${at} to …`, isOverUnreleased: false, then: [] },
      ...(signed ? { signatures: signed } : {}),
    }));
const diagram: fc.Arbitrary<Diagram> = fc
  .tuple(
    fc.tuple(...STATES.map(() => fc.tuple(fc.constantFrom(...LANES), fc.boolean()))),
    fc.tuple(...Array.from({ length: 6 }, (_, at) => step(at))),
  )
  .map(([lanes, steps]) => ({
    ...{ name: 'Random', first: STATES[0], steps },
    states: STATES.map((name, at) => {
      const [lane, isReleased] = lanes[at] ?? ['open', false];
      return {
        ...{ name, lane: at === 0 ? 'open' : lane, isReleased: lane === 'locked' && isReleased },
        glyph: 'diamond',
      };
    }),
  }));
/** Somebody tries something; `at` is a place in what there is. */
const tries = fc.array(
  fc.record({ step: fc.nat(5), by: fc.nat(PEOPLE.length - 1), reason: fc.constantFrom('', 'so') }),
  {
    minLength: 60,
    maxLength: 120,
  },
);

describe('a diagram', () => {
  it('that ships has nothing wrong, and nothing is left of it that cannot be reached', () => {
    expect(checkDiagram(SHIPPED, CONTEXT)).toEqual([]);
    expect([...reachedFrom(SHIPPED)].sort()).toEqual(SHIPPED.states.map(({ name }) => name).sort());
  });

  it.each<[string, Partial<Diagram> | ((plain: Diagram) => Diagram), RegExp]>([
    [
      'a state that nothing leads to',
      (plain) => ({
        ...plain,
        states: [...plain.states, { name: 'lost', lane: 'locked', isReleased: false, glyph: 'diamond' }],
      }),
      /lost: no step leads there/,
    ],
    [
      'a state that nothing leads out of',
      (plain) => ({ ...plain, steps: plain.steps.filter(({ from }) => !from.includes('in check')) }),
      /in check: no step leads out of it/,
    ],
    [
      'a step that nobody may take',
      (plain) => changed(plain, 'release', { who: [] }),
      /release: there is nobody/,
    ],
    [
      'a step into nowhere',
      (plain) => changed(plain, 'release', { to: 'gone' }),
      /release: there is no state gone/,
    ],
    [
      'issued files of what is not released',
      (plain) => changed(plain, 'send back', { then: [{ kind: 'issue' }] }),
      /send back: issued files are made of what is released, and draft does not count as that/,
    ],
    [
      'a revision that is opened of what is open',
      (plain) => changed(plain, 'send back', { then: [{ kind: 'revise' }] }),
      /send back: the next revision is opened of what is locked, and in draft nothing is/,
    ],
    [
      'a property without a name',
      (plain) => changed(plain, 'release', { then: [setsTo(' ', 'person')] }),
      /release: it sets a property that has no name/,
    ],
    [
      'a property set to nothing',
      (plain) => changed(plain, 'release', { then: [setsTo('Seal', 'text')] }),
      /release: it sets Seal to nothing/,
    ],
    [
      'a reason that nobody gives',
      (plain) => changed(plain, 'release', { then: [setsTo('Why', 'reason')] }),
      /release: it sets Why to the reason, and asks for none/,
    ],
    [
      'a property set twice',
      (plain) => changed(plain, 'release', { then: [setsTo('Day', 'day'), setsTo('day', 'person')] }),
      /release: it sets day twice/,
    ],
    [
      'a program that there is not',
      (plain) => changed(plain, 'release', { then: [{ kind: 'webhook', name: 'Stock' }] }),
      /release: there is no program called Stock/,
    ],
    [
      'what is superseded into nowhere',
      (plain) => changed(plain, 'release', { then: [{ kind: 'supersede', to: 'old' }] }),
      /release: there is no state old/,
    ],
    [
      'two of one name',
      (plain) => ({
        ...plain,
        states: [...plain.states, { name: 'Draft', lane: 'open', isReleased: false, glyph: 'diamond' }],
      }),
      /Two states are called Draft/,
    ],
    [
      'released and open',
      (plain) => ({ ...plain, states: plain.states.map((state) => ({ ...state, isReleased: true })) }),
      /draft: it counts as released/,
    ],
    ['a beginning that is locked', { first: 'released' }, /released: a revision begins there/],
    [
      'a deed that does not say what it was done to',
      (plain) => changed(plain, 'release', { done: 'released' }),
      /release: “released” must say once/,
    ],
    ['no beginning', { first: 'nowhere' }, /no state nowhere/],
    [
      'more signatures than people',
      (plain) =>
        changed(plain, 'release', {
          signatures: { count: 3, of: [{ kind: 'role', role: 'checker' }], isInOrder: false },
        }),
      /only 2 people could sign/,
    ],
    [
      'an order without a signer for each',
      (plain) =>
        changed(plain, 'release', {
          signatures: { count: 2, of: [{ kind: 'role', role: 'checker' }], isInOrder: true },
        }),
      /Name one for each/,
    ],
  ])('says %s', (_, change, says) => {
    const wrong = typeof change === 'function' ? change(SHIPPED) : { ...SHIPPED, ...change };
    expect(checkDiagram(wrong, CONTEXT).join(' ')).toMatch(says);
  });

  it('says what stands in a state that goes away, until it is said where that goes', () => {
    const standing = new Map([['in work', 4], ['draft', 2]]); // prettier-ignore
    expect(checkDiagram(SHIPPED, { ...CONTEXT, standing })).toEqual([
      '4 revisions are in work, which is there no more. Say where they go.',
    ]);
    const moved = (to: string): readonly string[] =>
      checkDiagram(SHIPPED, { ...CONTEXT, standing, moves: new Map([['in work', to]]) });
    expect(moved('draft')).toEqual([]);
    expect(moved('nowhere')).toEqual([
      '4 revisions that are in work would go to nowhere, which is not there.',
    ]);
  });
});

it('a state that is known elsewhere means the same here', () => {
  const book = bookOf(SHIPPED.states);
  expect(checkDiagram(SHIPPED, { ...CONTEXT, book })).toEqual([]);
  const states = SHIPPED.states.map((state) =>
    state.name === 'superseded' ? { ...state, isReleased: false } : state,
  );
  expect(checkDiagram({ ...SHIPPED, states }, { ...CONTEXT, book })).toEqual([
    'superseded: a state of this name is locked and counts as released, and stays so. Give this one another name, or make it the same.',
  ]);
});

function changed(plain: Diagram, name: string, to: Partial<DiagramStep>): Diagram {
  return { ...plain, steps: plain.steps.map((each) => (each.name === name ? { ...each, ...to } : each)) };
}

describe('whoever tries whatever in whatever order', () => {
  it('a revision moves along a step only once it has all signatures, each of another who may, in order', () => {
    let taken = 0;
    fc.assert(
      fc.property(
        diagram,
        tries,
        fc.uniqueArray(fc.constantFrom(...PEOPLE), { maxLength: 2 }),
        (random, all, authors) => {
          let standing: Standing = { state: random.first, signatures: [] };
          const subject = { authors: new Set(authors.map(({ id }) => id)) };
          // Kept apart from what is tested: who has signed since the state was entered.
          let signed = new Map<string, StepTaker[]>();
          for (const { step: at, by: person, reason } of all) {
            const [wanted, by] = [random.steps[at], PEOPLE[person]];
            if (!wanted || !by) continue;
            const before = standing.state;
            const done = attempt(random, standing, { step: wanted.name, by, reason }, subject);
            if (done.kind === 'refused') continue;
            const own = [...(signed.get(wanted.name) ?? []), by];
            signed.set(wanted.name, own);
            expect(wanted.from).toContain(before);
            expect(wanted.notByAuthors && subject.authors.has(by.id)).toBe(false);
            expect(wanted.asksReason && reason === '').toBe(false);
            const may = wanted.signatures
              ? wanted.signatures.isInOrder
                ? wanted.signatures.of.slice(own.length - 1, own.length)
                : wanted.signatures.of
              : wanted.who;
            expect(may.some((each) => isBy(each, by))).toBe(true);
            expect(new Set(own.map(({ id }) => id)).size).toBe(own.length);
            const count = wanted.signatures?.count ?? 1;
            expect(done.kind).toBe(own.length === count ? 'taken' : 'signed');
            ({ standing } = done);
            expect(standing.state).toBe(done.kind === 'taken' ? wanted.to : before);
            if (done.kind !== 'taken') continue;
            taken++;
            signed = new Map();
            expect(standing.signatures).toEqual([]);
          }
        },
      ),
      { numRuns: 300 },
    );
    expect(taken).toBeGreaterThan(200);
  });

  it('what is refused leaves everything as it was, and says why', () => {
    const two = changed(SHIPPED, 'release', {
      notByAuthors: true,
      signatures: { count: 2, of: [{ kind: 'role', role: 'checker' }], isInOrder: false },
    });
    const subject = { authors: new Set(['checker 2']), sender: { id: 'engineer 1', name: 'Ada' } };
    const by = (id: string): StepTaker => PEOPLE.find((person) => person.id === id) ?? fail(id);
    const said = (standing: Standing, step: string, id: string, more = {}): string => {
      const done = attempt(two, standing, { step, by: by(id), reason: '' }, { ...subject, ...more });
      return done.kind === 'refused' ? done.why : done.kind;
    };
    const checked: Standing = { state: 'in check', signatures: [] };
    expect(said(checked, 'release', 'engineer 1')).toBe('only checker may release');
    expect(said(checked, 'release', 'checker 2')).toBe('who made it does not release it');
    expect(said(checked, 'release', 'checker 1')).toBe('signed');
    expect(
      said({ ...checked, signatures: [{ step: 'release', personId: 'checker 1' }] }, 'release', 'checker 1'),
    ).toBe('you have signed it already');
    expect(said(checked, 'take back', 'engineer 2')).toBe(
      'only Ada, who sent it there, or administrator may take back',
    );
    expect(said(checked, 'take back', 'engineer 1')).toBe('taken');
    expect(said(checked, 'send back', 'checker 1')).toBe('a reason is needed to send back');
    expect(said(checked, 'withdraw', 'administrator 1')).toBe('it is in check, not draft or released');
    expect(said(checked, 'fly', 'administrator 1')).toBe('there is no step fly');
    expect(said({ ...checked, state: 'draft' }, 'ask for check', 'engineer 1', { heldBy: 'Bo' })).toMatch(
      /Bo holds it/,
    );
  });
});

function isBy(who: StepBy, { id, role, rights }: StepTaker): boolean {
  if (who.kind === 'role') return who.role === role;
  if (who.kind === 'person') return who.id === id;
  return who.kind === 'right' && rights.has(who.right);
}

function fail(id: string): never {
  throw new Error(`there is no ${id}`);
}

it('what may be changed is told by the lane, whatever the state is called', () => {
  fc.assert(
    fc.property(diagram, (random) => {
      for (const { name, lane } of random.states) {
        expect(refuseChange(bookOf(random.states), name) === undefined).toBe(lane === 'open');
      }
    }),
  );
});

it('a step is said as a sentence', () => {
  expect(SHIPPED.steps.map(sayStep)).toEqual([
    'An engineer, planner or administrator may ask for check: from draft to in check; told to checkers.',
    'Who sent it there or administrator may take back: from in check to draft; told to checkers.',
    'A checker or administrator may release: from in check to released; older ones become superseded; issued files are made; told to who sent it there.',
    'A checker or administrator may send back: from in check to draft, with a reason; told to who sent it there.',
    'An administrator may withdraw: from draft or released to withdrawn, with a reason.',
  ]);
  const [, , release] = SHIPPED.steps;
  const signed = { count: 2, of: [{ kind: 'role', role: 'checker' }], isInOrder: true } as const;
  const then = [setsTo('Seal', 'text', 'blue'), setsTo('By', 'person')] as const;
  expect(
    release &&
      sayStep({ ...release, then: [...then, { kind: 'revise' }, { kind: 'webhook', name: 'Stock' }] }),
  ).toBe(
    'A checker or administrator may release: from in check to released; Seal is set to “blue”; By is set to who took it; the next revision is opened; Stock is told.',
  );
  expect(release && sayStep({ ...release, then: [], notByAuthors: true, signatures: signed })).toBe(
    'A checker, not the author, may release: from in check to released, with 2 signatures in this order.',
  );
});
