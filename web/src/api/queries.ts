import {
  keepPreviousData,
  queryOptions,
  useInfiniteQuery,
  useQueries,
  useQuery,
} from '@tanstack/react-query';
import { useState } from 'react';
import type {
  ImportView,
  DraftSummary,
  DraftView,
  EarlierVersion,
  ExchangeView,
  HeardEvent,
  RecordPage,
  RecordRef,
  RecordView,
  PausesView,
  RuleView,
  RunDetail,
  RunPage,
  Sample,
  TimelineEntry,
  ValueSearch,
  SampleSummary,
  Sightings,
  PeopleView,
  SignedIn,
  SystemHealth,
  SystemView,
  TableChangeView,
  TableSummary,
  TableView,
  CoverageView,
  EndpointView,
  MessageDetail,
  MessagePage,
  OutFolders,
  WaitView,
  RemovedRule,
  RuleDeeds,
  RuleFindings,
  RuleHistory,
} from '@vast-knot/core';
import type { Known } from '../work/known';
import { ask } from './client';

/** The key of signing out: what it leaves behind asks no one to sign in again. */
export const leaving = ['sign out'] as const;

/** Every query key, in one place. */
export const keys = {
  session: ['session'] as const,
  mySessions: ['session', 'sessions'] as const,
  myTokens: ['session', 'tokens'] as const,
  people: ['people'] as const,
  api: ['api'] as const,
  presence: (kind: string, key: string) => ['presence', kind, key] as const,
  imports: ['imports'] as const,
  importPlan: (asked: object) => ['imports', 'plan', asked] as const,
  audit: (filter: string) => ['audit', filter] as const,
  systems: ['systems'] as const,
  tables: ['tables'] as const,
  table: (name: string, revision: number) => ['tables', name, 'rows', revision] as const,
  tableHistory: (name: string) => ['tables', name, 'history'] as const,
  tableCoverage: (name: string) => ['tables', name, 'coverage'] as const,
  rules: ['rules'] as const,
  versions: ['rules', 'versions'] as const,
  rule: (id: string) => ['rules', id] as const,
  ruleFindings: ['rules', 'findings'] as const,
  removedRules: ['rules', 'removed'] as const,
  ruleDeeds: ['rules', 'deeds'] as const,
  ruleHistory: (id: string) => ['rules', 'history', id] as const,
  systemsHealth: ['systems health'] as const,
  exchanges: (system: string) => ['exchanges', system] as const,
  drafts: ['connection drafts'] as const,
  draft: (id: string) => ['connection drafts', id] as const,
  samples: ['samples'] as const,
  sample: (id: string) => ['samples', id] as const,
  jobs: ['jobs'] as const,
  history: (id: string) => ['jobs', 'history', id] as const,
  reconciles: ['jobs', 'reconciles'] as const,
  drift: (rule: string) => ['jobs', 'drift', rule] as const,
  reconcileList: (rule: string) => ['jobs', 'reconciles', 'list', rule] as const,
  reconcile: (id: string) => ['jobs', 'reconciles', 'one', id] as const,
  reconcileRecords: (id: string, filter: string) =>
    ['jobs', 'reconciles', 'one', id, 'records', filter] as const,
  reconcileGroups: (id: string, filter: string) =>
    ['jobs', 'reconciles', 'one', id, 'groups', filter] as const,
  forms: ['forms'] as const,
  fileSources: ['file sources'] as const,
  /** Among the runs, so that it is asked anew whenever one of them comes further. */
  answers: (system: string, type: string, filter: string) =>
    ['runs', 'list', 'answers', system, type, filter] as const,
  arrivals: ['jobs', 'arrivals'] as const,
  arrival: (id: string) => ['jobs', 'arrivals', id] as const,
  arrivalRows: (id: string, filter: string) => ['jobs', 'arrivals', id, 'rows', filter] as const,
  arrivalHead: (id: string, file: string) => ['jobs', 'arrivals', id, 'head', file] as const,
  arrivalRow: (id: string, at: number) => ['jobs', 'arrivals', id, 'row', at] as const,
  wholeSamples: ['samples', 'whole'] as const,
  severalSamples: (ids: readonly string[]) => ['samples', 'several', ids] as const,
  /** The sample that was removed last, to be put back. */
  removedSample: ['removed sample'] as const,
  runs: ['runs'] as const,
  today: ['today'] as const,
  pauses: ['pauses'] as const,
  telling: ['telling'] as const,
  failures: ['failures'] as const,
  runList: (filter: string) => ['runs', 'list', filter] as const,
  runTimes: (filter: string) => ['run times', filter] as const,
  run: (id: string) => ['runs', 'one', id] as const,
  undo: (of: string) => ['undo', of] as const,
  heard: (wanted: string) => ['runs', 'list', 'heard', wanted] as const,
  endpoints: ['endpoints'] as const,
  outFolders: ['out folders'] as const,
  messages: ['messages'] as const,
  messageList: (filter: string) => ['messages', 'list', filter] as const,
  message: (id: string) => ['messages', 'one', id] as const,
  waits: ['waits'] as const,
  timeline: (ref: RecordRef) => ['records', ref.system, ref.recordType, 'timeline', ref.id] as const,
  values: (text: string) => ['values', text] as const,
  sightings: (text: string) => ['values', 'known', text] as const,
  records: ['records'] as const,
  recordList: (system: string, type: string, query: string) =>
    ['records', system, type, 'list', query] as const,
  record: (ref: RecordRef) => ['records', ref.system, ref.recordType, 'one', ref.id] as const,
};

export const sessionQuery = queryOptions({
  queryKey: keys.session,
  queryFn: () => ask<SignedIn>('/session'),
  retry: false,
  staleTime: Infinity,
});

/** Everybody, their roles and invitations. */
export const usePeople = () => useQuery({ queryKey: keys.people, queryFn: () => ask<PeopleView>('/people') });

/** What came from other environments, the last one first. */
export const useImports = () =>
  useQuery({ queryKey: keys.imports, queryFn: () => ask<ImportView[]>('/imports') });

export const useSystems = () =>
  useQuery({ queryKey: keys.systems, queryFn: () => ask<SystemView[]>('/systems'), staleTime: Infinity });
/** How often it is looked at how systems stand, beside what the server tells. */
const healthMs = 10_000;
export const useSystemsHealth = () =>
  useQuery({
    queryKey: keys.systemsHealth,
    queryFn: () => ask<SystemHealth[]>('/systems/health'),
    refetchInterval: healthMs,
  });
/** What is paused, and how much waits. */
export const usePauses = () =>
  useQuery({
    queryKey: keys.pauses,
    queryFn: () => ask<PausesView>('/pauses'),
    refetchInterval: healthMs,
  });
/** The journal is written down every other second; until something stands in it, it is looked at again by itself. */
export const useExchanges = (system: string) =>
  useQuery({
    queryKey: keys.exchanges(system),
    queryFn: () => ask<ExchangeView[]>(`/systems/${system}/exchanges`),
    refetchInterval: ({ state }) => (state.data?.length === 0 ? 2000 : false),
  });
/** The last messages of a system, as they came. */
export const useMessagesOf = (system: string) =>
  useQuery({
    queryKey: [...keys.exchanges(system), 'told'],
    queryFn: () => ask<ExchangeView[]>(`/systems/${system}/messages`),
    refetchInterval: ({ state }) => (state.data?.length === 0 ? 2000 : false),
  });
export const useConnectionDrafts = () =>
  useQuery({ queryKey: keys.drafts, queryFn: () => ask<DraftSummary[]>('/connections/drafts') });
/** A draft as it was when its sheet was opened; what is saved is put into it. */
export const useConnectionDraftView = (id: string) =>
  useQuery({
    queryKey: keys.draft(id),
    queryFn: () => ask<DraftView>(`/connections/drafts/${encodeURIComponent(id)}`),
    staleTime: Infinity,
  });
export const useEndpoints = () =>
  useQuery({
    queryKey: keys.endpoints,
    queryFn: () => ask<EndpointView[]>('/endpoints'),
    staleTime: Infinity,
  });
export const useOutFolders = () =>
  useQuery({ queryKey: keys.outFolders, queryFn: () => ask<OutFolders>('/folders'), staleTime: Infinity });
export const useRemovedRules = () =>
  useQuery({ queryKey: keys.removedRules, queryFn: () => ask<RemovedRule[]>('/rules/removed') });
/** What each rule did lately. */
export const useRuleDeeds = () =>
  useQuery({ queryKey: keys.ruleDeeds, queryFn: () => ask<RuleDeeds[]>('/rules/deeds') });
export const useRuleHistory = (id: string) =>
  useQuery({ queryKey: keys.ruleHistory(id), queryFn: () => ask<RuleHistory>(`/rules/${id}/versions`) });
export const useWaits = () => useQuery({ queryKey: keys.waits, queryFn: () => ask<WaitView[]>('/waits') });
export const useMessages = (filter: URLSearchParams) =>
  useInfiniteQuery({
    queryKey: keys.messageList(filter.toString()),
    queryFn: ({ pageParam }) => {
      const query = new URLSearchParams(filter);
      if (pageParam !== '') query.set('before', pageParam);
      return ask<MessagePage>(`/messages?${query.toString()}`);
    },
    initialPageParam: '',
    getNextPageParam: (page) => page.next ?? undefined,
    placeholderData: keepPreviousData,
  });
export const useMessage = (id: string | undefined) =>
  useQuery({
    queryKey: keys.message(id ?? ''),
    queryFn: () => ask<MessageDetail>(`/messages/${id ?? ''}`),
    enabled: id !== undefined,
  });
/** What rules wrote last to each field of a record. */
export const useTimeline = (ref: RecordRef) =>
  useQuery({
    queryKey: keys.timeline(ref),
    queryFn: () => ask<TimelineEntry[]>(`${recordPath(ref)}/timeline`),
  });
export const useValueSearch = (text: string) =>
  useQuery({
    queryKey: keys.values(text),
    queryFn: () => ask<ValueSearch>(`/values?text=${encodeURIComponent(text)}`),
    enabled: text !== '',
    gcTime: 0,
  });
/** Where a text is held as records were last seen; a text of fewer than three letters is not looked up. */
export const useSightings = (text: string) =>
  useQuery({
    queryKey: keys.sightings(text),
    queryFn: () => ask<Sightings>(`/values/known?text=${encodeURIComponent(text)}`),
    enabled: [...text].length >= 3,
    placeholderData: keepPreviousData,
    gcTime: 60_000,
  });
export const useTables = () =>
  useQuery({ queryKey: keys.tables, queryFn: () => ask<TableSummary[]>('/tables') });

/** A table with its rows; while its revision stays, it is fetched once. */
const tableQuery = ({ name, revision }: TableSummary) =>
  queryOptions({
    queryKey: keys.table(name, revision),
    queryFn: () => ask<TableView>(tablePath(name)),
    staleTime: Infinity,
  });
const noTable: TableSummary = {
  name: '',
  columns: [],
  matching: 'exact',
  onMiss: 'blank',
  rowCount: 0,
  revision: 0,
  usedBy: [],
};
export const useTable = (summary: TableSummary | undefined) =>
  useQuery({
    ...tableQuery(summary ?? noTable),
    enabled: summary !== undefined,
    placeholderData: (known) => (known?.name === summary?.name ? known : undefined),
  });
export const useTableHistory = (name: string) =>
  useQuery({
    queryKey: keys.tableHistory(name),
    queryFn: () => ask<TableChangeView[]>(`${tablePath(name)}/history`),
  });
export const useTableCoverage = (name: string) =>
  useQuery({
    queryKey: keys.tableCoverage(name),
    queryFn: () => ask<CoverageView[]>(`${tablePath(name)}/coverage`),
  });
export function tablePath(name: string): string {
  return `/tables/${encodeURIComponent(name)}`;
}

function tablesOf(results: readonly { readonly data: TableView | undefined; readonly error: unknown }[]) {
  return {
    all: results.every(({ data }) => data !== undefined),
    rows: results.flatMap(({ data }) => data ?? []),
    error: results.find(({ error }) => error !== null)?.error,
  };
}

/** All schemas and tables, for everything that computes; the same object as long as nothing in it changes. */
export function useKnown(): { readonly known: Known | undefined; readonly error: unknown } {
  const systems = useSystems();
  const list = useTables();
  const tables = useQueries({
    queries: (list.data ?? []).map(tableQuery),
    combine: tablesOf,
  });
  const [kept, setKept] = useState<Known>();
  const { rows, all } = tables;
  const whole = systems.data !== undefined && list.data !== undefined && all;
  const same =
    kept !== undefined &&
    kept.systems === systems.data &&
    kept.tables.length === rows.length &&
    kept.tables.every((table, at) => table === rows[at]);
  if (whole && !same) setKept({ systems: systems.data, tables: rows });
  return { known: kept, error: systems.error ?? list.error ?? tables.error ?? undefined };
}
export const useRuleFindings = () =>
  useQuery({ queryKey: keys.ruleFindings, queryFn: () => ask<RuleFindings[]>('/rules/findings') });
export const useRules = () => useQuery({ queryKey: keys.rules, queryFn: () => ask<RuleView[]>('/rules') });
/** Versions that run no longer. */
export const useVersions = () =>
  useQuery({ queryKey: keys.versions, queryFn: () => ask<EarlierVersion[]>('/rules/versions') });
export const useRule = (id: string | undefined) =>
  useQuery({
    queryKey: keys.rule(id ?? ''),
    queryFn: () => ask<RuleView>(`/rules/${id ?? ''}`),
    enabled: id !== undefined,
    staleTime: Infinity,
  });
export const useSamples = () =>
  useQuery({ queryKey: keys.samples, queryFn: () => ask<SampleSummary[]>('/samples') });
/** Asks, each time a run comes further, whether an event of a kind came in since the bench began to listen. */
export const useHeard = (wanted: URLSearchParams | undefined) =>
  useQuery({
    queryKey: keys.heard(wanted?.toString() ?? ''),
    queryFn: () => ask<HeardEvent>(`/samples/heard?${wanted?.toString() ?? ''}`),
    enabled: wanted !== undefined,
  });
/** All samples with their records, for replaying them. */
export const useWholeSamples = () =>
  useQuery({ queryKey: keys.wholeSamples, queryFn: () => ask<Sample[]>('/samples/whole') });
export const sampleQuery = (id: string) =>
  queryOptions({
    queryKey: keys.sample(id),
    queryFn: () => ask<Sample>(`/samples/${id}`),
    staleTime: Infinity,
  });
/** Several samples, whole: one query, because a sheet that asks for each by itself has that much more to do with every key. */
export const useSeveralSamples = (ids: readonly string[]) =>
  useQuery({
    queryKey: keys.severalSamples(ids),
    queryFn: ({ client }) => Promise.all(ids.map((id) => client.fetchQuery(sampleQuery(id)))),
    placeholderData: keepPreviousData,
  });
export const useSample = (id: string | undefined) =>
  useQuery({ ...sampleQuery(id ?? ''), enabled: id !== undefined, placeholderData: keepPreviousData });

/** Returns what the runs of a list are asked for with: unless they are asked for, the events that our own writes cause would bury all others. */
export function runQuery(filter: URLSearchParams): URLSearchParams {
  const query = new URLSearchParams(filter);
  if (!['result', 'state', 'own'].some((name) => query.has(name))) query.set('own', 'hidden');
  return query;
}

export const useRuns = (filter: URLSearchParams) =>
  useInfiniteQuery({
    queryKey: keys.runList(filter.toString()),
    queryFn: ({ pageParam }) => {
      const query = runQuery(filter);
      if (pageParam !== '') query.set('before', pageParam);
      return ask<RunPage>(`/runs?${query.toString()}`);
    },
    initialPageParam: '',
    getNextPageParam: (page) => page.next ?? undefined,
    placeholderData: keepPreviousData,
  });
export const useRun = (id: string | undefined) =>
  useQuery({
    queryKey: keys.run(id ?? ''),
    queryFn: () => ask<RunDetail>(`/runs/${id ?? ''}`),
    enabled: id !== undefined,
  });

export const useRecords = (
  system: string,
  type: string,
  search: string,
  filter?: { field: string; value: string },
) => {
  const query = new URLSearchParams({ search, limit: '100', ...filter }).toString();
  return useInfiniteQuery({
    queryKey: keys.recordList(system, type, query),
    queryFn: ({ pageParam }) =>
      ask<RecordPage>(
        `/records/${system}/${type}?${query}${pageParam === '' ? '' : `&cursor=${encodeURIComponent(pageParam)}`}`,
      ),
    initialPageParam: '',
    getNextPageParam: (page) => page.next ?? undefined,
    placeholderData: keepPreviousData,
    enabled: system !== '' && type !== '',
  });
};
export const useRecord = (ref: RecordRef | undefined) =>
  useQuery({
    queryKey: keys.record(ref ?? { system: '', recordType: '', id: '' }),
    queryFn: () => ask<RecordView>(recordPath(ref)),
    enabled: ref !== undefined,
  });

export function recordPath(ref: RecordRef | undefined): string {
  return ref ? `/records/${ref.system}/${ref.recordType}/${encodeURIComponent(ref.id)}` : '';
}
