/** Between server and web: connections that are being written, and what went over the wire. Types only. */
import type { Finding } from '../check/finding';
import type { DatabaseConnection } from '../connection/database/databaseConnection';
import type { ConnectionDraft } from '../connection/draft';
import type { Affected } from '../schema/affected';
import type { SchemaChange } from '../schema/difference';
import type { Json } from '../model/json';

/** A draft as it is kept. */
export interface DraftView {
  readonly id: string;
  /** The system that it changes; null for a new one. */
  readonly system: string | null;
  readonly revision: number;
  readonly draft: ConnectionDraft;
  readonly changedBy: string;
  readonly changedAt: string;
  /** Names of the secrets that are kept for it; their values are never shown. */
  readonly secrets: readonly string[];
}

/** A draft in a list. */
export type DraftSummary = Pick<DraftView, 'id' | 'system' | 'changedBy' | 'changedAt'> & {
  readonly name: string;
  readonly tag: string;
  readonly hue: number;
};

/** A request that was made, and what came back: as it went over the wire, with secrets left out. */
export interface ExchangeView {
  readonly at: string;
  readonly method: string;
  readonly url: string;
  /** What a database was asked, as SQL; its values are the body. */
  readonly statement?: string;
  readonly requestHeaders: Readonly<Record<string, string>>;
  readonly requestBody: string;
  /** Null where no answer came, and for a database, which answers with rows. */
  readonly status: number | null;
  /** Rows that a statement gave or changed. */
  readonly rows?: number;
  readonly answerHeaders: Readonly<Record<string, string>>;
  readonly answerBody: string;
  readonly milliseconds: number;
  /** Why there was no answer, or why it could not be read; blank where all went well. */
  readonly problem: string;
}

/** What a statement of a draft is tried with. */
export type DraftTry =
  | { readonly what: 'list'; readonly type: string; readonly cursor?: string }
  | { readonly what: 'one'; readonly type: string; readonly id: string }
  | { readonly what: 'find'; readonly type: string; readonly field: string; readonly value: Json }
  | { readonly what: 'since'; readonly type: string; readonly mark: number }
  /** The trigger that notes changes is put into the database, or taken out of it. */
  | { readonly what: 'note' | 'note no more'; readonly type: string }
  /** One field of a record is written back as it is. */
  | { readonly what: 'write back'; readonly type: string; readonly id: string; readonly field: string };

/** What came of a try. */
export interface TriedView {
  readonly exchanges: readonly ExchangeView[];
  /** What was found, as a sentence. */
  readonly sentence: string;
  /** Why it could not be done; blank where it could. */
  readonly problem: string;
  readonly ids: readonly string[];
  readonly next: string | null;
}

/** What a system says of its record types beside what is known of them here. */
export interface SchemaRefresh {
  readonly changes: readonly SchemaChange[];
  /** Rules that run and would have mistakes with it, each with what they are. */
  readonly broken: readonly {
    readonly rule: string;
    readonly name: string;
    readonly findings: readonly Finding[];
  }[];
  /** Samples and tables that hold what there is no more. */
  readonly samples: readonly Affected[];
  readonly tables: readonly Affected[];
}

/** How a draft is begun. */
export type DraftBeginning =
  | { readonly from: 'hand'; readonly name: string }
  | {
      readonly from: 'system';
      readonly system: string;
      /** With what the system says of its record types by now. */
      readonly refresh?: boolean;
    }
  /** A system in a bundle, as another environment has it. */
  | { readonly from: 'bundle'; readonly text: string }
  | {
      readonly from: 'database';
      /** `postgres://host:port/database` */
      readonly address: string;
      readonly user: string;
      readonly secret: string;
      readonly protection: DatabaseConnection['protection'];
    }
  | { readonly from: 'openapi' | 'schema'; readonly text?: string; readonly address?: string }
  | {
      readonly from: 'records';
      readonly text?: string;
      readonly address?: string;
      /** What the records are called, where they were pasted. */
      readonly name?: string;
      /** How it is signed in to the address, and with which secret. */
      readonly header?: string;
      readonly secret?: string;
    };
