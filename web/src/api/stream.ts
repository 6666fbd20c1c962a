import { useQueryClient, type QueryClient } from '@tanstack/react-query';
import { useEffect, useSyncExternalStore } from 'react';
import { refKey, type Notice, type RecordRef } from '@vast-knot/core';
import { keys } from './queries';

/** Fields that changed a moment ago, by record; screens mark them. */
const arrivals = new Map<string, { readonly fields: readonly string[]; readonly at: number }>();
const watchers = new Set<() => void>();
const markedMs = 6000;

/** Listens to the server for as long as somebody is signed in, and lets what is shown be fetched anew. */
export function useNotices(): void {
  const client = useQueryClient();
  useEffect(() => {
    const source = new EventSource('/api/stream');
    let missed = false;
    source.onmessage = ({ data }: MessageEvent<string>) => act(client, JSON.parse(data) as Notice);
    source.onerror = () => (missed = true);
    source.onopen = () => {
      // What happened while the connection was broken was not told, nor what happened while the page was fetched.
      if (missed) void client.invalidateQueries();
      else
        for (const queryKey of [keys.records, keys.runs, keys.messages])
          void client.invalidateQueries({ queryKey });
      missed = false;
    };
    return () => source.close();
  }, [client]);
}

function act(client: QueryClient, notice: Notice): void {
  switch (notice.kind) {
    case 'run':
      void client.invalidateQueries({ queryKey: [...keys.runs, 'list'] });
      void client.invalidateQueries({ queryKey: keys.run(notice.id) });
      void client.invalidateQueries({ queryKey: keys.waits });
      return;
    case 'record':
      noteArrival(notice.ref, notice.fields);
      void client.invalidateQueries({ queryKey: keys.record(notice.ref) });
      void client.invalidateQueries({ queryKey: keys.fieldWrites(notice.ref) });
      void client.invalidateQueries({ queryKey: keys.timeline(notice.ref) });
      void client.invalidateQueries({
        queryKey: [...keys.records, notice.ref.system, notice.ref.recordType, 'list'],
      });
      return;
    case 'message':
      void client.invalidateQueries({ queryKey: keys.messages });
      return;
    case 'sample':
      void client.invalidateQueries({ queryKey: keys.samples });
      return;
    case 'registry':
      void client.invalidateQueries({
        queryKey: [notice.of === 'table_rows' ? 'tables' : notice.of],
        exact: true,
      });
      void client.invalidateQueries({ queryKey: keys.ruleFindings });
  }
}

function noteArrival(ref: RecordRef, fields: readonly string[]): void {
  arrivals.set(refKey(ref), { fields, at: Date.now() });
  watchers.forEach((watch) => watch());
  setTimeout(() => {
    const arrival = arrivals.get(refKey(ref));
    if (arrival && Date.now() - arrival.at < markedMs) return;
    arrivals.delete(refKey(ref));
    watchers.forEach((watch) => watch());
  }, markedMs + 50);
}

const none: readonly string[] = [];

/** The fields of a record that changed within the last seconds. */
export function useArrivals(ref: RecordRef | undefined): readonly string[] {
  return useSyncExternalStore(
    (watch) => {
      watchers.add(watch);
      return () => watchers.delete(watch);
    },
    () => (ref ? (arrivals.get(refKey(ref))?.fields ?? none) : none),
  );
}
