import { keepPreviousData, useInfiniteQuery, useQuery } from '@tanstack/react-query';
import type { AnswerFilter, AnswerPage, FormSummary } from '@vast-knot/core';
import { ask } from '../api/client';
import { keys } from '../api/queries';
import { formPath } from './useFormDraft';

/** The record types that come in, with their pages and how their answers stand. */
export const useForms = () =>
  useQuery({ queryKey: keys.forms, queryFn: () => ask<readonly FormSummary[]>('/forms') });

/** Returns the filter of answers that an address holds. */
export function answerFilterOf(params: URLSearchParams): AnswerFilter {
  return Object.fromEntries(
    ['standing', 'search'].flatMap((name) => {
      const value = params.get(name) ?? '';
      return value === '' ? [] : [[name, value]];
    }),
  ) as AnswerFilter;
}

/** The answers of a form that a filter lets through, the newest first. */
export function useAnswers(
  named: { readonly system: string; readonly recordType: string },
  filter: AnswerFilter,
) {
  const query = new URLSearchParams({ ...filter }).toString();
  return useInfiniteQuery({
    queryKey: keys.answers(named.system, named.recordType, query),
    queryFn: ({ pageParam }) =>
      ask<AnswerPage>(`${formPath(named)}/answers?${query}${pageParam === '' ? '' : `&before=${pageParam}`}`),
    initialPageParam: '',
    getNextPageParam: ({ next }) => next,
    placeholderData: keepPreviousData,
  });
}
