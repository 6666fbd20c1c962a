/** Between server and web: what every browser is told at once. Types only. */
import type { RecordRef } from '../model/record';
import type { MessageState } from './messages';
import type { SystemStanding } from './health';
import type { InboxState, RunResult } from './runs';

/** What is told over the stream of server-sent events. */
export type Notice =
  | {
      readonly kind: 'run';
      readonly id: string;
      readonly state: InboxState;
      readonly result: RunResult | null;
    }
  | {
      readonly kind: 'record';
      readonly ref: RecordRef;
      readonly fields: readonly string[];
      readonly by: 'event' | 'write';
    }
  | { readonly kind: 'registry'; readonly of: string }
  | { readonly kind: 'sample'; readonly id: string }
  | { readonly kind: 'job'; readonly id: string }
  /** How a system stands has changed. */
  | {
      readonly kind: 'system';
      readonly system: string;
      readonly standing: SystemStanding;
      readonly because: string;
      readonly nextTry: string | null;
    }
  | { readonly kind: 'message'; readonly id: string; readonly state: MessageState };
