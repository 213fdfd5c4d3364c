/** What a screen tells the frame as long as it is shown. */
import { useEffect, useSyncExternalStore } from 'react';

export interface ShownWithScreen<T> {
  /** Tells it while the caller is shown. @param told the same list every time, or what changes is told anew */
  readonly useTold: (told: readonly T[]) => void;
  /** All that is told by now. */
  readonly useAll: () => readonly T[];
}

export function shownWithScreen<T>(): ShownWithScreen<T> {
  let lists: readonly (readonly T[])[] = [];
  let all: readonly T[] = [];
  const listeners = new Set<() => void>();
  const set = (next: readonly (readonly T[])[]): void => {
    lists = next;
    all = next.flat();
    for (const listener of listeners) listener();
  };
  const subscribe = (listener: () => void): (() => void) => {
    listeners.add(listener);
    return () => listeners.delete(listener);
  };
  return {
    useTold: (told) =>
      useEffect(() => {
        set([...lists, told]);
        return () => set(lists.filter((one) => one !== told));
      }, [told]),
    useAll: () => useSyncExternalStore(subscribe, () => all),
  };
}
