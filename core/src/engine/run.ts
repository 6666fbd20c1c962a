import { eventInstant } from '../formula/names';
import type { Env } from '../formula/scope';
import { changedPaths } from '../model/equal';
import type { ChangeEvent } from '../model/event';
import { readPath, writePath, type JsonObject } from '../model/json';
import { refKey, type RecordRef, type StoredRecord } from '../model/record';
import type { Catalog } from '../model/system';
import type { RecordChange } from '../change/recordChange';
import { OverlayWorkspace, type Pause } from '../workspace/overlay';
import type { Workspace } from '../workspace/workspace';
import { circleOf, endlessPartOf, type Circle, type Turn } from './circle';
import type { CompiledRule } from './compiled';
import type { PlannedMessage, PlannedWrite, Report, RuleRef, RuleReport, WaitingChange } from './report';
import type { Observe, Written } from './ruleContext';
import { ruleRef, runRule, type RuleOutcome } from './runRule';
import { Sight } from './sight';
import { select } from '../model/triggers';
import { onlyBlanks } from './onlyBlanks';
import { rulesAbout, type RulesOfType } from './rulesOfType';

/** What the writes of an event cause is followed this deep. */
export const deepestCascade = 8;

export interface RunSetup {
  /** Told what the lines of each write action of the event itself see, with the records they write to. */
  readonly observe?: Observe;
  /** Whether rules that wait for further changes are left for later, as live. */
  readonly waits?: boolean;
  /** Tells milliseconds from some moment on: then the report tells how long its steps took. */
  readonly clock?: () => number;
  /** Rules by id that somebody paused: what would start them waits in order. */
  readonly paused?: ReadonlySet<string>;
  /** Asked again and again while much is computed. */
  readonly pause?: Pause;
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
  readonly depth: number;
  /** The writes that led to it. */
  readonly trail: readonly Turn[];
  /** How many writes to the record it tells of. */
  readonly writes: number;
}

/** Why a record is written: the rules that wrote it, how deep, and the record whose change made it necessary. */
interface Origin {
  /** By id, in the order in which they wrote first. */
  readonly rules: Map<string, RuleRef>;
  readonly depth: number;
  readonly cause?: RecordRef;
}

/** What the rules did to a record on one event. */
interface Touched {
  /** The record before the first write to it. */
  readonly first: Written;
  readonly turns: readonly Turn[];
  /** What the one write to it changed; of several it is computed from the first to the last. */
  readonly change: ChangeEvent | undefined;
}

/**
 * Computes everything that one event leads to, and writes nothing: rules run in an overlay over the workspace, what
 * they write is offered to the rules in turn, and the merged changes are the plan. Live runs and replays both go
 * through here; a live run then settles the plan through connectors.
 *
 * @throws WorkspaceError when a record cannot be read.
 */
export async function runEvent(event: ChangeEvent, setup: RunSetup): Promise<RunResult> {
  const overlay = new OverlayWorkspace(setup.catalog, setup.workspace, setup.pause);
  const reports: RuleReport[] = [];
  const problems = unknownType(event, setup.catalog);
  const messages: PlannedMessage[] = [];
  const waiting: WaitingChange[] = [];
  const origins = new Map<string, Origin>();
  const sight = new Sight();
  /** Records in a circle: what their change causes is not followed further. */
  const stopped = new Set<string>();
  /** Rules in a circle: they do no more to its records, which would leave a half of it in the plan. */
  const circling = new Set<string>();
  const stop = ({ turns, sentence }: Circle, key: string) => {
    problems.push(sentence);
    stopped.add(key);
    for (const { ref, rule } of turns) {
      stopped.add(refKey(ref));
      circling.add(rule.id);
    }
    takeBack(turns, overlay);
  };
  // What takes back what was written starts no rule, wherever it is computed.
  const queue: Pending[] = event.undoes ? [] : [{ event, depth: 0, trail: [], writes: 0 }];
  let made = 0;
  // The same for every replay, and like no id that a system gives.
  const freshId = () => `new-${++made}-${event.id}`;

  let passedOver = 0;
  for (let pending = queue.shift(); pending; pending = queue.shift()) {
    const { event: current, depth, trail, writes } = pending;
    await setup.pause?.();
    if (depth > 0 && stopped.has(refKey(current.ref))) continue;
    const touched = new Map<string, Touched>();
    const standing = () => overlay.standing(current.ref) ?? { record: current.record };
    const about = rulesAbout(current.ref, setup.rules);
    let passing = passingBy(about, current, sight, standing());
    for (const rule of about.rules) {
      const { id } = rule.rule;
      // An event of a request, of the clock or of a wait is for one rule.
      if (current.rule !== undefined && current.rule !== id) continue;
      if (passing.writes !== sight.writes) passing = passingBy(about, current, sight, standing());
      // Most rules of a record type watch other fields, and need not be offered it.
      if (!passing.started.has(rule)) {
        passing.knows(id);
        if (depth > 0) continue;
        if (reports.length < mostTold) reports.push(notStarted(rule, current));
        else passedOver++;
        continue;
      }
      if (circling.has(id) && stopped.has(refKey(current.ref))) continue;
      const seen = sight.newsFor(id, current, standing(), writes);
      sight.saw(id, current.ref, standing());
      // What the writes cause is no start for most rules; only those that it starts are told of.
      if (!seen || (depth > 0 && !select(rule.rule.trigger, rule.recordType, seen).fires)) continue;
      const asked = depth === 0 && current.existing === 'only blanks' ? onlyBlanks(rule) : rule;
      const outcome = await runRule(asked, seen, environment(seen), {
        catalog: setup.catalog,
        workspace: overlay,
        depth,
        freshId,
        observe: depth === 0 ? setup.observe : undefined,
        waits: setup.waits,
        paused: setup.paused,
        clock: setup.clock,
      });
      messages.push(...outcome.messages);
      if (outcome.waiting) waiting.push(outcome.waiting);
      reports.push(outcome.report);
      noteOrigins(origins, outcome, { rule, depth, cause: depth === 0 ? undefined : current.ref });
      for (const written of firstOfEach(outcome.written)) {
        const pause = setup.pause?.();
        if (pause) await pause;
        const change = changeBy(current, written, overlay, setup.catalog);
        if (!change) continue;
        sight.wrote(written.ref, change.changed);
        const key = refKey(written.ref);
        const known = touched.get(key);
        const turn: Turn = {
          ref: written.ref,
          rule: ruleRef(rule.rule),
          before: written.created ? undefined : written.record,
          after: overlay.standing(written.ref)?.record,
          changed: change.changed,
        };
        const turns = [...(known?.turns ?? []), turn];
        touched.set(key, { first: known?.first ?? written, turns, change: known ? undefined : change });
        const circle = circleOf([...trail, ...turns], setup.catalog);
        if (circle) stop(circle, key);
      }
      sight.saw(id, current.ref, standing());
    }
    for (const [key, { first, turns, change }] of touched) {
      if (stopped.has(key)) continue;
      const next =
        change ??
        changeBy(current, first, overlay, setup.catalog) ??
        // What one rule did and another undid is no change, but the first has not seen that it was undone.
        (key === refKey(current.ref) ? undone(current, first, overlay) : undefined);
      if (!next) continue;
      const led = trail.length === 0 ? turns : [...trail, ...turns];
      const pending = { event: next, depth: depth + 1, trail: led, writes: sight.writesTo(first.ref) };
      if (depth < deepestCascade) queue.push(pending);
      else if (startsAny(setup.rules, pending, sight, overlay)) stop(endlessPartOf(led, deepestCascade), key);
    }
  }
  return {
    report: {
      event,
      rules: reports,
      ...(passedOver > 0 && { passedOver }),
      writes: await plan(overlay, setup, origins),
      messages,
      waiting,
      problems,
    },
    met: overlay.met,
  };
}

/** Puts back what the writes of a circle changed, field by field, so that none of it is in the plan. */
function takeBack(turns: readonly Turn[], overlay: OverlayWorkspace): void {
  for (const { ref, before, changed } of turns.toReversed()) {
    const now = overlay.standing(ref)?.record;
    const back = (record: JsonObject) =>
      changed.reduce((known, path) => writePath(known, path, readPath(before, path)), record);
    overlay.restore(ref, before && (now ? back(now) : before));
  }
}

/** Returns whether a change would start any rule that has not seen it. */
function startsAny(
  rules: readonly CompiledRule[],
  { event, writes }: Pending,
  sight: Sight,
  overlay: OverlayWorkspace,
): boolean {
  const standing = overlay.standing(event.ref) ?? { record: event.record };
  return rules.some((rule) => {
    if (!concerns(rule, event)) return false;
    const seen = sight.newsFor(rule.rule.id, event, standing, writes);
    return seen !== undefined && select(rule.rule.trigger, rule.recordType, seen).fires;
  });
}

function unknownType({ ref: { system, recordType } }: ChangeEvent, catalog: Catalog): string[] {
  return catalog.recordType(system, recordType)
    ? []
    : [`There is no record type “${recordType}” in the system “${system}”: no rule can be about this event.`];
}

/** What there is to pass rules by with that a record does not concern, as it stands now. */
function passingBy(
  about: RulesOfType,
  event: ChangeEvent,
  sight: Sight,
  standing: { readonly record: JsonObject | undefined },
) {
  return {
    writes: sight.writes,
    /** The rules that may be started by what changed in the record, in the event and by writes. */
    started: about.startedBy(event.kind, [...new Set([...event.changed, ...sight.fieldsOf(event.ref)])]),
    knows: sight.knowing(event.ref, standing),
  };
}

/** Rules that did not start of which it is told why; of further ones only how many there are. */
const mostTold = 12;

/** Returns the report of a rule that an event does not start. */
function notStarted({ rule, recordType }: CompiledRule, event: ChangeEvent): RuleReport {
  const selection = select(rule.trigger, recordType, event);
  return {
    ruleId: rule.id,
    ruleName: rule.name,
    version: rule.version,
    depth: 0,
    ref: event.ref,
    verdict: selection.fires ? 'not watched' : selection.verdict,
    because: selection.fires ? '' : selection.because,
    steps: [],
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
  const now = overlay.standing(written.ref)?.record;
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

/** Returns the event of a record to which several writes came that together change nothing. */
function undone(
  { id, source, time }: ChangeEvent,
  { ref, record: before, created }: Written,
  overlay: OverlayWorkspace,
): ChangeEvent | undefined {
  const record = overlay.standing(ref)?.record;
  return record && !created
    ? { id, source, kind: 'updated', ref, time, record, before, changed: [] }
    : undefined;
}

async function plan(
  overlay: OverlayWorkspace,
  setup: RunSetup,
  origins: ReadonlyMap<string, Origin>,
): Promise<PlannedWrite[]> {
  const planned: PlannedWrite[] = [];
  for (const { change, version } of overlay.changes()) {
    const pause = setup.pause?.();
    if (pause) await pause;
    const { rules, depth = 0, cause } = origins.get(refKey(change.ref)) ?? {};
    planned.push({
      change: withoutOwnId(change, setup.catalog),
      ...(version !== undefined && { version }),
      rules: [...(rules?.values() ?? [])],
      depth,
      ...(cause && { cause }),
      before: overlay.metBefore(change.ref) ?? {},
    });
  }
  return planned.sort((a, b) => a.depth - b.depth);
}

/** Returns the record without its id: a record that is created gets it from its system. */
function withoutOwnId(change: RecordChange, catalog: Catalog): RecordChange {
  if (change.kind !== 'create') return change;
  const idField = catalog.recordType(change.ref.system, change.ref.recordType)?.idField ?? '';
  const { [idField]: _ours, ...record } = change.record;
  return { ...change, record };
}
