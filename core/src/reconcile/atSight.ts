import { editsBetween } from '../change/edit';
import type { FieldEdit } from '../change/recordChange';
import type { Formula } from '../formula/compile';
import type { Env } from '../formula/scope';
import type { CompiledLine, CompiledRule } from '../engine/compiled';
import { guardStep } from '../engine/guard';
import { runLines } from '../engine/lines';
import { onlyBlanks } from '../engine/onlyBlanks';
import type { LineReport, PlannedWrite, Report } from '../engine/report';
import { rulesAbout } from '../engine/rulesOfType';
import { environment } from '../engine/run';
import { doingText, nothingToWrite, ruleRef } from '../engine/runRule';
import type { ChangeEvent } from '../model/event';
import { writePath } from '../model/json';
import type { StoredRecord } from '../model/record';
import { select } from '../model/triggers';
import { existingEvent, type LookingAt } from './existing';
import { differencesOf, type Judged } from './judge';

const right: Judged = { standing: 'right', because: '', differences: [] };

/** What is told of records with nothing but the lines of a rule. Where it is undefined, the record has to be run through the engine. */
export interface AtSight {
  /** Returns how a record stands: right, or what would change. */
  judge(stored: StoredRecord): Judged | undefined;
  /** Returns the report that the engine would give. */
  report(stored: StoredRecord): Report | undefined;
}

/** What a rule comes to for a record: what it read, what its lines gave, and the edits that are left of that. */
interface Seen {
  readonly env: Env;
  readonly lines: readonly LineReport[];
  readonly edits: readonly FieldEdit[];
  readonly started: Started;
}

/**
 * Returns what tells of records as the engine does, with nothing but the lines of a rule; undefined for a rule of which nothing can be told so: one
 * that looks for other records. The engine takes ten times as long for a record, most of it for what such a rule does not need.
 *
 * @param rules all that run: what would change is told only where it starts none of them.
 */
export function atSight(
  compiled: CompiledRule,
  rules: readonly CompiledRule[],
  looking: LookingAt,
): AtSight | undefined {
  const { finds, actions, guard, rule } = compiled;
  const asked = looking.existing === 'only blanks' ? onlyBlanks(compiled) : compiled;
  const lines = asked.actions.flatMap((action) => action.lines);
  const isOwn =
    actions.length > 0 &&
    actions.every(({ kind, target, only }) => kind === 'write' && target === 'record' && only === undefined);
  const { turns = [] } = rule.trigger;
  if (
    finds.length > 0 ||
    turns.length > 0 ||
    !isOwn ||
    rule.becomesTrue ||
    !lines.every(isPlain) ||
    (guard && follows(guard))
  )
    return undefined;
  // A second action, or a second line of a field, sees what the first one wrote.
  const byItself = actions.length === 1 && new Set(lines.map(({ field }) => field)).size === lines.length;
  const startedBy = startedByEdits(compiled, rules);
  let base: Env | undefined;
  const look = (stored: StoredRecord): Seen | undefined => {
    const { ref, record } = stored;
    // All but the record and the id is the same for each.
    base ??= seenBy(compiled, stored, looking);
    if (!base) return undefined;
    const env: Env = {
      ...base,
      record,
      target: record,
      event: { ...base.event, id: `${looking.id}/${ref.id}` },
    };
    if (guard && guard.run(env) !== true) return undefined;
    const { reports, edits } = runLines(lines, record, { env });
    if (reports.some(({ verdict }) => verdict === 'error')) return undefined;
    if (edits.length === 0) return { env, lines: reports, edits, started: 'none' };
    if (!byItself) return undefined;
    const now = edits.reduce((made, { path, after }) => writePath(made, path, after), record);
    const made = editsBetween(record, now);
    const started = startedBy(made);
    if (made.length !== edits.length || started === 'others') return undefined;
    const rests =
      started === 'none' || restsAt(compiled, { ...env, record: now, target: now, before: record }, made);
    return rests ? { env, lines: reports, edits: made, started } : undefined;
  };
  return {
    judge(stored) {
      const seen = look(stored);
      if (!seen) return undefined;
      const { edits } = seen;
      if (edits.length === 0) return right;
      const differences = differencesOf({ change: { kind: 'edit', ref: stored.ref, edits } });
      return { standing: 'changes', because: '', differences };
    },
    report(stored) {
      const seen = byItself ? look(stored) : undefined;
      // What a rule says when it is started once more is told by the engine.
      return seen?.started === 'none'
        ? reportOf(compiled, existingEvent(compiled, stored, looking), stored, seen)
        : undefined;
    },
  };
}

/** Returns the report of a rule that has one action and starts no other. */
function reportOf(
  { rule, guard, actions: [action] }: CompiledRule,
  event: ChangeEvent,
  { ref, record, version }: StoredRecord,
  { env, lines, edits }: Seen,
): Report {
  const writes: PlannedWrite[] =
    edits.length === 0
      ? []
      : [
          {
            change: { kind: 'edit', ref, edits },
            ...(version !== undefined && { version }),
            rules: [ruleRef(rule)],
            depth: 0,
            before: record,
          },
        ];
  return {
    event,
    rules: [
      {
        ruleId: rule.id,
        ruleName: rule.name,
        version: rule.version,
        depth: 0,
        ref,
        ...(edits.length === 0 ? nothingToWrite : writesOne),
        steps: [
          ...(guard ? [guardStep(guard, env, true)] : []),
          { kind: 'write', action: action?.at ?? 0, ref, lines },
        ],
      },
    ],
    writes,
    messages: [],
    waiting: [],
    problems: [],
  };
}

const writesOne = {
  verdict: 'writes',
  because: `${doingText({ records: 1, files: 0, messages: 0 })}.`,
} as const;

/** Which rules edits start. */
type Started = 'none' | 'itself' | 'others';

/** Returns what tells which rules edits of the record of a rule start. The same fields change in most records. */
function startedByEdits(
  compiled: CompiledRule,
  rules: readonly CompiledRule[],
): (edits: readonly FieldEdit[]) => Started {
  const { recordType, rule } = compiled;
  const about = rulesAbout({ system: rule.trigger.system, recordType: recordType.name, id: '' }, rules);
  const known = new Map<string, Started>();
  return (edits) => {
    const paths = edits.map(({ path }) => path);
    const key = paths.join('\n');
    const started = known.get(key) ?? whichOf(about.startedBy('updated', paths), compiled);
    known.set(key, started);
    return started;
  };
}

function whichOf(started: ReadonlySet<CompiledRule>, compiled: CompiledRule): Started {
  if (started.size === 0) return 'none';
  return started.size === 1 && started.has(compiled) ? 'itself' : 'others';
}

/** Returns whether a rule that its own edits start has nothing more to write. */
function restsAt({ guard, actions }: CompiledRule, env: Env, made: readonly FieldEdit[]): boolean {
  const own: Env = {
    ...env,
    changed: new Set(made.map(({ path }) => path)),
    event: { ...env.event, kind: 'updated' },
  };
  const holds = guard ? guard.run(own) : true;
  if (holds === false) return true;
  return (
    holds === true &&
    actions.every(({ lines }) =>
      runLines(lines, own.record, { env: own }).reports.every(
        ({ verdict }) => verdict === 'same' || verdict === 'kept',
      ),
    )
  );
}

/** Returns what formulas see of the event that a record is taken as; undefined where that does not start the rule. */
function seenBy(compiled: CompiledRule, stored: StoredRecord, looking: LookingAt): Env | undefined {
  const event = existingEvent(compiled, stored, looking);
  return select(compiled.rule.trigger, compiled.recordType, event).fires ? environment(event) : undefined;
}

const follows = ({ follows: references }: Formula): boolean => references.length > 0;

/** Whether a line needs nothing but the record: no reference is followed, none is given by a key, and no object is put together. */
function isPlain({ compiled, resolved, definition }: CompiledLine): boolean {
  return resolved === undefined && definition.type !== 'object' && !follows(compiled);
}
