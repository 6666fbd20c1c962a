import { useQuery } from '@tanstack/react-query';
import { lazy, useMemo, type ReactNode } from 'react';
import { Navigate, Route, Routes, useLocation } from 'react-router';
import { rights, type Right } from '@vast-knot/core';
import { sessionQuery } from './api/queries';
import { Frame } from './frame/Frame';
import { RightsProvider, useMay } from './frame/useMay';
import { SignIn } from './frame/SignIn';
import { AddressesPage } from './addresses/AddressesPage';
import { JoinPage } from './frame/JoinPage';
import { readAs } from './parts/habits';
import { TeamFrame } from './team/TeamFrame';
import { Empty, Loading } from './parts/states';
import { MessagesPage } from './messages/MessagesPage';
import { RulesPage } from './rules/list/RulesPage';
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
const ArrivalsPage = lazy(async () => ({
  default: (await import('./arrivals/ArrivalsPage')).ArrivalsPage,
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
const VersionsPage = lazy(async () => ({
  default: (await import('./rules/versions/VersionsPage')).VersionsPage,
}));
const BeginPage = lazy(async () => ({ default: (await import('./connect/BeginPage')).BeginPage }));
const ConnectPage = lazy(async () => ({ default: (await import('./connect/ConnectPage')).ConnectPage }));
const TellingPage = lazy(async () => ({
  default: (await import('./addresses/TellingPage')).TellingPage,
}));
const PeoplePage = lazy(async () => ({ default: (await import('./team/PeoplePage')).PeoplePage }));
const RolesPage = lazy(async () => ({ default: (await import('./team/RolesPage')).RolesPage }));
const EnvironmentPage = lazy(async () => ({
  default: (await import('./team/EnvironmentPage')).EnvironmentPage,
}));
const MovingPage = lazy(async () => ({ default: (await import('./moving/MovingPage')).MovingPage }));
const AuditPage = lazy(async () => ({ default: (await import('./team/AuditPage')).AuditPage }));
const MePage = lazy(async () => ({ default: (await import('./me/MePage')).MePage }));
const ReferencePage = lazy(async () => ({
  default: (await import('./help/ReferencePage')).ReferencePage,
}));
const SourcesPage = lazy(async () => ({
  default: (await import('./arrivals/SourcesPage')).SourcesPage,
}));
const FormsPage = lazy(async () => ({ default: (await import('./forms/FormsPage')).FormsPage }));
const FormPage = lazy(async () => ({ default: (await import('./forms/FormPage')).FormPage }));
const TodayPage = lazy(async () => ({ default: (await import('./today/TodayPage')).TodayPage }));
const TablesPage = lazy(async () => ({ default: (await import('./tables/TablesPage')).TablesPage }));

/** Returns a page for those who may do what it is for; others are told so, also when they come by its address. */
const needing = (right: Right, page: ReactNode) => <Needing right={right}>{page}</Needing>;

function Needing({ right, children }: { readonly right: Right; readonly children: ReactNode }) {
  return useMay(right) ? (
    children
  ) : (
    <Empty title="This is not for you to do">To {rights[right]} is not among your rights.</Empty>
  );
}

/** Every place and its address. */
export function App() {
  // Whoever was invited is nobody yet, and whoever signed in here may use another's link.
  return useLocation().pathname === '/join' ? <JoinPage /> : <SignedInApp />;
}

function SignedInApp() {
  const session = useQuery(sessionQuery);
  const mine = useMemo(() => new Set(session.data?.rights), [session.data]);
  if (session.isPending) return <Loading />;
  if (!session.data) return <SignIn />;
  // Before anything is drawn that shows a time or a count.
  readAs(session.data.habits);
  const { zone, form } = session.data.habits;
  const first = session.data.mustHaveSecondFactor ? '/me' : '/today';
  return (
    <RightsProvider value={mine}>
      <Routes key={`${zone ?? ''} ${form ?? ''}`}>
        <Route element={<Frame user={session.data} />}>
          <Route index element={<Navigate to={first} replace />} />
          <Route path="today" element={<TodayPage />} />
          <Route path="systems/connect" element={needing('systems.change', <BeginPage />)} />
          <Route path="systems/connect/:draft/:part?" element={needing('systems.change', <ConnectPage />)} />
          <Route path="systems/:system?" element={<SystemsPage />} />
          <Route path="records" element={<RecordsPage />} />
          <Route path="tables/:table?" element={<TablesPage />} />
          <Route path="rules" element={<RulesPage />} />
          <Route path="rules/:id/versions" element={<VersionsPage />} />
          <Route path="rules/:id" element={<RulePage />} />
          <Route path="bench/new" element={needing('samples.change', <NewSample />)} />
          <Route path="bench/history" element={<HistoryPage />} />
          <Route path="bench/:sample?" element={<BenchPage />} />
          <Route path="arrivals/sources" element={needing('files.read', <SourcesPage />)} />
          <Route path="arrivals/forms" element={needing('files.read', <FormsPage />)} />
          <Route path="arrivals/forms/:system/:type" element={needing('files.read', <FormPage />)} />
          <Route path="arrivals/:id?" element={needing('files.read', <ArrivalsPage />)} />
          <Route path="failures" element={<FailuresPage />} />
          <Route path="reconcile/:id/take-back" element={<TakeBackReconcile />} />
          <Route path="rules/:id/take-back" element={<TakeBackRule />} />
          <Route path="reconcile/:id?" element={<ReconcilePage />} />
          <Route element={<TeamFrame />}>
            <Route path="me" element={<MePage />} />
            <Route path="people" element={needing('people.read', <PeoplePage />)} />
            <Route path="roles" element={needing('people.read', <RolesPage />)} />
            <Route path="audit" element={needing('audit.read', <AuditPage />)} />
            <Route path="moving" element={needing('rules.read', <MovingPage />)} />
            <Route path="environment" element={needing('environment.change', <EnvironmentPage />)} />
          </Route>
          <Route path="values" element={<ValuesPage />} />
          <Route path="reference/:part?" element={<ReferencePage />} />
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
