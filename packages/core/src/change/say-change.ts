/** What became different between two states of a change, in words for its history. */
import { MOST_SERIAL, type Effectivity } from '../model/effectivity.js';
import type { ChangeContents, ChangeLine, TakesEffect } from './contents.js';

/** Parts of a sentence; empty where nothing differs. `O(n)` */
export function sayChanges(before: ChangeContents, after: ChangeContents): readonly string[] {
  const says: string[] = [];
  if (before.why !== after.why) says.push('reworded');
  if (before.urgency !== after.urgency) says.push(`urgency ${before.urgency} → ${after.urgency}`);
  if (before.owner !== after.owner) says.push(`in the hands of ${after.owner || 'nobody'}`);
  if (before.until !== after.until)
    says.push(`to be done by ${sayDay(before.until)} → ${sayDay(after.until)}`);
  const effect = [sayTakesEffect(before.takesEffect), sayTakesEffect(after.takesEffect)];
  if (effect[0] !== effect[1]) says.push(`takes effect ${effect[0]} → ${effect[1]}`);
  const key = ({ relation, itemId }: ChangeLine): string => `${relation} ${itemId}`;
  says.push(...sayLists('item', before.lines, after.lines, key));
  says.push(...sayLists('task', before.tasks, after.tasks, (task) => task.key));
  says.push(...sayLists('cost', before.costs, after.costs, ({ kind, what }) => `${kind} ${what}`));
  says.push(...sayLists('piece of evidence', before.evidence, after.evidence, ({ address }) => address));
  if (before.currency !== after.currency) says.push(`costs in ${after.currency || 'no currency'}`);
  return says;
}

function sayDay(day: string): string {
  return day === '' ? 'no day' : day;
}

/** `when released`, `on 2026-03-31`, `from serial 120 of FM-1000`, `when used up` */
export function sayTakesEffect(effect: TakesEffect): string {
  switch (effect.kind) {
    case 'when released':
    case 'when used up':
      return effect.kind;
    case 'on':
      return `on ${effect.day}`;
    case 'from serial':
      return `from serial ${effect.serial} of ${effect.product}`;
  }
}

/**
 * From when on what the change makes counts, as far as that can be told by days or serial numbers; undefined where it counts from its
 * release on. A serial number that is no whole number counts nothing out, nor does what is used up some day.
 */
export function effectivityOf(effect: TakesEffect): Effectivity | undefined {
  if (effect.kind === 'on') return { planned: { days: { from: effect.day } } };
  if (effect.kind !== 'from serial' || !/^\d+$/.test(effect.serial.trim())) return undefined;
  const from = Number(effect.serial);
  return from > MOST_SERIAL
    ? undefined
    : { planned: { serials: [{ product: effect.product.trim(), from }] } };
}

function sayLists<T>(
  noun: string,
  before: readonly T[],
  after: readonly T[],
  keyOf: (each: T) => string,
): string[] {
  const old = new Map(before.map((each) => [keyOf(each), JSON.stringify(each)]));
  const now = new Map(after.map((each) => [keyOf(each), JSON.stringify(each)]));
  const added = [...now.keys()].filter((key) => !old.has(key)).length;
  const removed = [...old.keys()].filter((key) => !now.has(key)).length;
  const changed = [...now].filter(([key, said]) => old.has(key) && old.get(key) !== said).length;
  return [
    ...sayCount(added, noun, 'added'),
    ...sayCount(removed, noun, 'removed'),
    ...sayCount(changed, noun, 'changed'),
  ];
}

function sayCount(count: number, noun: string, done: string): string[] {
  if (count === 0) return [];
  const many = noun.startsWith('piece') ? noun.replace('piece', 'pieces') : `${noun}s`;
  return [`${count} ${count === 1 ? noun : many} ${done}`];
}
