import { keepPreviousData, useInfiniteQuery, useQuery } from '@tanstack/react-query';
import type {
  ArrivalFilter,
  ArrivalRowPage,
  ArrivalRowWhole,
  ArrivalSummary,
  ArrivalView,
  FileHead,
} from '@vast-knot/core';
import { ask } from '../api/client';
import { keys } from '../api/queries';
import { isUnfinished } from '../parts/JobBar';
import type { LayoutDraft } from './useLayoutDraft';

/** So often it is asked how far a job has come. */
const askAgainMs = 500;

/** Files that the server lists at a time. */
const filesOfPage = 100;

/** Returns whether a file is being looked at, or applied. */
export function isBusy(view: ArrivalSummary | undefined): boolean {
  return isUnfinished(view?.look ?? undefined) || isUnfinished(view?.applying ?? undefined);
}

export function useArrivals() {
  return useInfiniteQuery({
    queryKey: keys.arrivals,
    queryFn: ({ pageParam }) =>
      ask<readonly ArrivalSummary[]>(`/arrivals${pageParam === '' ? '' : `?before=${pageParam}`}`),
    initialPageParam: '',
    // A page that is not full is the last one.
    getNextPageParam: (page) => (page.length < filesOfPage ? undefined : page.at(-1)?.id),
    refetchInterval: ({ state }) => (state.data?.pages.flat().some(isBusy) ? askAgainMs * 3 : false),
  });
}

export function useArrival(id: string) {
  return useQuery({
    queryKey: keys.arrival(id),
    queryFn: () => ask<ArrivalView>(`/arrivals/${id}`),
    refetchInterval: ({ state }) => (isBusy(state.data) ? askAgainMs : false),
  });
}

const names: readonly (keyof ArrivalFilter)[] = ['standing', 'search', 'outcome'];

/** Returns the filter that an address holds. */
export function filterOf(params: URLSearchParams): ArrivalFilter {
  return Object.fromEntries(
    names.flatMap((name) => {
      const value = params.get(name);
      return value === null || value === '' ? [] : [[name, value]];
    }),
  ) as ArrivalFilter;
}

const queryOf = (filter: ArrivalFilter, more: Readonly<Record<string, string>> = {}) =>
  new URLSearchParams({ ...filter, ...more }).toString();

/** Returns the rows of a file that a filter lets through, page by page; renewed while a job is at it. */
export function useArrivalRows(id: string, filter: ArrivalFilter, live: boolean) {
  return useInfiniteQuery({
    queryKey: keys.arrivalRows(id, queryOf(filter)),
    queryFn: ({ pageParam }) =>
      ask<ArrivalRowPage>(`/arrivals/${id}/rows?${queryOf(filter, { from: String(pageParam) })}`),
    initialPageParam: 0,
    getNextPageParam: ({ next }) => next,
    placeholderData: keepPreviousData,
    refetchInterval: live ? askAgainMs * 3 : false,
  });
}

export function useArrivalRow(id: string, at: number | undefined) {
  return useQuery({
    queryKey: keys.arrivalRow(id, at ?? 0),
    queryFn: () => ask<ArrivalRowWhole>(`/arrivals/${id}/rows/${at}`),
    enabled: at !== undefined,
  });
}

/** Returns the beginning of a file as it is read now: before its layout can be kept it is asked for by itself. */
export function useHead(view: ArrivalView, { place, file }: Pick<LayoutDraft, 'place' | 'file'>): FileHead {
  const isOther = file !== null && JSON.stringify(file) !== JSON.stringify(view.head.file);
  const tried = useQuery({
    queryKey: keys.arrivalHead(view.id, JSON.stringify(file)),
    queryFn: () => ask<FileHead>(`/arrivals/${view.id}/head`, { method: 'POST', body: { file } }),
    enabled: isOther && place === undefined,
    placeholderData: keepPreviousData,
  });
  return (isOther && place === undefined ? tried.data : undefined) ?? view.head;
}
