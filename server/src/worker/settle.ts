import {
  changeWithRealIds,
  fieldsOf,
  refKey,
  type ApplyResult,
  type PlannedWrite,
  type Problem,
  type RecordChange,
  type RecordRef,
  type Workspace,
} from '@vast-knot/core';
import type { Pool } from '../db/pool';
import type { OwnWrite } from '../images/derive';
import {
  creates,
  creationsOf,
  noCounts,
  notingSending,
  sentAtOnce,
  waitingWrites,
  type Creations,
  type KeptState,
  type SettledWrite,
  type WaitingWrite,
  type WriteCounts,
} from '../runs/plan';
import { stoppedBy } from '../runs/repository';
import { OpenWrites } from './openWrites';
import type { RightOfWay } from './rightOfWay';
import type { Sets } from './sets';

/** Batches that are sent or noted at the same time. */
const atOnce = 3;

/** More writes than so many are noted by themselves. */
const many = 50;

/** Sends writes to records in the turn of those that meet there. */
export type Beside = <T>(refs: readonly RecordRef[], send: () => Promise<T>) => Promise<T>;

/** What writes are sent with. */
interface Sending {
  readonly pool: Pool;
  readonly sets: Sets;
  readonly workspace: Workspace;
  readonly beside: Beside;
  /** Before each batch it stands aside for lone events; without it, for nobody. */
  readonly rightOfWay?: RightOfWay;
}

/** How the writes of a run are sent. */
interface Settling {
  /** What comes back of them starts rules. */
  readonly asOthers?: boolean;
  /** The run had a plan before this one, of which something may be written: also where this one has nothing to write. */
  readonly planned?: boolean;
}

/** What became of the open writes of a run. */
export interface Settled {
  /** The system that is to be waited for, where one is not asked now. */
  readonly waits: Problem['waits'];
  /** Records that somebody else changed in between. */
  readonly contended: readonly RecordRef[];
  /** How many writes of the run stand in each state; undefined where not all of them were at hand. */
  readonly counts: WriteCounts | undefined;
  /** Who stopped it. */
  readonly stoppedBy: string | undefined;
}

/** What became of the writes of a run so far, as far as others depend on it. */
interface Course extends Creations {
  readonly runId: string;
  /** Its writes are not remembered as ours: when they come back as events they start rules, as somebody else's do. */
  readonly asOthers: boolean;
  /** Records that were not written, and what their writes came to. */
  readonly unwritten: Map<string, KeptState>;
  /** The system that is not asked now, and until when. */
  waits: Problem['waits'];
  readonly contended: RecordRef[];
  /** Of how many writes it is noted how they stand. */
  noted: number;
  readonly counts: Record<KeptState, number>;
  stoppedBy: string | undefined;
}

/**
 * Sends the open writes of a run, those that others follow from first, and notes the result of each; `atHand` has them where the
 * plan was just stored. A write whose cause was refused is given up; one whose cause is to be tried again waits for it. Once
 * somebody stops the run, no further batch is sent.
 */
export async function settle(
  sending: Sending,
  runId: string,
  atHand: readonly WaitingWrite[] | undefined,
  { asOthers = false, planned = false }: Settling = {},
): Promise<Settled> {
  const { pool, rightOfWay } = sending;
  // All that the run ever planned is at hand.
  const whole = planned ? undefined : atHand;
  const open = new OpenWrites((after, most) => waitingWrites(pool, runId, after, most), atHand);
  const course: Course = {
    runId,
    asOthers,
    ...(whole ? creationsIn(whole) : await creationsOf(pool, runId)),
    unwritten: new Map(),
    waits: undefined,
    contended: [],
    noted: 0,
    counts: noCounts(),
    // A few writes are sent at once, whatever is asked for meanwhile.
    stoppedBy: whole && whole.length <= sentAtOnce ? undefined : (await stoppedBy(pool, [runId])).get(runId),
  };
  for (let stage = await open.stage(); stage; stage = await open.stage()) {
    const here = stage;
    // While the result of one batch is noted, the next one is on its way. A creating write goes for itself: the next one may carry
    // the id that it gets.
    // While lone events are dealt with, one batch at a time is on its way, and none for as long as the last one took. Once a lane ends,
    // nothing is left for the others to stand aside for.
    let end: () => void = () => undefined;
    const ended = new Promise<void>((done) => (end = done));
    const lane = async (_none: unknown, nth: number) => {
      for (let took = 0; ;) {
        if (nth === 0) await rightOfWay?.standAside(took);
        else await Promise.race([rightOfWay?.standAside(Infinity), ended]);
        if (course.stoppedBy !== undefined) return end();
        const began = performance.now();
        const batch = await open.take(here, here.creating ? 1 : sentAtOnce);
        if (batch.length === 0) return end();
        await sendWhatCan(sending, course, batch, whole?.length);
        took = performance.now() - began;
      }
    };
    await Promise.all(Array.from({ length: here.creating ? 1 : atOnce }, lane));
    if (course.stoppedBy !== undefined) break;
  }
  const { waits, contended, noted, counts } = course;
  return {
    waits,
    contended,
    counts: whole?.length === noted ? counts : undefined,
    stoppedBy: course.stoppedBy,
  };
}

/** Returns what the first plan of a run is to create. */
function creationsIn(writes: readonly WaitingWrite[]): Creations {
  const awaited = writes
    .filter(({ planned }) => creates(planned))
    .map(({ planned }) => planned.change.ref.id);
  return { awaited: new Set(awaited), given: new Map(), tried: new Set() };
}

/** Sends those writes of a batch that do not depend on one that did not happen. Of `whole` writes the run consists; undefined where unknown. */
async function sendWhatCan(
  sending: Sending,
  course: Course,
  batch: readonly WaitingWrite[],
  whole: number | undefined,
): Promise<void> {
  const { awaited, given, unwritten } = course;
  const caused = batch.filter(({ planned }) => !planned.cause || !unwritten.has(refKey(planned.cause)));
  await leaveWithCause(
    sending,
    course,
    batch.filter((write) => !caused.includes(write)),
  );
  const lost = caused.filter((write) => namesLost(write.planned, awaited, given));
  if (lost.length > 0) await giveUp(sending, course, lost);
  const sent = caused.filter((write) => !lost.includes(write));
  if (sent.length === 0) return;
  for (const { planned, state } of await sendBatch(sending, course, sent, whole)) {
    if (state.state !== 'written') unwritten.set(refKey(state.ref), state.state);
    else if (creates(planned)) given.set(planned.change.ref.id, state.ref.id);
  }
}

/** Saves results of writes of a run, and hears whether somebody stopped it meanwhile. */
async function note(
  { sets }: Sending,
  course: Course,
  settled: readonly SettledWrite[],
  { own = [], goesOn = false }: { readonly own?: readonly OwnWrite[]; readonly goesOn?: boolean } = {},
): Promise<void> {
  course.noted += settled.length;
  for (const { state } of settled) course.counts[state]++;
  const toNote = { runId: course.runId, settled, own, goesOn };
  // Nobody else waits for that of many writes.
  const by = settled.length > many ? await sets.noteAlone(toNote) : await sets.note.do(toNote);
  course.stoppedBy ??= by;
}

/** Writes whose cause was not written: they wait where it is tried again, and are given up where not. */
async function leaveWithCause(
  sending: Sending,
  course: Course,
  writes: readonly WaitingWrite[],
): Promise<void> {
  const { unwritten } = course;
  const skipped: WaitingWrite[] = [];
  for (const write of writes) {
    const {
      cause,
      change: { ref },
    } = write.planned;
    const waits = cause && unwritten.get(refKey(cause)) === 'failed';
    unwritten.set(refKey(ref), waits ? 'failed' : 'skipped');
    if (!waits) skipped.push(write);
  }
  if (skipped.length === 0) return;
  const because = 'Not written, because the write that it follows from was not.';
  await note(
    sending,
    course,
    skipped.map((write) => settledAs(write, 'skipped', because)),
  );
}

/** Returns whether a write carries the id of a record that was to be created before it and was not. */
function namesLost(
  { change }: PlannedWrite,
  awaited: ReadonlySet<string>,
  given: ReadonlyMap<string, string>,
): boolean {
  return fieldsOf(change).some(
    ({ after }) => typeof after === 'string' && awaited.has(after) && !given.has(after),
  );
}

/** A write that needs a record which was not created waits for it where that is tried again, and is given up where not. */
async function giveUp(sending: Sending, course: Course, lost: readonly WaitingWrite[]): Promise<void> {
  const { unwritten } = course;
  const again = [...unwritten.values()].includes('failed');
  const because = 'Not written, because the record that it refers to was not created.';
  const settled = lost.map((write) => settledAs(write, again ? 'failed' : 'skipped', because));
  for (const { ref, state } of settled) unwritten.set(refKey(ref), state);
  await note(sending, course, settled);
}

/** Sends one batch and notes what came of it. */
async function sendBatch(
  sending: Sending,
  course: Course,
  batch: readonly WaitingWrite[],
  whole: number | undefined,
): Promise<readonly { readonly planned: PlannedWrite; readonly state: SettledWrite }[]> {
  const marked = batch.every(({ onItsWay }) => onItsWay);
  if (!marked && batch.length > many) await sending.pool.query(notingSending(batch));
  else if (!marked) await sending.sets.send.do(batch);
  const sent = batch.map(({ planned }) => changeWithRealIds(planned.change, course.given));
  const refs = batch.map(({ planned }) => planned.change.ref);
  const results = await sending.beside(refs, () =>
    sending.workspace.apply(
      batch.map(({ planned, key, again }, at) => ({
        change: sent[at] ?? planned.change,
        key,
        ...(again && { again }),
        ...(planned.version !== undefined && { version: planned.version }),
      })),
    ),
  );
  for (const result of results) if (!result.ok) course.waits ??= result.problem.waits;
  const settled = batch.map((write, at) => settledBy(write, results[at]));
  for (const { ref, state } of settled) if (state === 'conflict') course.contended.push(ref);
  const own = batch.flatMap(({ planned }, at) => {
    const change = sent[at];
    return change && !course.asOthers ? ownWriteOf(change, planned.before, results[at]) : [];
  });
  await note(sending, course, settled, { own, goesOn: whole === undefined || whole > batch.length });
  return batch.flatMap(({ planned }, at) => {
    const state = settled[at];
    return state ? [{ planned, state }] : [];
  });
}

/** Returns what a write came to by the answer of its system. */
function settledBy(write: WaitingWrite, result: ApplyResult | undefined): SettledWrite {
  if (result?.ok) {
    const { ref } = write.planned.change;
    return { ...settledAs(write, 'written', null), ref: { ...ref, id: result.id ?? ref.id } };
  }
  const problem = result?.problem;
  return settledAs(
    write,
    stateOf(problem?.code, problem?.retry ?? true),
    problem?.message ?? 'No result came back.',
  );
}

/** Returns what is to be remembered of a write: one that was made, or one to which no answer came, which may be made all the same. */
function ownWriteOf(
  change: RecordChange,
  before: PlannedWrite['before'],
  result: ApplyResult | undefined,
): OwnWrite[] {
  const { ref, kind } = change;
  if (result?.ok) {
    // A created record is remembered as its system gave it back: with its id, and with what the system added.
    const made = { ...change, ref: { ...ref, id: result.id ?? ref.id } };
    return [
      {
        change: made,
        before: kind === 'create' ? (result.record ?? {}) : before,
        version: result.version,
      },
    ];
  }
  const problem = result?.problem;
  const asked = !problem?.waits || problem.waits.sent;
  const unanswered = result === undefined || (problem?.code === 'unavailable' && asked);
  return kind === 'edit' && unanswered ? [{ change, before, version: undefined, unsure: true }] : [];
}

function stateOf(code: string | undefined, retry: boolean): KeptState {
  if (code === 'changed in between') return 'conflict';
  return retry ? 'failed' : 'refused';
}

function settledAs(
  { runId, plan, seq, planned }: WaitingWrite,
  state: KeptState,
  problem: string | null,
): SettledWrite {
  return { runId, plan, seq, ref: planned.change.ref, state, problem };
}
