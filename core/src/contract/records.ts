/** Between server and web: systems, their records, and where values are. Types only. */
import type { RecordChange } from '../change/recordChange';
import type { RuleRef } from '../engine/report';
import type { Json, JsonObject } from '../model/json';
import type { RecordRef } from '../model/record';
import type { System } from '../model/system';
import type { ValueMatch } from '../verify/matchValue';

/** A system with how it is reached, but for its secrets. */
export interface SystemView extends System {
  readonly baseUrl: string;
  /** What can be done with it: read and written, only told by it, or, for our own, kept here. */
  readonly reached: 'connection' | 'inlet' | 'own';
}

export interface RecordPage {
  readonly records: readonly RecordView[];
  readonly next: string | null;
}

export interface RecordView {
  readonly ref: RecordRef;
  readonly record: JsonObject;
  readonly version: string | null;
}

/** Something that happened to a record. */
export type TimelineEntry =
  | {
      readonly kind: 'event';
      readonly at: string;
      readonly run: string;
      readonly event: string;
      readonly changed: readonly string[];
      readonly own: boolean;
      readonly because: string;
    }
  | {
      readonly kind: 'write';
      readonly at: string;
      readonly run: string;
      readonly rules: readonly RuleRef[];
      /** The record whose change made it necessary. */
      readonly source: RecordRef | null;
      /** What was done to the record. */
      readonly change: RecordChange['kind'];
      readonly edits: readonly {
        readonly path: string;
        readonly before: Json;
        readonly after: Json;
        /** The formula of the line that gave the value; null where the run did not keep it. */
        readonly formula: string | null;
        readonly because: string | null;
      }[];
    };

/** A field that holds a value that is looked for. */
export interface ValuePlace {
  readonly ref: RecordRef;
  readonly name: string | null;
  readonly path: string;
  readonly value: Json;
  readonly match: ValueMatch;
}

/** Where a text is held as records were last seen, also as a part of a value; whole values come first. */
export interface Sightings {
  readonly places: readonly ValuePlace[];
  /** Whether there are more records that hold it. */
  readonly more: boolean;
}

export interface ValueSearch {
  readonly places: readonly ValuePlace[];
  /** How many records were looked through. */
  readonly looked: number;
  /** What could not be looked through, or not to the end. */
  readonly notes: readonly string[];
}
