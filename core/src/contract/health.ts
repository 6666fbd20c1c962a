/** Between server and web: how the connected systems stand. Types only. */

/**
 * Whether a system answers; answers slowly; wants to be asked less often; or does not answer, so that what is for it waits.
 */
export type SystemStanding = 'answers' | 'slow' | 'limited' | 'away';

/** How one system stands. Times are of ISO 8601. */
export interface SystemHealth {
  readonly system: string;
  readonly standing: SystemStanding;
  /** Since when; null where nothing was asked of it yet. */
  readonly since: string | null;
  /** What is wrong; blank while it answers. */
  readonly because: string;
  /** When it is asked again. */
  readonly nextTry: string | null;
  /** How long answers take lately, in milliseconds. */
  readonly milliseconds: number | null;
  /** Events that wait until it answers. */
  readonly waiting: number;
  /** When it answered last. */
  readonly answeredAt: string | null;
  /** When its last event came. */
  readonly lastEvent: string | null;
  /** Whether it sends its events to us; null for one that is not asked to. */
  readonly subscribed: boolean | null;
  /** Somebody paused it: nothing is asked of it, and what is for it waits. */
  readonly paused: boolean;
  /** What was found when it was last looked, at night, whether its fields changed; null where that was not done yet. */
  readonly schema: {
    readonly lookedAt: string;
    readonly changes: number;
    readonly problem: string | null;
  } | null;
  /** How its record types are looked through for changes. */
  readonly listening: readonly {
    readonly recordType: string;
    readonly askedAt: string | null;
    readonly askedFound: number | null;
    readonly comparedAt: string | null;
    readonly comparedFound: number | null;
    readonly problem: string | null;
  }[];
  /** When it was last asked for what changed meanwhile. */
  readonly caughtUpAt: string | null;
}
