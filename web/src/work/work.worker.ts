import type { StoredRecord, Surroundings } from '@vast-knot/core';
import { surroundingsOf, type Known } from './known';
import { works, type WorkName } from './works';

export type Message =
  /** What is known from now on. */
  | { readonly known: Known }
  /** Records that later work is about. */
  | { readonly records: readonly StoredRecord[] }
  | {
      readonly id: number;
      readonly work: WorkName;
      readonly input: object;
      /** Whether the records that were lent belong to the input. */
      readonly lent: boolean;
    };

export type Answer = { readonly id: number } & ({ readonly output: unknown } | { readonly error: string });

let surroundings: Surroundings | undefined;
let records: readonly StoredRecord[] = [];

self.onmessage = ({ data }: MessageEvent<Message>) => {
  if ('known' in data) {
    surroundings = surroundingsOf(data.known);
    return;
  }
  if ('records' in data) {
    records = data.records;
    return;
  }
  const { id, work } = data;
  const input = data.lent ? { ...data.input, records } : data.input;
  const compute = works[work] as (input: unknown, surroundings: Surroundings) => unknown;
  const start = async () => {
    if (!surroundings) throw new Error('The worker was asked before it was told of the schemas.');
    return compute(input, surroundings);
  };
  start().then(
    (output) => self.postMessage({ id, output } satisfies Answer),
    (thrown: unknown) =>
      self.postMessage({
        id,
        error: thrown instanceof Error ? thrown.message : String(thrown),
      } satisfies Answer),
  );
};
