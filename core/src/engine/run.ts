import { eventInstant } from '../formula/names';
import type { Env } from '../formula/scope';
import { changedPaths } from '../model/equal';
import type { ChangeEvent } from '../model/event';
import type { JsonObject } from '../model/json';
import { refKey, type RecordRef, type StoredRecord } from '../model/record';
import type { Catalog } from '../model/system';
import { editsBetween } from '../change/edit';
import { applyChange, type FieldEdit } from '../change/recordChange';
import { OverlayWorkspace } from '../workspace/overlay';
import type { Workspace } from '../workspace/workspace';
import { changeRegister } from './circle';
import type { CompiledRule } from './compiled';
import type { PlannedMessage, PlannedWrite, Report, RuleReport, WaitingChange } from './report';
import type { Observe, Written } from './ruleRun';
import { runRule, type RuleOutcome } from './runRule';
import { select } from './select';

/** What the writes of an event cause is followed this deep. */
export const deepestCascade = 8;

export interface RunSetup {
  /** Told what the lines of each write action of the event itself see, with the records they write to. */
  readonly observe?: Observe;
  /** Whether rules that wait for further changes are left for later, as live. */
  readonly waits?: boolean;
  readonly catalog: Catalog;
  /** The rules in the order in which they run. */
  readonly rules: readonly CompiledRule[];
  readonly workspace: Workspace;
}

export interface RunResult {
  readonly report: Report;
  /** Every record that was read, as it was: what a sample of this run must hold. */
  readonly met: readonly StoredRecord[];
}

interface Pending {
  readonly event: ChangeEvent;
  /** The one rule that wrote this change to the record that it had started from; it is not started by it again. */
  readonly by: string | undefined;
  readonly depth: number;
}

/** What the rules did to a record on one event. */
interface Touched {
  /** The record before the first write to it. */
  readonly first: Written;
  readonly by: readonly string[];
  readonly change: ChangeEvent | undefined | 'of several';
}

/**
 * Computes everything that one event leads to, and writes nothing: rules run in an overlay over the workspace, what
 * they write is offered to the rules in turn, and the merged changes are the plan. Live runs and replays both go
 * through here; a live run then settles the plan through connectors.
 *
 * @throws WorkspaceError when a record cannot be read.
 */
export async function runEvent(event: ChangeEvent, setup: RunSetup): Promise<RunResult> {
  const overlay = new OverlayWorkspace(setup.catalog, setup.workspace);
  const reports: RuleReport[] = [];
  const problems: string[] = [];
  const messages: PlannedMessage[] = [];
  const waiting: WaitingChange[] = [];
  const origins = new Map<string, { rules: Set<string>; depth: number; cause?: RecordRef }>();
  const register = changeRegister(event);
  /** Records that came back to a value they had before: what their change causes is not followed further. */
  const stopped = new Set<string>();
  const queue: Pending[] = [{ event, depth: 0, by: undefined }];
  let made = 0;
  // The same for every replay, and like no id that a system gives.
  const freshId = () => `new-${++made}-${event.id}`;

  for (let pending = queue.shift(); pending; pending = queue.shift()) {
    const { event: current, depth, by } = pending;
    const touched = new Map<string, Touched>();
    for (const rule of setup.rules) {
      if (!concerns(rule, current) || rule.rule.id === by) continue;
      // What rules before it wrote to the record itself is what the next one sees.
      const seen = { ...current, record: overlay.written(current.ref) ?? current.record };
      // What the writes cause is no start for most rules; only those that it starts are told of.
      if (depth > 0 && !select(rule.rule.trigger, rule.recordType, seen).fires) continue;
      const outcome = await runRule(rule, seen, environment(seen), {
        catalog: setup.catalog,
        workspace: overlay,
        depth,
        freshId,
        observe: depth === 0 ? setup.observe : undefined,
        waits: setup.waits,
      });
      messages.push(...outcome.messages);
      if (outcome.waiting) waiting.push(outcome.waiting);
      reports.push(outcome.report);
      noteOrigins(outcome, rule, depth, depth === 0 ? undefined : current.ref, origins);
      for (const written of firstOfEach(outcome.written)) {
        const key = refKey(written.ref);
        const change = stopped.has(key) ? undefined : changeBy(current, written, overlay, setup.catalog);
        const known = touched.get(key);
        touched.set(key, {
          first: known?.first ?? written,
          by: [...(known?.by ?? []), rule.rule.id],
          // Of several rules the changes are one, from the first to the last.
          change: known ? 'of several' : change,
        });
        const circle = change && register(change, [...(origins.get(key)?.rules ?? [])]);
        if (!circle) continue;
        problems.push(circle);
        stopped.add(key);
      }
    }
    for (const [key, { first, by: writers, change }] of touched) {
      if (stopped.has(key)) continue;
      const next = change === 'of several' ? changeBy(current, first, overlay, setup.catalog) : change;
      if (!next) continue;
      if (depth + 1 > deepestCascade) {
        const rules = [...(origins.get(key)?.rules ?? [])].join(', ');
        problems.push(
          `What the writes cause was followed ${deepestCascade} deep and goes on; it was stopped at ${rules}.`,
        );
      } else {
        // The rule that wrote to the record that it had started from, when no other rule did.
        const own = key === refKey(current.ref) && writers.length === 1 ? writers[0] : undefined;
        queue.push({ event: next, depth: depth + 1, by: own });
      }
    }
  }
  return {
    report: { event, rules: reports, writes: plan(overlay, setup, origins), messages, waiting, problems },
    met: overlay.met,
  };
}

function concerns({ rule }: CompiledRule, event: ChangeEvent): boolean {
  // An event of a request, of the clock or of a wait is for one rule.
  if (event.rule !== undefined && event.rule !== rule.id) return false;
  return rule.trigger.system === event.ref.system && rule.trigger.recordType === event.ref.recordType;
}

/** What the formulas of a rule see of an event. */
export function environment(event: ChangeEvent): Env {
  return {
    record: event.record,
    before: event.before ?? null,
    target: null,
    found: {},
    changed: new Set(event.changed),
    input: event.input ?? {},
    event: { kind: event.kind, id: event.id, source: event.source, time: eventInstant(event.time) },
  };
}

function noteOrigins(
  outcome: RuleOutcome,
  { rule }: CompiledRule,
  depth: number,
  cause: RecordRef | undefined,
  origins: Map<string, { rules: Set<string>; depth: number; cause?: RecordRef }>,
): void {
  for (const ref of [...outcome.written.map((each) => each.ref), ...outcome.remembered]) {
    const known = origins.get(refKey(ref));
    if (known) known.rules.add(rule.name);
    else origins.set(refKey(ref), { rules: new Set([rule.name]), depth, ...(cause && { cause }) });
  }
}

/** Of several writes of one rule to a record, the first: it knows the record as it was before them all. */
function firstOfEach(written: readonly Written[]): readonly Written[] {
  const first = new Map<string, Written>();
  for (const one of written) if (!first.has(refKey(one.ref))) first.set(refKey(one.ref), one);
  return [...first.values()];
}

/** The change of a written record as an event of its own, for the rules that it may start. */
function changeBy(
  parent: ChangeEvent,
  written: Written,
  overlay: OverlayWorkspace,
  catalog: Catalog,
): ChangeEvent | undefined {
  const now = overlay.written(written.ref);
  const type = catalog.recordType(written.ref.system, written.ref.recordType);
  if (!type) return undefined;
  const { id, source, time } = parent;
  if (!now) {
    const { ref, record } = written;
    return { id, source, kind: 'deleted', ref, time, record, before: record, changed: [] };
  }
  const changed = changedPaths(type.fields, written.record, now);
  if (changed.length === 0) return undefined;
  if (written.created) {
    return { id, source, kind: 'created', ref: written.ref, time, record: now, changed };
  }
  return {
    id,
    source,
    kind: 'updated',
    ref: written.ref,
    time,
    record: now,
    before: written.record,
    changed,
  };
}

function plan(
  overlay: OverlayWorkspace,
  setup: RunSetup,
  origins: ReadonlyMap<string, { rules: Set<string>; depth: number; cause?: RecordRef }>,
): PlannedWrite[] {
  return overlay.changes
    .flatMap(({ change, version }): PlannedWrite[] => {
      const origin = origins.get(refKey(change.ref));
      return [
        {
          ref: change.ref,
          ...(change.kind === 'create'
            ? { edits: editsOf(change.ref, change.record, setup.catalog), creates: true as const }
            : change.kind === 'remove'
              ? { edits: [], removes: true as const }
              : { edits: change.edits }),
          ...(version !== undefined && { version }),
          rules: [...(origin?.rules ?? [])],
          depth: origin?.depth ?? 0,
          ...(origin?.cause && { cause: origin.cause }),
          before: overlay.metBefore(change.ref) ?? {},
        },
      ];
    })
    .sort((a, b) => a.depth - b.depth);
}

/** What a record is created with, without the id that its system will give it. */
function editsOf(ref: RecordRef, record: JsonObject, catalog: Catalog): readonly FieldEdit[] {
  const idField = catalog.recordType(ref.system, ref.recordType)?.idField;
  return editsBetween({}, record).filter(({ path }) => path !== idField);
}

/** The record as a planned write leaves it. */
export function recordAfter(write: Pick<PlannedWrite, 'ref' | 'edits' | 'before'>): JsonObject {
  const applied = applyChange({ kind: 'edit', ref: write.ref, edits: write.edits }, write.before);
  if (!applied.ok || !applied.record) throw new Error('a planned write does not fit its own record');
  return applied.record;
}
