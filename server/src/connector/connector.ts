import type Joi from 'joi';
import type { Dispatcher } from 'undici';
import type {
  ApplyResult,
  CatalogueTable,
  EventKind,
  Form,
  GuardedChange,
  JsonObject,
  Listening,
  System,
  TableStyle,
  Telling,
} from '@vast-knot/core';
import type { WatchedExchange } from './exchanged';
import type { Gate, GateLimits } from './gate';
import type { RecordStore } from './recordStore';

/** Whether a system answers, and how long it took; or why not. */
export type Probe =
  | { readonly answers: true; readonly milliseconds: number }
  | { readonly answers: false; readonly because: string };

/** What a system says of itself, and where its record types are in it. */
export type SelfDescription =
  | {
      /** An OpenAPI document. */
      readonly kind: 'document';
      readonly text: string;
      readonly address: string;
      readonly recordTypes: Readonly<Record<string, { readonly path: string }>>;
    }
  | {
      /** The catalogue of a database. */
      readonly kind: 'catalogue';
      readonly tables: readonly CatalogueTable[];
      readonly recordTypes: Readonly<Record<string, Pick<TableStyle, 'schema' | 'table'>>>;
    };

/** A change that a system noted by itself. */
export interface Noted {
  readonly id: string;
  /** When it was noted, as ISO 8601. */
  readonly at: string;
  readonly kind: EventKind;
  readonly recordType: string;
  readonly recordId: string;
  /** As it was then; what was removed as it was before. */
  readonly record: JsonObject;
}

/** Changes that a system notes until they are fetched. Throws a WorkspaceError when it does not answer. */
export interface NotedSource {
  /** Of which record types it notes changes. */
  readonly recordTypes: readonly string[];
  /** Returns some, the oldest first. They stay until they are let go. */
  oldest(): Promise<readonly Noted[]>;
  letGo(ids: readonly string[]): Promise<void>;
  /** Calls `news` when something was noted, and `ended` when that is not heard any more. Returns what ends it. */
  hear(news: () => void, ended: () => void): Promise<() => void>;
}

/** One connected system, whatever kind of connection leads to it. */
export interface Connector {
  /** Where the system is, for people to read; blank for one that only tells. */
  readonly address: string;
  /** Its records; undefined for a system that only tells. */
  readonly records: RecordStore | undefined;
  /** How its messages are read; undefined for a system that tells nothing by itself. */
  readonly told: Telling | undefined;
  /** The pages on which records of its types are answered, by the name of the type; only of a system that only tells. */
  readonly forms?: Readonly<Record<string, Form>>;
  /** Changes that it notes for us; undefined where it does not. */
  readonly noted?: NotedSource | undefined;
  /** How changes of a record type are learnt beside that. */
  listeningOf(type: string): Listening;
  /** Returns the version that a record carries, or the time of its last change, as a number that grows; undefined where it has none. */
  versionOf(type: string, record: JsonObject): number | undefined;
  /** Asks the system to send its events to `url`, signed with `secret`. Throws a WorkspaceError when it refuses. */
  listen(url: string, secret: string): Promise<void>;
  /** It says of its record types what they are. */
  readonly describes: boolean;
  /** Returns what the system says of its record types. Throws a WorkspaceError when it does not. */
  document(): Promise<SelfDescription>;
  /** Writes a field with the value that it has, where writing would not send that; to see what the system says to it. */
  writeAsIs?(type: string, change: GuardedChange): Promise<readonly ApplyResult[]>;
  /** Lets the system note the changes of a record type from now on, or no more; undefined where it cannot. */
  note?(type: string, on: boolean): Promise<void>;
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
