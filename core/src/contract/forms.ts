/** Between server and web: what comes in by files and forms, and the answers. Types only. */
import type { AnswerProblem } from '../form/answer';
import type { Form } from '../form/form';
import type { AnswerStanding } from '../form/standing';
import type { JsonObject } from '../model/json';
import type { RecordType } from '../model/system';
import type { InboxState, RunResult } from './runs';

/** A record type that comes in by files, forms and events alone, and the page on which it is answered. */
export interface FormView {
  readonly system: string;
  readonly type: RecordType;
  /** Null where there is no page. */
  readonly form: Form | null;
}

/** The same with how many of its answers stand how. */
export interface FormSummary extends FormView {
  readonly counts: Readonly<Record<AnswerStanding, number>>;
}

/** What a form and its record type are to be; `seen` is how they were when it was begun to change them. */
export interface FormChange {
  readonly type: RecordType;
  readonly form: Form | null;
  readonly seen: Pick<FormView, 'type' | 'form'>;
}

/** One answer of a form. */
export interface AnswerView {
  readonly id: string;
  /** ISO 8601. */
  readonly cameAt: string;
  /** On the page of the form, or sent to its address by another one. */
  readonly way: 'page' | 'address';
  /** Who sent it with a token; blank for somebody outside. */
  readonly sentBy: string;
  readonly given: JsonObject;
  /** What it came to; null while it cannot be taken. */
  readonly record: JsonObject | null;
  readonly problems: readonly AnswerProblem[];
  /** Names that were sent and that the form does not ask for. */
  readonly leftOut: readonly string[];
  readonly standing: AnswerStanding;
  readonly run: {
    readonly id: string;
    readonly state: InboxState;
    readonly result: RunResult | null;
    readonly because: string;
  } | null;
}

export interface AnswerFilter {
  readonly standing?: AnswerStanding;
  /** A part of what was sent. */
  readonly search?: string;
}

export interface AnswerPage {
  readonly answers: readonly AnswerView[];
  readonly counts: Readonly<Record<AnswerStanding, number>>;
  /** The id before which the next page begins. */
  readonly next: string | null;
}
