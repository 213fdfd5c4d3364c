/** What is wrong with a diagram, before anybody works by it. */
import {
  leadsTo,
  stateNamed,
  type Diagram,
  type DiagramStep,
  type DiagramState,
  type LifecycleRole,
  type StateBook,
  type StepBy,
} from './diagram.js';

export interface CheckContext {
  /** Everybody who can sign in. */
  readonly people: readonly { readonly id: string; readonly role: LifecycleRole }[];
  /** Names of the programs that can be told of steps; not looked at where absent. */
  readonly webhooks?: readonly string[];
  /** States that other lifecycles, or versions of this one, know. */
  readonly book?: StateBook;
  /** How many revisions stand in each state now. */
  readonly standing?: ReadonlyMap<string, number>;
  /** Where those go whose state is there no more. */
  readonly moves?: ReadonlyMap<string, string>;
}

/** Sentences, each saying what is wrong and where; empty where nothing is. `O(states × steps)` */
export function checkDiagram(diagram: Diagram, context: CheckContext): readonly string[] {
  return [
    ...wrongNames(diagram),
    ...diagram.steps.flatMap((step) => wrongStep(step, diagram, context)),
    ...wrongStates(diagram),
    ...diagram.states.flatMap((state) => otherMeaning(state, context)),
    ...leftStanding(diagram, context),
  ];
}

function wrongNames({ states, steps, first }: Diagram): string[] {
  const names = [
    ...twice(states.map(({ name }) => name)).map((name) => `Two states are called ${name}.`),
    ...twice(steps.map(({ name }) => name)).map((name) => `Two steps are called ${name}.`),
  ];
  const nameless = [...states, ...steps].some(({ name }) => name.trim() === '');
  return [
    ...names,
    ...(nameless ? ['A state or a step has no name.'] : []),
    ...(states.some(({ name }) => name === first)
      ? []
      : [`There is no state ${first}, in which a revision would begin.`]),
  ];
}

function twice(names: readonly string[]): string[] {
  const folded = names.map((name) => name.trim().toLowerCase());
  return names.filter((_, at) => folded.indexOf(folded[at] ?? '') < at);
}

function wrongStep(step: DiagramStep, diagram: Diagram, context: CheckContext): string[] {
  const { people } = context;
  const { name, from, who, signatures } = step;
  const says = step.done.split('…').length === 2 ? [] : [saysNotWhat(step)];
  const unknown = [...from, ...leadsTo(step)].filter((state) => !stateNamed(diagram, state));
  says.push(...[...new Set(unknown)].map((state) => `${name}: there is no state ${state}.`));
  if (from.length === 0) says.push(`${name}: it leads from no state.`);
  if (step.due && !(Number.isInteger(step.due.days) && step.due.days >= 1))
    says.push(`${name}: something is decided within a day or more, not ${step.due.days}.`);
  if (step.due && stateNamed(diagram, step.to)?.lane !== 'under check')
    says.push(`${name}: only what is handed on to a check is to be decided by a day.`);
  const isIssuing = step.then.some(({ kind }) => kind === 'issue');
  if (isIssuing && stateNamed(diagram, step.to)?.isReleased === false)
    says.push(`${name}: issued files are made of what is released, and ${step.to} does not count as that.`);
  says.push(...wrongConsequences(step, diagram, context));
  const may = people.filter((person) => isAmong(who, person));
  if (signatures === undefined && may.length === 0 && !who.some(dependsOnItem))
    says.push(`${name}: there is nobody who may take it.`);
  if (signatures) says.push(...wrongSignatures(step, { people }));
  return says;
}

function wrongConsequences(
  { name, to, then, asksReason }: DiagramStep,
  diagram: Diagram,
  { webhooks }: CheckContext,
): string[] {
  const revises = then.filter(({ kind }) => kind === 'revise').length;
  const lane = stateNamed(diagram, to)?.lane;
  const set = then.flatMap((each) => (each.kind === 'set' ? each : []));
  const wrongSet = set.flatMap(({ property, to: what, text }) => {
    if (property.trim() === '') return `${name}: it sets a property that has no name.`;
    if (what === 'text' && text.trim() === '') return `${name}: it sets ${property} to nothing.`;
    return what === 'reason' && !asksReason
      ? `${name}: it sets ${property} to the reason, and asks for none.`
      : [];
  });
  return [
    ...(revises > 0 && lane !== undefined && lane !== 'locked'
      ? [`${name}: the next revision is opened of what is locked, and in ${to} nothing is.`]
      : []),
    ...wrongSet,
    ...twice(set.map(({ property }) => property)).map((property) => `${name}: it sets ${property} twice.`),
    ...then.flatMap((each) =>
      each.kind === 'webhook' && webhooks !== undefined && !webhooks.includes(each.name)
        ? `${name}: there is no program called ${each.name} that could be told.`
        : [],
    ),
  ];
}

function saysNotWhat({ name, done }: DiagramStep): string {
  return `${name}: “${done}” must say once, with …, what it was done to, as in “sent … back”.`;
}

function wrongSignatures(
  { name, signatures }: DiagramStep,
  { people }: Pick<CheckContext, 'people'>,
): string[] {
  if (!signatures) return [];
  const { count, of, isInOrder } = signatures;
  if (!Number.isInteger(count) || count < 1)
    return [`${name}: it asks for ${count} signatures; at least one is needed.`];
  if (isInOrder && of.length !== count)
    return [`${name}: it asks for ${count} signatures in order, of ${of.length} signers. Name one for each.`];
  const unknown = of.some(dependsOnItem);
  const can = people.filter((person) => isAmong(of, person)).length;
  return unknown || can >= count
    ? []
    : [`${name}: it asks for ${count} signatures, and only ${can} people could sign.`];
}

/** Whether it is only known of each item who that is. */
function dependsOnItem({ kind }: StepBy): boolean {
  return kind === 'right' || kind === 'sender';
}

function isAmong(who: readonly StepBy[], person: CheckContext['people'][number]): boolean {
  return who.some(
    (each) =>
      (each.kind === 'role' && each.role === person.role) ||
      (each.kind === 'person' && each.id === person.id),
  );
}

function wrongStates(diagram: Diagram): string[] {
  const { states, steps, first } = diagram;
  const reached = reachedFrom(diagram);
  return states.flatMap(({ name, lane, isReleased }) => {
    const says: string[] = [];
    if (name === first && lane !== 'open')
      says.push(`${name}: a revision begins there, so that it must be open.`);
    if (isReleased && lane !== 'locked')
      says.push(`${name}: it counts as released, so that it must be locked.`);
    if (!reached.has(name)) says.push(`${name}: no step leads there.`);
    const isEnd = lane === 'locked' || lane === 'out of use';
    if (!isEnd && !steps.some(({ from }) => from.includes(name)))
      says.push(`${name}: no step leads out of it.`);
    return says;
  });
}

/** A name means the same everywhere, so that a search, a lens or a colour need not ask by which lifecycle an item goes. */
function otherMeaning({ name, lane, isReleased }: DiagramState, { book }: CheckContext): string[] {
  const known = book?.get(name);
  if (!known || (known.lane === lane && known.isReleased === isReleased)) return [];
  const means = `${known.lane}${known.isReleased ? ' and counts as released' : ''}`;
  return [
    `${name}: a state of this name is ${means}, and stays so. Give this one another name, or make it the same.`,
  ];
}

/** Every state that a revision can come to. */
export function reachedFrom({ first, steps }: Diagram): ReadonlySet<string> {
  const reached = new Set([first]);
  // A set that grows while it is gone through is gone through to its end.
  for (const state of reached)
    for (const step of steps)
      if (step.from.includes(state)) for (const next of leadsTo(step)) reached.add(next);
  return reached;
}

function leftStanding(diagram: Diagram, { standing, moves }: CheckContext): string[] {
  return [...(standing ?? [])].flatMap(([name, count]) => {
    if (count === 0 || stateNamed(diagram, name)) return [];
    const to = moves?.get(name);
    if (to === undefined)
      return [`${count} revisions are ${name}, which is there no more. Say where they go.`];
    return stateNamed(diagram, to)
      ? []
      : [`${count} revisions that are ${name} would go to ${to}, which is not there.`];
  });
}
