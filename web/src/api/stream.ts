import { useQueryClient, type QueryClient, type QueryKey } from '@tanstack/react-query';
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
      else for (const queryKey of [keys.records, keys.runs, keys.messages]) refresh(client, queryKey);
      missed = false;
    };
    return () => source.close();
  }, [client]);
}

/**
 * Has what is shown fetched anew. A first fetch that is under way is not started again by itself, and may have been answered
 * before what the notice tells of; it is followed by another one.
 */
function refresh(client: QueryClient, queryKey: QueryKey, exact = false): void {
  for (const query of client.getQueryCache().findAll({ queryKey, exact })) {
    if (query.state.data !== undefined || query.state.fetchStatus !== 'fetching') continue;
    const again = () => client.invalidateQueries({ queryKey: query.queryKey, exact: true });
    void query.promise?.then(again, () => undefined);
  }
  void client.invalidateQueries({ queryKey, exact });
}

function act(client: QueryClient, notice: Notice): void {
  switch (notice.kind) {
    case 'run':
      refresh(client, [...keys.runs, 'list']);
      refresh(client, keys.run(notice.id));
      refresh(client, keys.waits);
      return;
    case 'record':
      noteArrival(notice.ref, notice.fields);
      refresh(client, keys.record(notice.ref));
      refresh(client, keys.timeline(notice.ref));
      refresh(client, [...keys.records, notice.ref.system, notice.ref.recordType, 'list']);
      return;
    case 'message':
      refresh(client, keys.messages);
      return;
    case 'sample':
      refresh(client, keys.samples);
      return;
    case 'system':
      refresh(client, keys.systemsHealth);
      return;
    case 'presence':
      refresh(client, keys.presence(notice.of, notice.key));
      return;
    case 'job':
      refresh(client, keys.jobs);
      return;
    // What somebody may has changed: the server ends what they listen to, and tells it nobody.
    case 'person':
      return;
    case 'registry':
      refresh(client, [notice.of === 'table_rows' ? 'tables' : notice.of], true);
      refresh(client, keys.ruleFindings);
      refresh(client, keys.pauses);
      refresh(client, keys.versions);
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
