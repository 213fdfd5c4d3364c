import type { UseQueryResult } from '@tanstack/react-query';

/** What is there so far; the same array while nothing more has come. */
export function combineLoaded<T>(results: readonly UseQueryResult<T | null>[]): {
  readonly loaded: (T | undefined)[];
  readonly done: number;
} {
  return {
    loaded: results.map(({ data }) => data ?? undefined),
    done: results.filter(({ isPending }) => !isPending).length,
  };
}
