import type { RecordChange } from '../change/recordChange';
import type { Env } from '../formula/scope';
import type { ChangeEvent } from '../model/event';
import type { RecordRef, StoredRecord } from '../model/record';
import type { Workspace } from '../workspace/workspace';
import type { Branch } from './branch';
import type { CompiledAction } from './compiled';
import type { ComposedMessage, LineReport, Step } from './report';

/** A record that was written, created or removed, as it was before: nothing, where it was created. */
export interface Written extends StoredRecord {
  readonly created: boolean;
}

/** Told of an action what its lines see for each record that it writes to. */
export type Observe = (
  action: CompiledAction,
  targets: readonly { readonly env: Env; readonly target: StoredRecord }[],
) => void;

/** What a run of a rule needs beyond the rule and its event. */
export interface RuleRun {
  readonly workspace: Workspace;
  /** How many writes lead from the event that came in to this one. */
  readonly depth: number;
  /** An id for a record that is to be created, until its system gives it one. */
  readonly freshId: () => string;
  readonly observe?: Observe | undefined;
  /** Whether a rule that waits for further changes is left for later, as live; a replay takes its sample as the folded change. */
  readonly waits?: boolean | undefined;
  /** Tells milliseconds from some moment on, to measure how long steps take. */
  readonly clock?: (() => number) | undefined;
  /** Rules by id that are paused: what starts them is left for later. */
  readonly paused?: ReadonlySet<string> | undefined;
}

/** Does actions in their order, each for all branches; gives the branches with what was created. */
type Perform = (
  actions: readonly CompiledAction[],
  branches: readonly Branch[],
  context: RuleContext,
) => Promise<readonly Branch[]>;

/** A run of a rule under way: what its actions need, and where they leave what they did. */
export interface RuleContext extends RuleRun {
  /** Does actions; an action that applies another rule does its actions by this. */
  readonly perform: Perform;
  readonly event: ChangeEvent;
  readonly steps: Step[];
  readonly counts: Counts;
  readonly messages: ComposedMessage[];
  readonly written: Written[];
  /** Pairs of counterparts that were remembered. */
  readonly remembered: RecordRef[];
}

/** What went wrong in a rule, and how many records its actions reached. */
export interface Counts {
  errors: number;
  /** Whether some of them are none of a line: a find or a condition. */
  beyondLines: boolean;
  first: string;
  reached: number;
  /** Write steps kept in full. */
  inFull: number;
  /** Write steps that are only counted. */
  beyond: number;
}

export function noteError(counts: Counts, sentence: string): void {
  counts.errors++;
  counts.first ||= sentence;
}

/** Counts what went wrong in the finds of a rule for some of its branches, and says so in the report. */
export function noteFailures(failures: readonly string[], { counts, steps }: RuleContext): void {
  for (const message of failures) {
    noteProblem(message, { counts, steps });
  }
}

/** Counts something that went wrong and is none of a line, and says so in the report. */
export function noteProblem(
  message: string,
  { counts, steps }: Pick<RuleContext, 'counts' | 'steps'>,
  ref?: RecordRef,
): void {
  noteError(counts, message);
  counts.beyondLines = true;
  steps.push({ kind: 'problem', message, ...(ref && { ref }) });
}

/** Write steps kept in full in a report; further ones are counted. */
const writesInFull = 200;

/** Keeps a step that is about one record, in full or as a number. */
export function noteStep({ steps, counts }: RuleContext, step: Step): void {
  if (counts.inFull < writesInFull) steps.push(step);
  else counts.beyond++;
  counts.inFull++;
}

/** Counts the lines of a record that failed. */
export function noteLineErrors(
  reports: readonly LineReport[],
  record: string,
  { counts }: RuleContext,
): void {
  for (const line of reports) {
    if (line.verdict === 'error') noteError(counts, `${line.field} of ${record}: ${line.because ?? ''}`);
  }
}

/**
 * Makes a change of a record as it stands in `target`, and remembers the record as it was. A change that is refused leaves a step
 * that says why. Returns whether it was made.
 */
export async function makeChange(
  change: RecordChange,
  target: StoredRecord,
  context: RuleContext,
): Promise<boolean> {
  const [result] = await context.workspace.apply([{ change }]);
  if (result?.ok) context.written.push({ ...target, created: change.kind === 'create' });
  else if (result) {
    const { message } = result.problem;
    noteError(context.counts, `${target.ref.recordType} ${target.ref.id} is not written: ${message}`);
    context.steps.push({ kind: 'problem', message, ref: target.ref });
  }
  return result?.ok ?? false;
}
