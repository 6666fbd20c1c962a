import type { TableIndex } from '../table/tableIndex';
import type { AddressRead } from '../formats/files/format';
import type { Field, ReferredType } from '../model/system';
import type { JsonObject } from '../model/json';
import type { EventKind } from '../model/event';
import type { Type } from './type';
import type { Value } from './value';
import type { Temporal } from 'temporal-polyfill';

/** What the names of a formula can mean, known before it runs. */
export interface Scope {
  /** Fields of the triggering record: bare names, and `before.`. */
  readonly record: readonly Field[];
  /** Fields of the record that is written, for `target.`; absent where there is none. */
  readonly target?: readonly Field[];
  /** Fields of found records by alias. */
  readonly found: ReadonlyMap<string, readonly Field[]>;
  readonly tables: ReadonlyMap<string, TableIndex>;
  /** The record types that a reference may point to; without it no reference can be followed. */
  readonly referred?: (reference: Field) => readonly ReferredType[];
  /** What is asked of the person who requests the rule, for `input.`; absent where nothing is. */
  readonly input?: readonly Field[];
  /** What a place in the record of a file means; absent where no file is laid out. */
  readonly places?: (written: string) => AddressRead;
  /** The type of `item`, inside EACH and KEEP, and in the lines of an action that creates a record for each of a list. */
  readonly item?: Type;
}

/** What the names of a formula hold, while it runs. */
export interface Env {
  readonly record: JsonObject;
  readonly before: JsonObject | null;
  readonly target: JsonObject | null;
  readonly found: Readonly<Record<string, JsonObject | null>>;
  /** Records that references point to, by `refKey`; fetched before a formula that follows references runs. */
  readonly linked?: ReadonlyMap<string, JsonObject> | undefined;
  /** What the person who requested the rule entered. */
  readonly input?: JsonObject | undefined;
  /** The record of a file that is laid out, as the file has it. */
  readonly row?: JsonObject | undefined;
  /** The element at hand, inside EACH and KEEP. */
  readonly item?: Value;
  /** Dotted paths of the triggering record that changed. */
  readonly changed: ReadonlySet<string>;
  readonly event: {
    readonly kind: EventKind;
    readonly id: string;
    readonly source: string;
    readonly time: Temporal.Instant;
  };
}

/** Names that are not fields, and what each one means. */
export const reservedNames: Readonly<Record<string, string>> = {
  record: 'the triggering record after the change',
  before: 'the triggering record before the change',
  target: 'the record that is written, as it is now',
  event: 'the change event: time, kind, id, source',
  input: 'what was asked of the person who requested the rule',
};

/**
 * Returns the same names with another element at hand. Written out name by name: a copy of whatever is there takes several times as
 * long, and is made for each element of a list.
 */
export function withItem(env: Env, item: Value): Env {
  const { record, before, target, found, linked, input, row, changed, event } = env;
  return { record, before, target, found, linked, input, row, item, changed, event };
}
