import { keepPreviousData, queryOptions, useInfiniteQuery, useQuery } from '@tanstack/react-query';
import type {
  RecordPage,
  RecordRef,
  RecordView,
  RuleView,
  RunDetail,
  RunPage,
  Sample,
  SampleSummary,
  SignedIn,
  SystemView,
  TableView,
} from '@vast-knot/core';
import { ask } from './client';

/** Every query key, in one place. */
export const keys = {
  session: ['session'] as const,
  systems: ['systems'] as const,
  tables: ['tables'] as const,
  rules: ['rules'] as const,
  rule: (id: string) => ['rules', id] as const,
  samples: ['samples'] as const,
  sample: (id: string) => ['samples', id] as const,
  runs: ['runs'] as const,
  runList: (filter: string) => ['runs', 'list', filter] as const,
  run: (id: string) => ['runs', 'one', id] as const,
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

export const useSystems = () =>
  useQuery({ queryKey: keys.systems, queryFn: () => ask<SystemView[]>('/systems'), staleTime: Infinity });
export const useTables = () =>
  useQuery({ queryKey: keys.tables, queryFn: () => ask<TableView[]>('/tables') });
export const useRules = () => useQuery({ queryKey: keys.rules, queryFn: () => ask<RuleView[]>('/rules') });
export const useRule = (id: string) =>
  useQuery({ queryKey: keys.rule(id), queryFn: () => ask<RuleView>(`/rules/${id}`), staleTime: Infinity });
export const useSamples = () =>
  useQuery({ queryKey: keys.samples, queryFn: () => ask<SampleSummary[]>('/samples') });
export const useSample = (id: string | undefined) =>
  useQuery({
    queryKey: keys.sample(id ?? ''),
    queryFn: () => ask<Sample>(`/samples/${id ?? ''}`),
    enabled: id !== undefined,
    staleTime: Infinity,
    placeholderData: keepPreviousData,
  });

export const useRuns = (filter: URLSearchParams) =>
  useInfiniteQuery({
    queryKey: keys.runList(filter.toString()),
    queryFn: ({ pageParam }) => {
      const query = new URLSearchParams(filter);
      // Unless they are asked for, the events that our own writes cause would bury all others.
      if (!['result', 'state', 'own'].some((name) => query.has(name))) query.set('own', 'hidden');
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
