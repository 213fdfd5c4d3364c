import { useQuery } from '@tanstack/react-query';
import { findWordsQuery } from './find.js';

/** Everybody who can be given something, as options. */
export function usePeople(): readonly { readonly key: string; readonly text: string }[] {
  const people = useQuery(findWordsQuery).data?.people ?? [];
  return people.map(({ login, name }) => ({ key: login, text: name }));
}
