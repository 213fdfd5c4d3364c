/** What every part of the product asks of a state. No name decides anything: what is locked in it does. */
import type { DiagramState, Lane, StateBook } from './diagram.js';

/** What is locked in a state. @throws Error for one that there is not */
export function laneOf(book: StateBook, state: string): Lane {
  const found = book.get(state);
  if (!found) throw new Error(`there is no state ${state}`);
  return found.lane;
}

export function countsAsReleased(book: StateBook, state: string): boolean {
  return book.get(state)?.isReleased === true;
}

/** Whether a revision that stands there still gets versions, or waits to get them again. */
export function isUnfinished(book: StateBook, state: string): boolean {
  const lane = book.get(state)?.lane;
  return lane === 'open' || lane === 'under check';
}

/** Whether an item takes another version: into the revision, or into the next one where it is locked. */
export function takesVersions(book: StateBook, state: string): boolean {
  const lane = book.get(state)?.lane;
  return lane === 'open' || lane === 'locked';
}

/** Why a revision that stands there may not be changed, as the end of a sentence; undefined where it may. */
export function refuseChange(book: StateBook, state: string): string | undefined {
  switch (book.get(state)?.lane) {
    case 'open':
      return undefined;
    case 'under check':
      return `it is ${state}; it can be changed again when it is sent back`;
    case 'locked':
      return `it is ${state}; revise it first`;
    case 'out of use':
      return `it is ${state}`;
    case undefined:
      return `it is ${state}, which no lifecycle knows`;
  }
}

const BY_ATTENTION: readonly Lane[] = ['out of use', 'open', 'under check', 'locked'];

/**
 * How much a state wants attention, from 0 for what wants most; of those with the same locked, what comes later in the book first.
 */
export function byAttention(book: StateBook): (one: string, other: string) => number {
  const ordered = BY_ATTENTION.flatMap((lane) => inLane(book, lane).reverse());
  const rank = new Map(ordered.map(({ name }, at) => [name, at]));
  const of = (state: string): number => rank.get(state) ?? -1;
  return (one, other) => of(one) - of(other);
}

/** In the order of the book. */
export function inLane(book: StateBook, lane: Lane): DiagramState[] {
  return [...book.values()].filter((state) => state.lane === lane);
}
