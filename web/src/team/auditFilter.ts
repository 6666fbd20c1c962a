import type { AuditEntry } from '@vast-knot/core';

/** The kinds of things that are told of. */
export const kinds: readonly string[] = [
  'rule',
  'rules',
  'table',
  'sample',
  'system',
  'connection draft',
  'outside address',
  'person',
  'invitation',
  'role',
  'token',
  'environment',
  'telling',
  'everything',
  'run',
  'failures',
  'message',
  'reconcile',
  'job',
  'record',
  'inlet',
  'address',
];

/** Returns what the server is asked with for what stands in the address: whole days are of the zone of this browser. */
export function filterOf(address: URLSearchParams): URLSearchParams {
  const filter = new URLSearchParams();
  for (const name of ['text', 'person', 'kind', 'key']) {
    const value = address.get(name);
    if (value !== null && value !== '') filter.set(name, value);
  }
  const from = dayStart(address.get('since'), 0);
  const to = dayStart(address.get('until'), 1);
  if (from !== undefined) filter.set('from', from);
  if (to !== undefined) filter.set('to', to);
  return filter;
}

/** Returns when a day begins, or the one so many days later; undefined for what is no day. */
function dayStart(day: string | null, later: number): string | undefined {
  const parts = /^(\d{4})-(\d{2})-(\d{2})$/.exec(day ?? '');
  if (!parts) return undefined;
  const [year = 0, month = 1, date = 1] = parts.slice(1).map(Number);
  return new Date(year, month - 1, date + later).toISOString();
}

const places: Readonly<Record<string, (key: string) => string>> = {
  rule: (key) => `/rules/${key}`,
  table: (key) => `/tables/${encodeURIComponent(key)}`,
  sample: (key) => `/bench/${key}`,
  system: (key) => `/systems/${key}`,
  'outside address': (key) => `/addresses/${key}`,
  person: () => '/people',
  role: (key) => `/roles?role=${key}`,
  environment: () => '/environment',
  telling: () => '/telling',
  run: (key) => `/runs/${key}`,
  message: (key) => `/messages/${key}`,
  reconcile: (key) => `/reconcile/${key}`,
};

/** Returns where something stands that was changed; undefined for what has no page. */
export function addressOf({ kind, key }: Pick<AuditEntry, 'kind' | 'key'>): string | undefined {
  return key === '' && kind !== 'environment' && kind !== 'telling' ? undefined : places[kind]?.(key);
}
