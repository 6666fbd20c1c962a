import { eventInstant } from '../formula/names';
import type { Env } from '../formula/scope';
import { changedPaths } from '../model/equal';
import type { ChangeEvent } from '../model/event';
import { refKey, type RecordRef, type StoredRecord } from '../model/record';
import type { Catalog } from '../model/system';
import type { RecordChange } from '../change/recordChange';
import { OverlayWorkspace } from '../workspace/overlay';
import type { Workspace } from '../workspace/workspace';
import { changeRegister } from './circle';
import type { CompiledRule } from './compiled';
import type { PlannedMessage, PlannedWrite, Report, RuleRef, RuleReport, WaitingChange } from './report';
import type { Observe, Written } from './ruleContext';
import { ruleRef, runRule, type RuleOutcome } from './runRule';
import { select } from '../model/triggers';

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

/** Why a record is written: the rules that wrote it, how deep, and the record whose change made it necessary. */
interface Origin {
  /** By id, in the order in which they wrote first. */
  readonly rules: Map<string, RuleRef>;
  readonly depth: number;
  readonly cause?: RecordRef;
}

function rulesNamed(origin: Origin | undefined): readonly string[] {
  return [...(origin?.rules.values() ?? [])].map(({ name }) => name);
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
  const origins = new Map<string, Origin>();
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
      noteOrigins(origins, outcome, { rule, depth, cause: depth === 0 ? undefined : current.ref });
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
        const circle = change && register(change, rulesNamed(origins.get(key)));
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
        const rules = rulesNamed(origins.get(key)).join(', ');
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

/** Returns what the formulas of a rule see of an event. */
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
  origins: Map<string, Origin>,
  outcome: RuleOutcome,
  { rule: { rule }, depth, cause }: { rule: CompiledRule; depth: number; cause: RecordRef | undefined },
): void {
  for (const ref of [...outcome.written.map((each) => each.ref), ...outcome.remembered]) {
    const known = origins.get(refKey(ref));
    if (known) known.rules.set(rule.id, ruleRef(rule));
    else
      origins.set(refKey(ref), {
        rules: new Map([[rule.id, ruleRef(rule)]]),
        depth,
        ...(cause && { cause }),
      });
  }
}

/** Of several writes of one rule to a record, the first: it knows the record as it was before them all. */
function firstOfEach(written: readonly Written[]): readonly Written[] {
  const first = new Map<string, Written>();
  for (const one of written) if (!first.has(refKey(one.ref))) first.set(refKey(one.ref), one);
  return [...first.values()];
}

/** Returns the change of a written record as an event of its own, for the rules that it may start. */
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
  origins: ReadonlyMap<string, Origin>,
): PlannedWrite[] {
  return overlay.changes
    .map(({ change, version }): PlannedWrite => {
      const { rules, depth = 0, cause } = origins.get(refKey(change.ref)) ?? {};
      return {
        change: withoutOwnId(change, setup.catalog),
        ...(version !== undefined && { version }),
        rules: [...(rules?.values() ?? [])],
        depth,
        ...(cause && { cause }),
        before: overlay.metBefore(change.ref) ?? {},
      };
    })
    .sort((a, b) => a.depth - b.depth);
}

/** Returns the record without its id: a record that is created gets it from its system. */
function withoutOwnId(change: RecordChange, catalog: Catalog): RecordChange {
  if (change.kind !== 'create') return change;
  const idField = catalog.recordType(change.ref.system, change.ref.recordType)?.idField ?? '';
  const { [idField]: _ours, ...record } = change.record;
  return { ...change, record };
}
