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
  readonly published: RuleVersion | null;
  /** Blank where it is in none. */
  readonly folder: string;
  readonly changedAt: string;
  /** Who saved the draft last; null where that is not known. */
  readonly changedBy: string | null;
  /** Who paused it, and when (ISO 8601): what would start it waits; null where nobody did. */
  readonly paused: { readonly by: string; readonly at: string } | null;
  /** Who asks for this draft to be published by somebody else, where that wants two; null where nobody does. */
  readonly asked: { readonly by: string; readonly at: string; readonly note: string } | null;
}

/** A version of a rule that runs, or ran. */
export interface RuleVersion {
  readonly version: number;
  readonly body: RuleBody;
  readonly by: string;
  readonly at: string;
  /** What whoever published it said of it; may be blank. */
  readonly note: string;
}

/** That somebody made a version stop running. */
export interface RuleStop {
  readonly version: number;
  readonly by: string;
  readonly at: string;
  readonly why: string;
}

/** Every publication of a rule, the last one first, and each time that it was stopped. */
export interface RuleHistory {
  readonly versions: readonly RuleVersion[];
  readonly stops: readonly RuleStop[];
}

/** A rule that was taken away, and can be brought back. */
export interface RemovedRule {
  readonly id: string;
  readonly name: string;
  readonly by: string;
  readonly at: string;
  /** The version that runs again then; null where none ran. */
  readonly version: number | null;
}

/** What a rule did lately. */
export interface RuleDeeds {
  readonly id: string;
  /** Its last run that wrote or failed; null where none is kept. */
  readonly last: { readonly run: string; readonly at: string } | null;
  /** Runs of the last day in which it had a part and something failed. */
  readonly failed: number;
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

/** A rule that is not run on a record as it is, and why. */
interface RuleLeft {
  readonly rule: string;
  readonly name: string;
  readonly because: string;
}

/** What the published rules would do with a record as it is. */
export interface RulesNow {
  readonly would: readonly { readonly rule: string; readonly name: string; readonly report: Report }[];
  readonly left: readonly RuleLeft[];
}

/** The runs that were begun for a record as it is; none for a press that was taken before. */
export interface RulesBegun {
  readonly runs: readonly { readonly rule: string; readonly name: string; readonly run: string | null }[];
  readonly left: readonly RuleLeft[];
}
