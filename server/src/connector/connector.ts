import type Joi from 'joi';
import type { Dispatcher } from 'undici';
import type { JsonObject, LearntType, System } from '@vast-knot/core';
import type { EventStyle } from './events';
import type { Gate, GateLimits } from './gate';
import type { RecordStore } from './recordStore';

/** Whether a system answers, and how long it took; or why not. */
export type Probe =
  | { readonly answers: true; readonly milliseconds: number }
  | { readonly answers: false; readonly because: string };

/** One connected system, whatever kind of connection leads to it. */
export interface Connector {
  /** Where the system is, for people to read; blank for one that only tells. */
  readonly address: string;
  /** Its records; undefined for a system that only tells. */
  readonly records: RecordStore | undefined;
  /** How its messages are read. */
  readonly events: EventStyle;
  /** Returns the version that a record carries, or the time of its last change, as a number that grows; undefined where it has none. */
  versionOf(record: JsonObject): number | undefined;
  /** Asks the system to send its events to `url`, signed with `secret`. Throws a WorkspaceError when it refuses. */
  listen(url: string, secret: string): Promise<void>;
  /** Returns what the system says of its record types. Throws a WorkspaceError when it does not describe itself. */
  learnSchema(): Promise<readonly LearntType[]>;
  /** Asks the system for something small. */
  probe(): Promise<Probe>;
}

/** What a connector is made from beside its connection. */
export interface ConnectorParts {
  readonly system: System;
  /** The secret for signing in. */
  readonly token: string;
  readonly dispatcher: Dispatcher;
  /** Through which every request goes; with the limits that the connection names. */
  readonly gateWith: (limits: Partial<GateLimits>) => Gate;
  /** `host:port` of private addresses that may be reached all the same. */
  readonly allowedOutbound: readonly string[];
}

/** One kind of connection: what its description holds, and how a connector is made from it. */
export interface ConnectorKind<C extends { readonly kind: string }> {
  readonly kind: C['kind'];
  /** What it is for, in one sentence. */
  readonly meaning: string;
  readonly schema: Joi.ObjectSchema<C>;
  open(connection: C, parts: ConnectorParts): Connector;
}
