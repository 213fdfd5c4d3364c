import type { Consequence, Diagram, DiagramStep, Lane, StepBy } from './diagram.js';
import { sayWho } from './standing.js';
import { both, either } from './words.js';

/** `A checker or administrator, not the author, may release: from in check to released, with 2 signatures; older ones become superseded.` */
export function sayStep({
  name,
  from,
  to,
  who,
  notByAuthors,
  asksReason,
  signatures,
  due,
  then,
}: DiagramStep): string {
  const taker = capitalised(articled(sayWho(signatures ? signatures.of : who)));
  const asks = [
    ...(signatures
      ? [
          `${signatures.count === 1 ? 'a signature' : `${signatures.count} signatures`}${signatures.isInOrder ? ' in this order' : ''}`,
        ]
      : []),
    ...(asksReason ? ['a reason'] : []),
  ];
  return [
    `${taker}${notByAuthors ? ', not the author,' : ''} may ${name}: from ${either(from)} to ${to}`,
    asks.length > 0 ? `, with ${asks.join(' and ')}` : '',
    due === undefined
      ? ''
      : `; decided within ${due.days === 1 ? 'a day' : `${due.days} days`}${due.lead.length === 0 ? '' : `, or ${both(due.lead.map(sayMany))} are told`}`,
    ...then.map((each) => `; ${sayThen(each)}`),
    '.',
  ].join('');
}

const MEANS: Readonly<Record<Lane, string>> = {
  open: 'It can be changed again.',
  'under check': 'Nobody can change it until somebody decides.',
  locked: 'It is locked for good; changes go on in the next revision.',
  'out of use': 'It must not be used any more. What uses it stays as it is.',
};

/** What a step means for others: `Nobody can change it until somebody decides. Told to checkers.` */
export function sayMeaning({ states }: Diagram, { to, then }: DiagramStep): string {
  const lane = states.find(({ name }) => name === to)?.lane;
  const told = then.flatMap((each) => (each.kind === 'tell' ? each.who : []));
  return [
    ...(lane ? [MEANS[lane]] : []),
    ...(told.length > 0 ? [`Told to ${both(told.map(sayMany))}.`] : []),
  ].join(' ');
}

/** What somebody did: `released FM-2300 B/2`. */
export function sayDone({ done }: DiagramStep, what: string): string {
  return done.replace('…', what);
}

const SET_WORDS = { person: 'who took it', day: 'the day', reason: 'the reason' } as const;

function sayThen(then: Consequence): string {
  switch (then.kind) {
    case 'supersede':
      return `older ones become ${then.to}`;
    case 'tell':
      return `told to ${both(then.who.map(sayMany))}`;
    case 'issue':
      return 'issued files are made';
    case 'revise':
      return 'the next revision is opened';
    case 'set':
      return `${then.property} is set to ${then.to === 'text' ? `“${then.text}”` : SET_WORDS[then.to]}`;
    case 'webhook':
      return `${then.name} is told`;
  }
}

function sayMany(who: StepBy): string {
  return who.kind === 'role' ? `${who.role}s` : sayWho([who]);
}

function articled(who: string): string {
  if (who === 'nobody' || who.startsWith('who')) return who;
  return `${/^[aeiou]/i.test(who) ? 'an' : 'a'} ${who}`;
}

function capitalised(text: string): string {
  return text.charAt(0).toUpperCase() + text.slice(1);
}
