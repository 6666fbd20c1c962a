/** Between server and web: rules, running them, and what they wait for. Types only. */
import type { Finding } from '../check/finding';
import type { Report } from '../engine/report';
import type { ReviewForm } from '../engine/reviewForms';
import type { ChangeEvent } from '../model/event';
import type { JsonObject } from '../model/json';
import type { RecordRef } from '../model/record';
import type { RuleBody } from '../engine/rule';

export interface RuleView {
  readonly id: string;
  readonly draft: RuleBody;
  readonly revision: number;
  readonly published: {
    readonly version: number;
    readonly body: RuleBody;
    readonly by: string;
    readonly at: string;
  } | null;
  readonly changedAt: string;
  /** Who paused it, and when (ISO 8601): what would start it waits; null where nobody did. */
  readonly paused: { readonly by: string; readonly at: string } | null;
}

/** A version of a rule that was published once and is no longer. */
export interface EarlierVersion {
  readonly rule: string;
  readonly version: number;
  readonly body: RuleBody;
  readonly by: string;
  readonly at: string;
}

/** The findings of one rule as edited. */
export interface RuleFindings {
  readonly id: string;
  readonly findings: readonly Finding[];
}

/** A record for which a rule waits, folding what changes meanwhile. */
export interface WaitView {
  readonly rule: { readonly id: string; readonly name: string };
  readonly ref: RecordRef;
  readonly folded: number;
  readonly since: string;
  readonly due: string;
}

/** What a person asks a rule to do with a record. */
export interface RuleRequest {
  readonly ref: RecordRef;
  /** The answers to what the rule asks for. */
  readonly input: JsonObject;
  /** The same for the same press of a button, so that it is done once. */
  readonly id: string;
  readonly reviewed?: ChangeEvent['reviewed'];
}

/** What a requested rule would do, with the forms that are to be reviewed. */
export interface RequestPreview {
  readonly report: Report;
  readonly forms: readonly ReviewForm[];
}
