import { useState } from 'react';

/** Steps that can be undone. */
const MOST_STEPS = 200;

export interface Steps<T> {
  readonly canUndo: boolean;
  readonly canRedo: boolean;
  /** Goes on to something else; what was undone is gone then. */
  take(next: T): void;
  undo(): void;
  redo(): void;
  /** Forgets all steps, and leaves what is there. */
  clear(): void;
}

/**
 * Undo and redo for a value that is kept elsewhere.
 *
 * @param now what it is
 * @param put makes it something else
 */
export function useSteps<T>(now: T, put: (value: T) => void): Steps<T> {
  const [past, setPast] = useState<readonly T[]>([]);
  const [future, setFuture] = useState<readonly T[]>([]);
  return {
    canUndo: past.length > 0,
    canRedo: future.length > 0,
    take: (next) => {
      setPast([...past.slice(1 - MOST_STEPS), now]);
      setFuture([]);
      put(next);
    },
    undo: () => {
      if (past.length === 0) return;
      setPast(past.slice(0, -1));
      setFuture([...future, now]);
      put(past[past.length - 1] as T);
    },
    redo: () => {
      if (future.length === 0) return;
      setFuture(future.slice(0, -1));
      setPast([...past, now]);
      put(future[future.length - 1] as T);
    },
    clear: () => {
      setPast([]);
      setFuture([]);
    },
  };
}
