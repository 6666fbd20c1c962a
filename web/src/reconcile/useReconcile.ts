import { keepPreviousData, useInfiniteQuery, useQuery } from '@tanstack/react-query';
import type {
  ReconcileFilter,
  ReconcileGroup,
  ReconcileGrouping,
  ReconcileRecordPage,
  ReconcileView,
} from '@vast-knot/core';
import { ask } from '../api/client';
import { keys } from '../api/queries';
import { isUnfinished } from '../parts/JobBar';

/** So often it is asked how far a job has come. */
const askAgainMs = 500;

/** Returns whether a look goes on, or something of it is being written. */
export function goesOn(view: ReconcileView | undefined): boolean {
  return isUnfinished(view?.look ?? undefined) || isUnfinished(view?.writing ?? undefined);
}

export function useReconcile(id: string) {
  return useQuery({
    queryKey: keys.reconcile(id),
    queryFn: () => ask<ReconcileView>(`/reconciles/${id}`),
    refetchInterval: ({ state }) => (goesOn(state.data) ? askAgainMs : false),
  });
}

export function useReconciles(rule: string) {
  return useQuery({
    queryKey: keys.reconcileList(rule),
    queryFn: () => ask<readonly ReconcileView[]>(`/reconciles${rule === '' ? '' : `?rule=${rule}`}`),
  });
}

const names: readonly (keyof ReconcileFilter)[] = [
  'standing',
  'about',
  'path',
  'before',
  'after',
  'cause',
  'search',
  'outcome',
];

/** Returns the filter that an address holds. */
export function filterOf(params: URLSearchParams): ReconcileFilter {
  return Object.fromEntries(
    names.flatMap((name) => {
      const value = params.get(name);
      return value === null || (value === '' && name !== 'path') ? [] : [[name, value]];
    }),
  ) as ReconcileFilter;
}

const queryOf = (filter: ReconcileFilter, more: Readonly<Record<string, string>> = {}) =>
  new URLSearchParams({ ...filter, ...more }).toString();

/** Returns the records of a look that a filter lets through, page by page; renewed while the look goes on. */
export function useReconcileRecords(id: string, filter: ReconcileFilter, live: boolean) {
  return useInfiniteQuery({
    queryKey: keys.reconcileRecords(id, queryOf(filter)),
    queryFn: ({ pageParam }) =>
      ask<ReconcileRecordPage>(`/reconciles/${id}/records?${queryOf(filter, { from: pageParam })}`),
    initialPageParam: '0',
    getNextPageParam: ({ next }) => next,
    placeholderData: keepPreviousData,
    refetchInterval: live ? askAgainMs * 3 : false,
  });
}

export function useReconcileGroups(
  id: string,
  filter: ReconcileFilter,
  by: ReconcileGrouping,
  live: boolean,
) {
  return useQuery({
    queryKey: keys.reconcileGroups(id, queryOf(filter, { by })),
    queryFn: () => ask<readonly ReconcileGroup[]>(`/reconciles/${id}/groups?${queryOf(filter, { by })}`),
    // What was put together otherwise is no stand-in: whoever pressed one would narrow by something else.
    placeholderData: (known, query) =>
      new URLSearchParams(String(query?.queryKey.at(-1))).get('by') === by ? known : undefined,
    refetchInterval: live ? askAgainMs * 3 : false,
  });
}
