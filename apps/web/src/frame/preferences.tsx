/** How a person wants things shown; kept with the person, so that it is the same on every machine. */
import type { Preferences } from '@stem-trace/contract';
import { queryOptions, useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { createContext, useContext, useEffect, useMemo, type ReactNode } from 'react';
import { get, send } from '../api/client.js';
import { ShowingProvider } from '../ui/showing.js';
import { size } from '../ui/theme.js';

const USUAL: Preferences = {
  theme: 'system',
  density: 'usual',
  pictures: 'none',
  dates: 'said',
  mass: 'kg',
  length: 'mm',
};

const preferencesQuery = queryOptions({
  queryKey: ['session', 'preferences'],
  queryFn: ({ signal }) => get('/api/preferences', {}, signal),
  staleTime: Infinity,
});

const PreferencesContext = createContext<Preferences>(USUAL);

export function usePreferences(): Preferences {
  return useContext(PreferencesContext);
}

export function useSetPreferences(): (preferences: Preferences) => void {
  const queries = useQueryClient();
  const { mutate } = useMutation({
    mutationFn: (preferences: Preferences) => send('PUT', '/api/preferences', preferences),
    // Shown at once; what the server refuses is shown as it was.
    onMutate: (preferences) => queries.setQueryData(preferencesQuery.queryKey, preferences),
    onError: () => queries.invalidateQueries({ queryKey: preferencesQuery.queryKey }),
  });
  return mutate;
}

export function PreferencesProvider({ children }: { readonly children: ReactNode }): React.JSX.Element {
  const preferences = useQuery(preferencesQuery).data ?? USUAL;
  const { theme, density } = preferences;
  useEffect(() => {
    const { dataset } = document.documentElement;
    dataset.theme = theme;
    dataset.density = density;
  }, [theme, density]);
  const { dates, mass, length, pictures } = preferences;
  const showing = useMemo(
    () => ({ rowPx: density === 'dense' ? size.denseRow : size.row, dates, mass, length, pictures }),
    [density, dates, mass, length, pictures],
  );
  return (
    <PreferencesContext value={preferences}>
      <ShowingProvider value={showing}>{children}</ShowingProvider>
    </PreferencesContext>
  );
}
