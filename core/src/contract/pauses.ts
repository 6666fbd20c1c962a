/** Between server and web: what is paused. Types only. */

/** A rule that somebody paused. */
export interface HeldOfRule {
  readonly id: string;
  readonly name: string;
  readonly by: string;
  /** Since when, ISO 8601. */
  readonly at: string;
  /** Changes that wait for it. */
  readonly held: number;
}

/** What is paused, and how much waits. */
export interface PausesView {
  /** Who paused everything, and when; null where nobody did. */
  readonly everything: { readonly by: string; readonly at: string } | null;
  /** Events that wait for whatever is paused or away. */
  readonly waiting: number;
  readonly rules: readonly HeldOfRule[];
}

/** What became of what waited. */
export interface WentOn {
  readonly count: number;
}
