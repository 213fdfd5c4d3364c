/** What is compared, as the address says it: a colleague who opens it sees the same. */
import { isLensText, type LensText } from '@stem-trace/contract';
import type { HandPair } from '@stem-trace/core';
import { useMemo } from 'react';
import { useSearchParams } from 'react-router';
import type { CompareQuery } from '../../api/queries.js';
import { useLens } from '../../frame/addresses.js';

/** In the address: the common origin is to be found by lineage. */
export const AUTO = 'lineage';

export interface Comparison {
  readonly query: CompareQuery;
  readonly hand: readonly HandPair[];
  readonly columns: readonly string[];
  /** What both come from, where that is to stand beside them; empty where it is to be found. */
  readonly origin: string | undefined;
  /** Empty takes a parameter out of the address. */
  change(changes: Readonly<Record<string, string>>): void;
  swap(): void;
  /** Says that two rows are a pair, or, with an empty way, that one has none. */
  pair(pair: HandPair): void;
  /** Takes back what was said of a row. */
  forget(pair: HandPair): void;
}

export function useComparison(): Comparison {
  const [search, setSearch] = useSearchParams();
  const [lens] = useLens();
  const handText = search.get('hand') ?? '';
  const hand = useMemo(() => readHand(handText), [handText]);
  const columnsText = search.get('columns') ?? '';
  const columns = useMemo(() => columnsText.split(';').filter(Boolean), [columnsText]);
  const change = (changes: Readonly<Record<string, string>>): void => {
    const next = new URLSearchParams(search);
    for (const [name, value] of Object.entries(changes)) {
      if (value === '') next.delete(name);
      else next.set(name, value);
    }
    setSearch(next, { replace: true });
  };
  const say = (pairs: readonly HandPair[]): void =>
    change({ hand: pairs.length === 0 ? '' : JSON.stringify(pairs.map(({ from, to }) => [from, to])) });
  const at = (name: string): string => search.get(name) ?? '';
  const by = at('pair');
  return {
    query: {
      ...{ from: at('from'), to: at('to'), net: at('by') === 'totals', lens },
      ...lensOf('fromLens', at('fromLens')),
      ...lensOf('toLens', at('toLens')),
      ...(by === '' ? {} : { by }),
      ...(handText === '' ? {} : { hand: handText }),
      ...(columnsText === '' ? {} : { columns: columnsText }),
    },
    hand,
    columns,
    origin: at('base') === '' ? undefined : at('base') === AUTO ? '' : at('base'),
    change,
    swap: () =>
      change({
        ...{ from: at('to'), to: at('from'), fromLens: at('toLens'), toLens: at('fromLens') },
        hand: hand.length === 0 ? '' : JSON.stringify(hand.map(({ from, to }) => [to, from])),
      }),
    pair: (pair) => say([...hand.filter((other) => !isAbout(other, pair)), pair]),
    forget: (pair) => say(hand.filter((other) => !isAbout(other, pair))),
  };
}

/** Whether two say something of the same row of a side. */
function isAbout(one: HandPair, other: HandPair): boolean {
  return (one.from !== '' && one.from === other.from) || (one.to !== '' && one.to === other.to);
}

function lensOf(name: 'fromLens' | 'toLens', text: string): { readonly [name: string]: LensText } {
  return text !== '' && isLensText(text) ? { [name]: text } : {};
}

function readHand(text: string): readonly HandPair[] {
  try {
    const pairs: unknown = JSON.parse(text === '' ? '[]' : text);
    return Array.isArray(pairs)
      ? pairs.flatMap((pair: unknown) =>
          Array.isArray(pair) && typeof pair[0] === 'string' && typeof pair[1] === 'string'
            ? [{ from: pair[0], to: pair[1] }]
            : [],
        )
      : [];
  } catch {
    return [];
  }
}
