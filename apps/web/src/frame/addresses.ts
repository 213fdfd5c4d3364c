/** Addresses of views: whoever opens one sees the same. */
import type { LensText } from '@stem-trace/contract';
import { useSearchParams } from 'react-router';

/** Ways of looking at structure; columns are the first. */
export const TRACE_VIEWS = [
  'columns',
  'outline',
  'bill',
  'map',
  'chains',
  'effect',
  'stem',
  'family',
] as const;
export type TraceView = (typeof TRACE_VIEWS)[number];

export function traceAddress(item: string, lens: LensText = 'recorded', view: TraceView = 'columns'): string {
  const address = withLens(`/trace?item=${encodeURIComponent(item)}`, lens);
  return view === 'columns' ? address : `${address}&view=${view}`;
}

export function compareAddress(from: string, to: string): string {
  return `/compare?from=${encodeURIComponent(from)}&to=${encodeURIComponent(to)}`;
}

/** What an origin and its variant have changed since the one was derived from the other. */
export function driftAddress(
  from: { readonly number: string; readonly version: string },
  variant: string,
  lens: LensText,
): string {
  const base = encodeURIComponent(`${from.number}@${from.version}`);
  return withLens(`${compareAddress(from.number, variant)}&base=${base}`, lens);
}

export function historyAddress(number: string): string {
  return `/history?item=${encodeURIComponent(number)}`;
}

export function lookAddress(item: string): string {
  return `/look?item=${encodeURIComponent(item)}`;
}

/** In three dimensions, where it stands in something. */
export function lookWithinAddress(whole: string, number: string, lens: LensText): string {
  return withLens(`${lookAddress(whole)}&select=${encodeURIComponent(number)}`, lens);
}

/** Both in three dimensions, as they are compared. */
export function lookAtBothAddress(from: string, to: string): string {
  return `${lookAddress(from)}&against=${encodeURIComponent(to)}`;
}

/** A version of a drawing, page or picture with an earlier one laid over it. */
export function laidOverAddress(number: string, from: string, to: string): string {
  return `${lookAddress(`${number}@${to}`)}&over=${encodeURIComponent(from)}`;
}

/** A check sheet; an item of it. */
export function checkAddress(sheet: string, item = ''): string {
  return item === '' ? `/check/${sheet}` : `/check/${sheet}?item=${encodeURIComponent(item)}`;
}

/** A change request or order, in one of its views. */
export function changeAddress(change: string, view = ''): string {
  const address = `/change?change=${encodeURIComponent(change)}`;
  return view === '' ? address : `${address}&view=${view}`;
}

/** @param bill `NUMBER` or `NUMBER@A/3` */
export function buildAddress(bill: string): string {
  return `/build?bill=${encodeURIComponent(bill)}`;
}

/** @param change what is decided as soon as one is there: `swap` as `OLD=NEW`, or `add` as the JSON of an `AddChoice` */
export function deriveAddress(
  item: string,
  change: { readonly swap?: string; readonly add?: string } = {},
): string {
  return `/derive?${new URLSearchParams({ item, ...change }).toString()}`;
}

/** @param recipe `NUMBER` or `NUMBER@A/3` */
export function wishAddress(recipe: string): string {
  return `/wish?recipe=${encodeURIComponent(recipe)}`;
}

export function findAddress(words: string): string {
  return words === '' ? '/find' : `/find?words=${encodeURIComponent(words)}`;
}

export function fetchAddress(item: string, lens: LensText = 'recorded'): string {
  return withLens(`/api/fetch?item=${encodeURIComponent(item)}`, lens);
}

function withLens(address: string, lens: LensText): string {
  return lens === 'recorded' ? address : `${address}&lens=${encodeURIComponent(lens)}`;
}

/** The lens of the view, kept in its address. */
export function useLens(): [LensText, (lens: LensText) => void] {
  const [search] = useSearchParams();
  const change = useChangeSearch();
  const lens = search.get('lens') ?? 'recorded';
  const setLens = (next: LensText): void => change({ lens: next === 'recorded' ? '' : next });
  return [lens, setLens];
}

/** Where the person is by now: what a view was last drawn with may be older, when keys come faster than drawing. */
export function currentSearch(): URLSearchParams {
  return new URLSearchParams(window.location.search);
}

/** Changes members of the address of this view; an empty value takes one away. */
export function useChangeSearch(): (changes: Readonly<Record<string, string>>, isNewView?: boolean) => void {
  const [, setSearch] = useSearchParams();
  return (changes, isNewView = false) => {
    const next = currentSearch();
    for (const [name, value] of Object.entries(changes)) {
      if (value === '') next.delete(name);
      else next.set(name, value);
    }
    setSearch(next, { replace: !isNewView });
  };
}

/** Whoever asked from the box goes on in what was found; whoever adds a filter beside it stays there. */
export const TO_RESULTS = { toResults: true } as const;
