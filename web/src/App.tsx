import { useQuery } from '@tanstack/react-query';
import { lazy, useMemo } from 'react';
import { Navigate, Route, Routes } from 'react-router';
import { sessionQuery } from './api/queries';
import { Frame } from './frame/Frame';
import { RightsProvider } from './frame/useMay';
import { SignIn } from './frame/SignIn';
import { AddressesPage } from './addresses/AddressesPage';
import { Empty, Loading } from './parts/states';
import { MessagesPage } from './messages/MessagesPage';
import { RulesPage } from './rules/RulesPage';
import { RunsPage } from './runs/RunsPage';
import { RecordsPage } from './systems/RecordsPage';
import { SystemsPage } from './systems/SystemsPage';

// What computes is large; it is fetched when a place that computes is opened.
const ValuesPage = lazy(async () => ({ default: (await import('./values/ValuesPage')).ValuesPage }));
const NewSample = lazy(async () => ({ default: (await import('./bench/NewSample')).NewSample }));
const HistoryPage = lazy(async () => ({
  default: (await import('./bench/HistoryPage')).HistoryPage,
}));
const BenchPage = lazy(async () => ({ default: (await import('./bench/BenchPage')).BenchPage }));
const FailuresPage = lazy(async () => ({
  default: (await import('./failures/FailuresPage')).FailuresPage,
}));
const TakeBackReconcile = lazy(async () => ({
  default: (await import('./undo/TakeBackPage')).TakeBackReconcile,
}));
const TakeBackRule = lazy(async () => ({
  default: (await import('./undo/TakeBackPage')).TakeBackRule,
}));
const ReconcilePage = lazy(async () => ({
  default: (await import('./reconcile/ReconcilePage')).ReconcilePage,
}));
const RulePage = lazy(async () => ({ default: (await import('./rules/RulePage')).RulePage }));
const BeginPage = lazy(async () => ({ default: (await import('./connect/BeginPage')).BeginPage }));
const ConnectPage = lazy(async () => ({ default: (await import('./connect/ConnectPage')).ConnectPage }));
const TellingPage = lazy(async () => ({
  default: (await import('./addresses/TellingPage')).TellingPage,
}));
const TodayPage = lazy(async () => ({ default: (await import('./today/TodayPage')).TodayPage }));
const TablesPage = lazy(async () => ({ default: (await import('./tables/TablesPage')).TablesPage }));

/** Every place and its address. */
export function App() {
  const session = useQuery(sessionQuery);
  const rights = useMemo(() => new Set(session.data?.rights), [session.data]);
  if (session.isPending) return <Loading />;
  if (!session.data) return <SignIn />;
  return (
    <RightsProvider value={rights}>
      <Routes>
        <Route element={<Frame user={session.data} />}>
          <Route index element={<Navigate to="/today" replace />} />
          <Route path="today" element={<TodayPage />} />
          <Route path="systems/connect" element={<BeginPage />} />
          <Route path="systems/connect/:draft/:part?" element={<ConnectPage />} />
          <Route path="systems/:system?" element={<SystemsPage />} />
          <Route path="records" element={<RecordsPage />} />
          <Route path="tables/:table?" element={<TablesPage />} />
          <Route path="rules" element={<RulesPage />} />
          <Route path="rules/:id" element={<RulePage />} />
          <Route path="bench/new" element={<NewSample />} />
          <Route path="bench/history" element={<HistoryPage />} />
          <Route path="bench/:sample?" element={<BenchPage />} />
          <Route path="failures" element={<FailuresPage />} />
          <Route path="reconcile/:id/take-back" element={<TakeBackReconcile />} />
          <Route path="rules/:id/take-back" element={<TakeBackRule />} />
          <Route path="reconcile/:id?" element={<ReconcilePage />} />
          <Route path="values" element={<ValuesPage />} />
          <Route path="messages/:id?" element={<MessagesPage />} />
          <Route path="addresses/:address?" element={<AddressesPage />} />
          <Route path="telling" element={<TellingPage />} />
          <Route path="runs/:id?" element={<RunsPage />} />
          <Route
            path="*"
            element={
              <Empty title="There is nothing here">
                The address leads nowhere. The bar above leads everywhere.
              </Empty>
            }
          />
        </Route>
      </Routes>
    </RightsProvider>
  );
}
