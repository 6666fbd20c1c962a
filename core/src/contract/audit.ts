/** Between server and web: who did what. */

import type { JsonChange } from '../change/jsonDifferences';

/** How something that was done ended; `unknown` where the process ended meanwhile. */
export type AuditResult = 'done' | 'refused' | 'failed' | 'unknown';

/** What somebody did, or was not let do. */
export interface AuditEntry {
  /** ISO 8601. */
  readonly at: string;
  /** Who; empty where nobody was signed in. */
  readonly person: string;
  /** The token with which a program asked for them. */
  readonly token?: string;
  readonly from: string;
  /** In words: `published a rule`. */
  readonly what: string;
  /** What it was done to: its kind, such as `rule`, what it is known by, and how it is called. */
  readonly kind: string;
  readonly key: string;
  readonly name?: string;
  readonly result: AuditResult;
  /** Why it was refused, or failed; or what the person said of it. */
  readonly because?: string;
  readonly changes: readonly JsonChange[];
  /** How many further changes there were. */
  readonly more?: number;
}

/** An entry as it is listed, with its number. */
export interface AuditView extends AuditEntry {
  readonly id: string;
}

export interface AuditPage {
  readonly entries: readonly AuditView[];
  /** What the next page begins after; null at the end. */
  readonly next: string | null;
}
