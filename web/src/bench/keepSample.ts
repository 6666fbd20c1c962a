import type { ChangeEvent, SampleDraft, StoredRecord } from '@vast-knot/core';
import { ask } from '../api/client';

/** Returns the records that rules would meet with an event, as their systems have them now. */
export function recordsMet(event: ChangeEvent): Promise<readonly StoredRecord[]> {
  return ask<readonly StoredRecord[]>('/samples/meet', { method: 'POST', body: event });
}

/** Keeps an event with the records that rules would meet as a sample. Returns its id. */
export async function keepSample({ name, event }: Pick<SampleDraft, 'name' | 'event'>): Promise<string> {
  const body = { name: name.slice(0, 120), note: '', event, records: await recordsMet(event) };
  return (await ask<{ id: string }>('/samples', { method: 'POST', body })).id;
}
