import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import type { FileSource, FileSourceChange, FileSourceList, FileSourceView } from '@vast-knot/core';
import { ask } from '../api/client';
import { keys } from '../api/queries';

/** So often it is asked how a look went that was asked for. */
const lookingMs = 700;
/** So often it is asked by itself: files come without a word. */
const restingMs = 15_000;

/** The sources; asked quickly while one is being looked at, which shows by another time of its last look. */
export function useSources(looking: boolean) {
  return useQuery({
    queryKey: keys.fileSources,
    queryFn: () => ask<FileSourceList>('/file-sources'),
    refetchInterval: looking ? lookingMs : restingMs,
  });
}

/** Makes a source, changes one, takes one out, and has one looked at. */
export function useSourceDeeds() {
  const client = useQueryClient();
  const renew = () => {
    void client.invalidateQueries({ queryKey: keys.fileSources });
    void client.invalidateQueries({ queryKey: keys.arrivals });
    void client.invalidateQueries({ queryKey: keys.today });
  };
  const add = useMutation({
    mutationFn: (body: FileSourceChange) => ask<FileSourceView>('/file-sources', { method: 'POST', body }),
    onSuccess: renew,
  });
  const change = useMutation({
    mutationFn: ({
      id,
      revision,
      body,
    }: {
      readonly id: string;
      readonly revision: number;
      readonly body: FileSourceChange;
    }) => ask<FileSourceView>(`/file-sources/${id}`, { method: 'PUT', ifMatch: revision, body }),
    onSuccess: renew,
  });
  const takeOut = useMutation({
    mutationFn: (id: string) => ask(`/file-sources/${id}`, { method: 'DELETE' }),
    onSuccess: renew,
  });
  const look = useMutation({
    mutationFn: (id: string) => ask(`/file-sources/${id}/look`, { method: 'POST' }),
    onSuccess: renew,
  });
  return { add, change, takeOut, look };
}

/** Returns what is said of a source, without how it stands. */
export function saidOf({ name, origin, system, recordType, apply, expected }: FileSourceView): FileSource {
  return { name, origin, system, recordType, apply, expected };
}
