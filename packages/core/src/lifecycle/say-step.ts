import type { Consequence, DiagramStep } from './diagram.js';
import { sayWho } from './standing.js';

/** `A checker or administrator, not the author, may release: from in check to released, with 2 signatures; older ones become superseded.` */
export function sayStep({
  name,
  from,
  to,
  who,
  notByAuthors,
  asksReason,
  signatures,
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
    `${taker}${notByAuthors ? ', not the author,' : ''} may ${name}: from ${from.join(' or ')} to ${to}`,
    asks.length > 0 ? `, with ${asks.join(' and ')}` : '',
    ...then.map((each) => `; ${sayThen(each)}`),
    '.',
  ].join('');
}

function sayThen(then: Consequence): string {
  switch (then.kind) {
    case 'supersede':
      return `older ones become ${then.to}`;
    case 'tell':
      return `told to ${sayWho(then.who).replaceAll(' or ', ' and ')}`;
  }
}

function articled(who: string): string {
  if (who === 'nobody' || who.startsWith('who')) return who;
  return `${/^[aeiou]/i.test(who) ? 'an' : 'a'} ${who}`;
}

function capitalised(text: string): string {
  return text.charAt(0).toUpperCase() + text.slice(1);
}
