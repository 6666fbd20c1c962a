/** Between server and web: what every browser is told at once. Types only. */
import type { RecordRef } from '../model/record';
import type { MessageState } from './messages';
import type { PresenceKind } from './people';
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
  /** Somebody opened something, or has it open no more. */
  | { readonly kind: 'presence'; readonly of: PresenceKind; readonly key: string }
  /** How a system stands has changed. */
  | {
      readonly kind: 'system';
      readonly system: string;
      readonly standing: SystemStanding;
      readonly because: string;
      readonly nextTry: string | null;
    }
  /** What somebody may has changed. This is told to nobody: what they listen to ends, and they ask anew. */
  | { readonly kind: 'person'; readonly name: string }
  | { readonly kind: 'message'; readonly id: string; readonly state: MessageState };
