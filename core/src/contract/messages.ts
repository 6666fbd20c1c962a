/** Between server and web: what is sent outside. Types only. */
import type { FileData } from '../engine/actions/file';
import type { FileWay } from '../engine/report';
import type { JsonObject } from '../model/json';
import type { RecordRef } from '../model/record';

/** An outside address that messages are sent to, but for its secret. */
export interface EndpointView {
  readonly key: string;
  readonly name: string;
  readonly url: string;
  /** It is given by the environment of this installation, and changed there. */
  readonly given: boolean;
  /** Until when the secret before the present one signs as well; null where none does. */
  readonly formerUntil: string | null;
}

/** What a receiver answered to a message that was only a test. */
export interface EndpointTest {
  readonly status: number | null;
  readonly answer: string | null;
  /** Why it did not arrive; null where it did. */
  readonly problem: string | null;
  readonly milliseconds: number;
}

/** The folders that rules may write files into, by name. */
export interface OutFolders {
  readonly folders: readonly string[];
}

export type MessageState = 'waiting' | 'delivered' | 'given up';

export interface MessageSummary {
  readonly id: string;
  /** The run that sent it. */
  readonly runId: string;
  readonly rule: string;
  /** The key of an outside address; of a file the name of the folder, or `download`. */
  readonly endpoint: string;
  readonly type: string;
  /** Of a file: where it goes; null for all others. */
  readonly way: FileWay | null;
  /** What a file is called; null for all others. */
  readonly file: string | null;
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
  /** Who edited it before it was sent again, and the message that it was; null where nobody did. */
  readonly edited: { readonly by: string; readonly from: string } | null;
  /** The CloudEvent as it is sent; of a file, of which the bytes are sent, it holds no rows. */
  readonly body: JsonObject;
  /** What a file holds: its first rows, and how many it has; null for all others. */
  readonly holds: (Omit<FileData, 'replace'> & { readonly count: number }) | null;
  readonly tries: readonly {
    readonly at: string;
    readonly status: number | null;
    readonly answer: string | null;
    readonly problem: string | null;
  }[];
}
