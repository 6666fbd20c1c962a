import type Joi from 'joi';
import type { Dispatcher } from 'undici';
import type { JsonObject, Listening, System, Telling } from '@vast-knot/core';
import type { WatchedExchange } from './exchanged';
import type { Gate, GateLimits } from './gate';
import type { RecordStore } from './recordStore';

/** Whether a system answers, and how long it took; or why not. */
export type Probe =
  | { readonly answers: true; readonly milliseconds: number }
  | { readonly answers: false; readonly because: string };

/** The document in which a system describes itself, and where its record types are in it. */
export interface SelfDescription {
  readonly text: string;
  readonly address: string;
  readonly recordTypes: Readonly<Record<string, { readonly path: string }>>;
}

/** One connected system, whatever kind of connection leads to it. */
export interface Connector {
  /** Where the system is, for people to read; blank for one that only tells. */
  readonly address: string;
  /** Its records; undefined for a system that only tells. */
  readonly records: RecordStore | undefined;
  /** How its messages are read; undefined for a system that tells nothing by itself. */
  readonly told: Telling | undefined;
  /** How changes of a record type are learnt beside that. */
  listeningOf(type: string): Listening;
  /** Returns the version that a record carries, or the time of its last change, as a number that grows; undefined where it has none. */
  versionOf(type: string, record: JsonObject): number | undefined;
  /** Asks the system to send its events to `url`, signed with `secret`. Throws a WorkspaceError when it refuses. */
  listen(url: string, secret: string): Promise<void>;
  /** Returns the document in which the system describes itself. Throws a WorkspaceError when it does not. */
  document(): Promise<SelfDescription>;
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
  /** Hears of every exchange with the system; it is at work, and waits for whoever hears. */
  readonly watch?: ((watched: WatchedExchange) => void) | undefined;
}

/** One kind of connection: what its description holds, and how a connector is made from it. */
export interface ConnectorKind<C extends { readonly kind: string }> {
  readonly kind: C['kind'];
  /** What it is for, in one sentence. */
  readonly meaning: string;
  readonly schema: Joi.ObjectSchema<C>;
  open(connection: C, parts: ConnectorParts): Connector;
}
