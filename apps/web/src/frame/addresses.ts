/** Addresses of views: whoever opens one sees the same. */
import type { LensText } from '@stem-trace/contract';
import { useSearchParams } from 'react-router';

/** Ways of looking at structure; columns are the first. */
export const TRACE_VIEWS = ['columns', 'outline', 'map', 'chains', 'effect'] as const;
export type TraceView = (typeof TRACE_VIEWS)[number];

export function traceAddress(item: string, lens: LensText = 'recorded', view: TraceView = 'columns'): string {
  const address = withLens(`/trace?item=${encodeURIComponent(item)}`, lens);
  return view === 'columns' ? address : `${address}&view=${view}`;
}

export function compareAddress(from: string, to: string): string {
  return `/compare?from=${encodeURIComponent(from)}&to=${encodeURIComponent(to)}`;
}

export function historyAddress(number: string): string {
  return `/history?item=${encodeURIComponent(number)}`;
}

export function lookAddress(item: string): string {
  return `/look?item=${encodeURIComponent(item)}`;
}

export function deriveAddress(item: string): string {
  return `/derive?item=${encodeURIComponent(item)}`;
}

export function findAddress(words: string): string {
  return words === '' ? '/find' : `/find?words=${encodeURIComponent(words)}`;
}

export function fetchAddress(item: string, lens: LensText = 'recorded'): string {
  return withLens(`/api/fetch?item=${encodeURIComponent(item)}`, lens);
}

function withLens(address: string, lens: LensText): string {
  return lens === 'recorded' ? address : `${address}&lens=${lens}`;
}

/** The lens of the view, kept in its address. */
export function useLens(): [LensText, (lens: LensText) => void] {
  const [search, setSearch] = useSearchParams();
  const lens = search.get('lens') ?? 'recorded';
  const setLens = (next: LensText): void =>
    setSearch(
      (before) => {
        const after = new URLSearchParams(before);
        if (next === 'recorded') after.delete('lens');
        else after.set('lens', next);
        return after;
      },
      { replace: true },
    );
  return [lens, setLens];
}
