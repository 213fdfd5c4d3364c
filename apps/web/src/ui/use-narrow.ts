import { useSyncExternalStore } from 'react';
import { size } from './theme.js';

const QUERY = `(max-width: ${size.narrow})`;

/** Whether the window is too narrow for the margin beside the sheet, and for all columns of a table. */
export function useIsNarrow(): boolean {
  return useSyncExternalStore(
    (listener) => {
      const query = window.matchMedia(QUERY);
      query.addEventListener('change', listener);
      return () => query.removeEventListener('change', listener);
    },
    () => window.matchMedia(QUERY).matches,
  );
}
