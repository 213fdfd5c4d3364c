/** Who is signed in, for everything that depends on it. */
import type { PersonView } from '@stem-trace/contract';
import { createContext, useContext } from 'react';

export const PersonContext = createContext<PersonView | undefined>(undefined);

export function usePerson(): PersonView {
  const person = useContext(PersonContext);
  if (!person) throw new Error('usePerson needs somebody signed in');
  return person;
}
