/** The lifecycle that ships: states, the steps between them, and who may take them. */

export type LifecycleState = 'draft' | 'in check' | 'released' | 'superseded' | 'withdrawn';

/** States of revisions that were released, whatever came after them. */
export const RELEASED_STATES: readonly LifecycleState[] = ['released', 'superseded'];

export type LifecycleRole = 'engineer' | 'checker' | 'planner' | 'viewer' | 'administrator';

export interface LifecycleStep {
  readonly name: StepName;
  readonly from: readonly LifecycleState[];
  readonly to: LifecycleState;
  readonly roles: readonly LifecycleRole[];
  /** Whether a reason must be given. */
  readonly needsReason: boolean;
  /** Whether it is for whoever sent the item for checking, and for administrators, alone. */
  readonly bySender?: true;
}

export type StepName = 'ask for check' | 'take back' | 'release' | 'send back' | 'withdraw';

export const LIFECYCLE: readonly LifecycleStep[] = [
  {
    name: 'ask for check',
    from: ['draft'],
    to: 'in check',
    roles: ['engineer', 'planner', 'administrator'],
    needsReason: false,
  },
  {
    name: 'take back',
    from: ['in check'],
    to: 'draft',
    roles: ['engineer', 'planner', 'administrator'],
    needsReason: false,
    bySender: true,
  },
  {
    name: 'release',
    from: ['in check'],
    to: 'released',
    roles: ['checker', 'administrator'],
    needsReason: false,
  },
  {
    name: 'send back',
    from: ['in check'],
    to: 'draft',
    roles: ['checker', 'administrator'],
    needsReason: true,
  },
  {
    name: 'withdraw',
    from: ['draft', 'released'],
    to: 'withdrawn',
    roles: ['administrator'],
    needsReason: true,
  },
];

/** Steps that a role may take from a state. */
export function stepsFrom(state: LifecycleState, role: LifecycleRole): LifecycleStep[] {
  return LIFECYCLE.filter((step) => step.from.includes(state) && step.roles.includes(role));
}

/** What stands in the way of a step, as the end of a sentence; undefined where nothing does. */
export function refuseStep(
  step: LifecycleStep,
  item: {
    readonly state: LifecycleState;
    readonly heldBy?: string | undefined;
    /** Who sent it for checking, where that is somebody else. */
    readonly sentBy?: string | undefined;
  },
  by: { readonly role: LifecycleRole; readonly reason: string },
): string | undefined {
  if (!step.roles.includes(by.role)) return `only ${step.roles.join(' or ')} may ${step.name}`;
  if (!step.from.includes(item.state)) return `it is ${item.state}, not ${step.from.join(' or ')}`;
  if (step.bySender && item.sentBy !== undefined && by.role !== 'administrator')
    return `${item.sentBy} sent it for checking; only they or an administrator may take it back`;
  if (item.heldBy !== undefined) return `${item.heldBy} holds it; it must be let go first`;
  if (step.needsReason && by.reason.trim() === '') return `a reason is needed to ${step.name}`;
  return undefined;
}

/** Why an item may not be taken for change, as the end of a sentence; undefined where it may. */
export function refuseHold(state: LifecycleState): string | undefined {
  switch (state) {
    case 'draft':
      return undefined;
    case 'in check':
      return 'it is in check; it can be changed again when it is sent back';
    case 'released':
    case 'superseded':
      return 'it is released; revise it first';
    case 'withdrawn':
      return 'it is withdrawn';
  }
}
