import type { JsonObject } from './json';
import type { RecordRef } from './record';

export const changeKinds = ['created', 'updated', 'deleted'] as const;
export type ChangeKind = (typeof changeKinds)[number];

/** What a system says happened, after its envelope has been read. */
export interface ChangeEvent {
  readonly id: string;
  readonly source: string;
  readonly kind: ChangeKind;
  readonly ref: RecordRef;
  /** Instant of the change, ISO 8601 with offset. `NOW()` is this instant. */
  readonly time: string;
  readonly record: JsonObject;
  readonly before?: JsonObject;
  /** Dotted paths of the fields that changed, once derived. */
  readonly changed: readonly string[];
}
