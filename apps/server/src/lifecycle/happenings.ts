/** What the trail and the notices say of steps. */
import { sayDone, valuesSet, webhooksOf, type PropertyValue } from '@stem-trace/core';
import type { Person } from '../database/entities/person.js';
import type { Happening } from '../trail/record.js';
import { sheetAddress } from './open-sheet.js';
import type { Going } from './step-ground.js';
import type { ToldOfSteps } from './told.js';

export async function happening(
  each: Going,
  {
    person,
    reason,
    stated,
    told,
    sheet,
    at,
    day,
  }: {
    person: Person;
    reason: string;
    /** At the site. */
    day: string;
    stated: ReadonlyMap<string, string>;
    told: ToldOfSteps;
    sheet: string | null;
    at: Date;
  },
): Promise<Happening> {
  const { kind, target, step, wanted } = each;
  const { item } = target;
  const what = `${item.number} ${item.label}`;
  const why = reason === '' ? '' : `: ${reason}`;
  const statement = stated.get(item.itemId);
  const detail = {
    ...{ step: step.name, from: item.state, to: step.to, version: item.label, reason },
    ...(statement === undefined ? {} : { statement }),
    ...consequencesOf(each, { person: person.name, reason, day }),
  };
  const common = { personId: person.id, itemId: item.itemId, detail, at };
  if (kind === 'taken')
    return {
      ...common,
      kind: 'step',
      says: `${person.name} ${sayDone(step, what)}${why}`,
      // Where something is checked, that is opened which it is checked on.
      ...(sheet === null ? {} : { address: sheetAddress(sheet) }),
      alsoTell: await told.of(target, step),
      ...(sheet === null ? {} : { tellsOf: 'to check' as const }),
    };
  return {
    ...common,
    kind: 'signature',
    says: `${person.name} signed ${what} (${step.name})${why}; ${sayWanted(wanted)}`,
  };
}

/** What the trail keeps of what a step set, and who is told of it. */
function consequencesOf(
  { kind, step }: Going,
  by: Parameters<typeof valuesSet>[1],
): { readonly set?: PropertyValue[]; readonly webhooks?: string[] } {
  if (kind !== 'taken') return {};
  const [set, webhooks] = [valuesSet(step, by), webhooksOf(step)];
  return { ...(set.length === 0 ? {} : { set }), ...(webhooks.length === 0 ? {} : { webhooks }) };
}

function sayWanted(wanted: number): string {
  if (wanted === 0) return 'it waits for what goes with it';
  return wanted === 1 ? 'one more signature is wanted' : `${wanted} more signatures are wanted`;
}

/** What is sent on to one check sheet is told to those who check once, not for each item; who watches an item is told of that. */
export function toldOnce(happened: readonly Happening[]): Happening[] {
  const sent = happened.filter(({ kind }) => kind === 'step');
  const others = sent.length - 1;
  return happened.map((each) => {
    if (others === 0 || each.kind !== 'step') return each;
    if (each !== sent[0]) return { ...each, alsoTell: [] };
    return {
      ...each,
      tells: `${each.says}; and ${others === 1 ? 'another item' : `${others} other items`} with it`,
    };
  });
}
