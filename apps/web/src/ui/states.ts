/** What the states of the store mean, for everything that shows them or depends on what is locked. */
import { SHIPPED_STATES, type StateBook } from '@stem-trace/core';
import { createContext, useContext } from 'react';

/** Until the store has said what it has, that of a store in which nobody changed anything. */
export const StatesContext = createContext<StateBook>(SHIPPED_STATES);

export function useStates(): StateBook {
  return useContext(StatesContext);
}
