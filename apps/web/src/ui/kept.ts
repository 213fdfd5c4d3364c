/** What is kept in this browser for a person: reads and writes that never fail, whatever stands there. */
import { useCallback, useEffect, useState } from 'react';

const PREFIX = 'stem-trace.';

/** What was kept; undefined where nothing is, or what is there is none of it. */
export function readKept<T>(key: string, isIt: (value: unknown) => value is T): T | undefined {
  try {
    const value: unknown = JSON.parse(localStorage.getItem(PREFIX + key) ?? 'null');
    return isIt(value) ? value : undefined;
  } catch {
    return undefined;
  }
}

/** Keeps a value; undefined forgets it. A full or closed store is no reason to stop: then it is not kept. */
export function keep(key: string, value: unknown): void {
  try {
    if (value === undefined) localStorage.removeItem(PREFIX + key);
    else localStorage.setItem(PREFIX + key, JSON.stringify(value));
  } catch {
    // Nothing depends on it.
  }
}

function isChange<T>(given: T | ((before: T) => T)): given is (before: T) => T {
  return typeof given === 'function';
}

/** A value that outlives this view, shared by all tabs of this browser. */
export function useKept<T>(
  key: string,
  isIt: (value: unknown) => value is T,
  otherwise: T,
): [T, (value: T | ((before: T) => T)) => void] {
  const [state, setState] = useState<{ readonly key: string; readonly value: T }>(() => ({
    key,
    value: readKept(key, isIt) ?? otherwise,
  }));
  const value = state.key === key ? state.value : (readKept(key, isIt) ?? otherwise);
  const set = useCallback(
    (given: T | ((before: T) => T)) => {
      // What was kept just now counts, though it may not be drawn yet.
      const next = isChange(given) ? given(readKept(key, isIt) ?? otherwise) : given;
      setState({ key, value: next });
      keep(key, next);
    },
    [key, isIt, otherwise],
  );
  useEffect(() => {
    const follow = ({ key: changed }: StorageEvent): void => {
      if (changed !== PREFIX + key) return;
      const kept = readKept(key, isIt);
      if (kept !== undefined) setState({ key, value: kept });
    };
    window.addEventListener('storage', follow);
    return () => window.removeEventListener('storage', follow);
  }, [key, isIt]);
  return [value, set];
}
