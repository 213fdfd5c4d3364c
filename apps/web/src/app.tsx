import { QueryClient, QueryClientProvider, useQuery } from '@tanstack/react-query';
import { bookOf } from '@stem-trace/core';
import { lazy, Suspense, useMemo, type ReactNode } from 'react';
import { BrowserRouter, Navigate, Route, Routes } from 'react-router';
import { ApiProblem } from './api/client.js';
import { lifecyclesQuery, sessionQuery } from './api/queries.js';
import { StatesContext } from './ui/states.js';
import { DeskProvider } from './frame/desk.js';
import { PreferencesProvider } from './frame/preferences.js';
import { UndoProvider } from './frame/undo.js';
import { PersonContext } from './frame/person.js';
import { Frame } from './frame/frame.js';
import { FindScreen } from './screens/find/find-screen.js';
import { SignIn } from './screens/sign-in/sign-in.js';
import { DraftOwner } from './ui/draft.js';
import { GlobalStyle } from './ui/theme.js';
import { Trouble } from './ui/controls.js';

const DeskScreen = lazy(() =>
  import('./screens/desk/desk-screen.js').then((module) => ({ default: module.DeskScreen })),
);
const TraceScreen = lazy(() =>
  import('./screens/trace/trace-screen.js').then((module) => ({ default: module.TraceScreen })),
);
const CompareScreen = lazy(() =>
  import('./screens/compare/compare-screen.js').then((module) => ({ default: module.CompareScreen })),
);
const DeriveScreen = lazy(() =>
  import('./screens/derive/derive-screen.js').then((module) => ({ default: module.DeriveScreen })),
);
const WishScreen = lazy(() =>
  import('./screens/wish/wish-screen.js').then((module) => ({ default: module.WishScreen })),
);
const CheckScreen = lazy(() =>
  import('./screens/check/check-screen.js').then((module) => ({ default: module.CheckScreen })),
);
const BuildScreen = lazy(() =>
  import('./screens/build/build-screen.js').then((module) => ({ default: module.BuildScreen })),
);
const ChangeScreen = lazy(() =>
  import('./screens/change/change-screen.js').then((module) => ({ default: module.ChangeScreen })),
);
const WorkScreen = lazy(() =>
  import('./screens/work/work-screen.js').then((module) => ({ default: module.WorkScreen })),
);
const HistoryScreen = lazy(() =>
  import('./screens/history/history-screen.js').then((module) => ({ default: module.HistoryScreen })),
);
const LookScreen = lazy(() =>
  import('./screens/look/look-screen.js').then((module) => ({ default: module.LookScreen })),
);
const SettingsScreen = lazy(() =>
  import('./screens/settings/settings-screen.js').then((module) => ({ default: module.SettingsScreen })),
);
const IntakeScreen = lazy(() =>
  import('./screens/intake/intake-screen.js').then((module) => ({ default: module.IntakeScreen })),
);

const queries = new QueryClient({
  defaultOptions: {
    queries: {
      staleTime: 5_000,
      refetchOnWindowFocus: false,
      retry: (count, error) => !(error instanceof ApiProblem && error.problem.status > 0) && count < 2,
    },
  },
});

export function App(): React.JSX.Element {
  return (
    <QueryClientProvider client={queries}>
      <GlobalStyle />
      <BrowserRouter>
        <Gate />
      </BrowserRouter>
    </QueryClientProvider>
  );
}

/** Nothing but signing in for those who have not. */
function Gate(): React.JSX.Element | null {
  const session = useQuery(sessionQuery);
  if (session.isPending) return null;
  if (session.error instanceof ApiProblem && session.error.problem.code === 'NOT_SIGNED_IN')
    return <SignIn />;
  if (!session.data) return <Trouble>{session.error?.message}</Trouble>;
  return (
    <PersonContext value={session.data}>
      <States>
        <PreferencesProvider>
          <DraftOwner value={session.data.login}>
            <DeskProvider>
              <UndoProvider>
                <Suspense>
                  <Routes>
                    <Route element={<Frame person={session.data} />}>
                      <Route path="/desk" element={<DeskScreen />} />
                      <Route path="/find" element={<FindScreen />} />
                      <Route path="/trace" element={<TraceScreen />} />
                      <Route path="/compare" element={<CompareScreen />} />
                      <Route path="/derive" element={<DeriveScreen />} />
                      <Route path="/wish" element={<WishScreen />} />
                      <Route path="/history" element={<HistoryScreen />} />
                      <Route path="/settings/:section?" element={<SettingsScreen />} />
                      <Route path="/look" element={<LookScreen />} />
                      <Route path="/build" element={<BuildScreen />} />
                      <Route path="/check/:id?" element={<CheckScreen />} />
                      <Route path="/change" element={<ChangeScreen />} />
                      <Route path="/work" element={<WorkScreen />} />
                      <Route path="/intake" element={<IntakeScreen />} />
                      <Route path="*" element={<Navigate to="/desk" replace />} />
                    </Route>
                  </Routes>
                </Suspense>
              </UndoProvider>
            </DeskProvider>
          </DraftOwner>
        </PreferencesProvider>
      </States>
    </PersonContext>
  );
}

/** Nothing is shown before it is known what states mean. */
function States({ children }: { readonly children: ReactNode }): React.JSX.Element | null {
  const { data, error } = useQuery(lifecyclesQuery);
  const book = useMemo(() => data && bookOf(data.states), [data]);
  // What is known stays, though it could not be asked for again.
  if (book) return <StatesContext value={book}>{children}</StatesContext>;
  return error ? <Trouble>{error.message}</Trouble> : null;
}
