/** Between server and web: who is told when something needs a person. Types only. */

/** What people are told of. */
export type AlertKind = 'failure' | 'away' | 'given up' | 'drift' | 'missing file';

/** By which way they are told. */
export type TellingWay = 'address' | 'mail';

/** Who is told of what, and when not. */
export interface TellingSettings {
  /** The key of an outside address; null where none is told. */
  readonly address: string | null;
  /** Addresses of e-mail. */
  readonly mail: readonly string[];
  readonly kinds: readonly AlertKind[];
  /** From when to when nobody is told, by the clock of a zone: what happens then is told afterwards, in one message. */
  readonly quiet: { readonly from: string; readonly to: string; readonly zone: string } | null;
}

/** Who is told, and how telling went. */
export interface TellingView {
  /** Null while nobody is told. */
  readonly settings: TellingSettings | null;
  /** Whether a mail server is set up. */
  readonly canMail: boolean;
  /** Things that are not told yet. */
  readonly waiting: number;
  /** The last tries, the latest first. */
  readonly told: readonly {
    readonly at: string;
    readonly way: TellingWay;
    readonly alerts: number;
    readonly test: boolean;
    readonly problem: string | null;
  }[];
}
