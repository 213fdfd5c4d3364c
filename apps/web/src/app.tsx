import { QueryClient, QueryClientProvider, useQuery } from '@tanstack/react-query';
import { lazy, Suspense } from 'react';
import { BrowserRouter, Navigate, Route, Routes } from 'react-router';
import { ApiProblem } from './api/client.js';
import { sessionQuery } from './api/queries.js';
import { DeskProvider } from './frame/desk.js';
import { PersonContext } from './frame/person.js';
import { Frame } from './frame/frame.js';
import { FindPlace } from './places/find/find-place.js';
import { SignIn } from './places/sign-in/sign-in.js';
import { GlobalStyle } from './ui/theme.js';
import { Trouble } from './ui/controls.js';

const TracePlace = lazy(() =>
  import('./places/trace/trace-place.js').then((module) => ({ default: module.TracePlace })),
);
const ComparePlace = lazy(() =>
  import('./places/compare/compare-place.js').then((module) => ({ default: module.ComparePlace })),
);
const DerivePlace = lazy(() =>
  import('./places/derive/derive-place.js').then((module) => ({ default: module.DerivePlace })),
);
const WorkPlace = lazy(() =>
  import('./places/work/work-place.js').then((module) => ({ default: module.WorkPlace })),
);
const HistoryPlace = lazy(() =>
  import('./places/history/history-place.js').then((module) => ({ default: module.HistoryPlace })),
);
const LookPlace = lazy(() =>
  import('./places/look/look-place.js').then((module) => ({ default: module.LookPlace })),
);
const SettingsPlace = lazy(() =>
  import('./places/settings/settings-place.js').then((module) => ({ default: module.SettingsPlace })),
);
const IntakePlace = lazy(() =>
  import('./places/intake/intake-place.js').then((module) => ({ default: module.IntakePlace })),
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
      <DeskProvider>
        <Suspense>
          <Routes>
            <Route element={<Frame person={session.data} />}>
              <Route path="/find" element={<FindPlace />} />
              <Route path="/trace" element={<TracePlace />} />
              <Route path="/compare" element={<ComparePlace />} />
              <Route path="/derive" element={<DerivePlace />} />
              <Route path="/history" element={<HistoryPlace />} />
              <Route path="/settings/:section?" element={<SettingsPlace />} />
              <Route path="/look" element={<LookPlace />} />
              <Route path="/work" element={<WorkPlace />} />
              <Route path="/intake" element={<IntakePlace />} />
              <Route path="*" element={<Navigate to="/find" replace />} />
            </Route>
          </Routes>
        </Suspense>
      </DeskProvider>
    </PersonContext>
  );
}
