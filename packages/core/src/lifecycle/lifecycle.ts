/** The lifecycle that ships, and what every part of the product asks of it. */
import {
  stateNamed,
  type Diagram,
  type DiagramStep,
  type Lane,
  type LifecycleRole,
  type Who,
} from './diagram.js';
import { refuseChange } from './standing.js';

export type LifecycleState = 'draft' | 'in check' | 'released' | 'superseded' | 'withdrawn';
export type StepName = 'ask for check' | 'take back' | 'release' | 'send back' | 'withdraw';

/** The same, with names that are known. */
export interface ShippedDiagram extends Diagram {
  readonly states: readonly (Diagram['states'][number] & { readonly name: LifecycleState })[];
  readonly steps: readonly (DiagramStep & {
    readonly name: StepName;
    readonly from: readonly LifecycleState[];
    readonly to: LifecycleState;
  })[];
}

const ENGINEER: Who = { kind: 'role', role: 'engineer' };
const CHECKER: Who = { kind: 'role', role: 'checker' };
const PLANNER: Who = { kind: 'role', role: 'planner' };
const ADMINISTRATOR: Who = { kind: 'role', role: 'administrator' };
const PLAIN = { notByAuthors: false, asksReason: false, then: [] } as const;

export const SHIPPED: ShippedDiagram = {
  name: 'Items',
  first: 'draft',
  states: [
    { name: 'draft', lane: 'open', isReleased: false },
    { name: 'in check', lane: 'under check', isReleased: false },
    { name: 'released', lane: 'locked', isReleased: true },
    { name: 'superseded', lane: 'locked', isReleased: true },
    { name: 'withdrawn', lane: 'out of use', isReleased: false },
  ],
  steps: [
    {
      ...{ ...PLAIN, name: 'ask for check', from: ['draft'], to: 'in check' },
      who: [ENGINEER, PLANNER, ADMINISTRATOR],
      then: [{ kind: 'tell', who: [CHECKER] }],
    },
    {
      ...{ ...PLAIN, name: 'take back', from: ['in check'], to: 'draft' },
      who: [{ kind: 'sender' }, ADMINISTRATOR],
      then: [{ kind: 'tell', who: [CHECKER] }],
    },
    {
      ...{ ...PLAIN, name: 'release', from: ['in check'], to: 'released' },
      who: [CHECKER, ADMINISTRATOR],
      then: [
        { kind: 'supersede', to: 'superseded' },
        { kind: 'tell', who: [{ kind: 'sender' }] },
      ],
    },
    {
      ...{ ...PLAIN, name: 'send back', from: ['in check'], to: 'draft', asksReason: true },
      who: [CHECKER, ADMINISTRATOR],
      then: [{ kind: 'tell', who: [{ kind: 'sender' }] }],
    },
    {
      ...{ ...PLAIN, name: 'withdraw', from: ['draft', 'released'], to: 'withdrawn', asksReason: true },
      who: [ADMINISTRATOR],
    },
  ],
};

/** What is locked in a state. @throws Error for one that there is not */
export function laneOf(state: LifecycleState): Lane {
  const found = stateNamed(SHIPPED, state);
  if (!found) throw new Error(`there is no state ${state}`);
  return found.lane;
}

/** States of revisions that count as released, whatever came after them. */
export const RELEASED_STATES: readonly LifecycleState[] = SHIPPED.states.flatMap(({ name, isReleased }) =>
  isReleased ? name : [],
);

/** States in which a revision can be held and changed. */
export const OPEN_STATES: readonly LifecycleState[] = SHIPPED.states.flatMap(({ name, lane }) =>
  lane === 'open' ? name : [],
);

/** States in which a revision still gets versions, or waits to get them again. */
export const UNFINISHED_STATES: readonly LifecycleState[] = SHIPPED.states.flatMap(({ name, lane }) =>
  lane === 'open' || lane === 'under check' ? name : [],
);

const BY_ATTENTION: readonly Lane[] = ['out of use', 'open', 'under check', 'locked'];

/** From what wants attention most to what wants none; of those with the same locked, what comes later in the lifecycle first. */
export function statesByAttention(): LifecycleState[] {
  return BY_ATTENTION.flatMap((lane) =>
    SHIPPED.states.flatMap((state) => (state.lane === lane ? state.name : [])).reverse(),
  );
}

/** Whether an item takes another version: into the revision, or into the next one where it is locked. */
export function takesVersions(state: LifecycleState): boolean {
  const lane = laneOf(state);
  return lane === 'open' || lane === 'locked';
}

export interface LifecycleStep {
  readonly name: StepName;
  readonly from: readonly LifecycleState[];
  readonly to: LifecycleState;
  readonly roles: readonly LifecycleRole[];
  /** Whether a reason must be given. */
  readonly needsReason: boolean;
  /** Whether it is for whoever sent the item there, and for administrators, alone. */
  readonly bySender: boolean;
  /** Who is told of it besides those who sent, made or watch the item. */
  readonly tells: readonly LifecycleRole[];
  /** What becomes of older revisions that count as released; undefined where nothing does. */
  readonly supersedes: LifecycleState | undefined;
}

export const LIFECYCLE: readonly LifecycleStep[] = SHIPPED.steps.map(
  ({ name, from, to, who, asksReason, then }) => {
    const bySender = who.some(({ kind }) => kind === 'sender');
    const senders = bySender ? SHIPPED.steps.filter((step) => from.includes(step.to)) : [];
    const roles = [...senders.flatMap((step) => rolesOf(step.who)), ...rolesOf(who)];
    const older = then.flatMap((each) => (each.kind === 'supersede' ? each.to : []))[0];
    return {
      ...{ name, from, to, roles: [...new Set(roles)], needsReason: asksReason, bySender },
      tells: then.flatMap((each) => (each.kind === 'tell' ? rolesOf(each.who) : [])),
      supersedes: SHIPPED.states.find((state) => state.name === older)?.name,
    };
  },
);

function rolesOf(who: readonly Who[]): LifecycleRole[] {
  return who.flatMap((each) => (each.kind === 'role' ? each.role : []));
}

/** Steps that a role may take from a state. */
export function stepsFrom(state: LifecycleState, role: LifecycleRole): LifecycleStep[] {
  return LIFECYCLE.filter((step) => step.from.includes(state) && step.roles.includes(role));
}

/** Why an item may not be taken for change, as the end of a sentence; undefined where it may. */
export function refuseHold(state: LifecycleState): string | undefined {
  return refuseChange(SHIPPED, state);
}
