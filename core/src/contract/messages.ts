/** Between server and web: what is sent outside. Types only. */
import type { JsonObject } from '../model/json';
import type { RecordRef } from '../model/record';

/** An outside address that messages are sent to, but for its secret. */
export interface EndpointView {
  readonly key: string;
  readonly name: string;
  readonly url: string;
}

export type MessageState = 'waiting' | 'delivered' | 'given up';

export interface MessageSummary {
  readonly id: string;
  /** The run that sent it. */
  readonly runId: string;
  readonly rule: string;
  readonly endpoint: string;
  readonly type: string;
  readonly ref: RecordRef;
  readonly state: MessageState;
  readonly attempts: number;
  readonly createdAt: string;
  /** When it is tried again. */
  readonly nextAt: string | null;
  /** What came of the last try. */
  readonly last: string | null;
}

export interface MessagePage {
  readonly messages: readonly MessageSummary[];
  /** What the next page is asked for with. */
  readonly next: string | null;
}

export interface MessageDetail extends MessageSummary {
  /** The CloudEvent as it is sent. */
  readonly body: JsonObject;
  readonly tries: readonly {
    readonly at: string;
    readonly status: number | null;
    readonly answer: string | null;
    readonly problem: string | null;
  }[];
}
