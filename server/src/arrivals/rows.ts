import {
  compileLayout,
  fileFormat,
  judgeRow,
  problemText,
  rowKey,
  runEvent,
  typedIn,
  leafFields,
  unpacked,
  WorkspaceError,
  writePath,
  type ChangeEvent,
  type CompiledLayout,
  type FileRow,
  type JsonObject,
  type Layout,
  type LineProblem,
  type RecordType,
  type Report,
  type RowJudged,
} from '@vast-knot/core';
import type { ReceivedEvent } from '../inbox/inbox';
import type { Pool } from '../db/pool';
import { ConnectedWorkspace } from '../registry/connectedWorkspace';
import type { Registry } from '../registry/registry';
import { partsOf, type KeptArrival, type Mends } from './repository';

/** A file with all that is needed to make records of it. */
export interface ReadyArrival {
  readonly arrival: KeptArrival;
  readonly system: string;
  readonly type: RecordType;
  readonly layout: Layout;
  readonly compiled: CompiledLayout;
}

/** Returns a file ready to be laid out, or the sentence that says why it is not. */
export function readyArrival(
  arrival: KeptArrival,
  { catalog, tables, connectors }: Pick<Registry, 'catalog' | 'tables' | 'connectors'>,
): { readonly ok: true; readonly ready: ReadyArrival } | { readonly ok: false; readonly because: string } {
  const { system, recordType, layout, head } = arrival;
  if (head.problem !== '') return { ok: false, because: head.problem };
  if (system === null || recordType === null || !layout)
    return { ok: false, because: 'Choose what its records become.' };
  const type = catalog.recordType(system, recordType);
  const connector = connectors.get(system);
  if (!type || !connector || connector.records)
    return { ok: false, because: `There is no inlet ${system} with ${recordType} any more.` };
  const compiled = compileLayout(layout, type, tables);
  const [problem] = compiled.problems;
  if (problem) return { ok: false, because: problem.because };
  const [missing] = compiled.missing;
  if (missing) return { ok: false, because: `“${missing.label}” must be filled, and no line fills it.` };
  return { ok: true, ready: { arrival, system, type, layout, compiled } };
}

/** Returns the records of a file in their order. */
export async function* recordsOf(
  pool: Pool,
  { arrival: { id }, layout }: ReadyArrival,
): AsyncGenerator<FileRow> {
  for await (const rows of fileFormat(layout.file).read(unpacked(partsOf(pool, id)), layout.file))
    yield* rows;
}

/** A record of a file as an event, or why it is none. */
export interface LaidRow {
  readonly record: JsonObject;
  /** What it is known by. */
  readonly recordId: string;
  /** The same where the file says it; undefined where it is only its place in the file. */
  readonly key: string | undefined;
  readonly problems: readonly LineProblem[];
}

/** Returns what a record of a file becomes, with what was typed in the place of its values. */
export function layRow(
  { arrival, type, compiled }: ReadyArrival,
  { at, value }: { readonly at: number; readonly value: JsonObject },
): LaidRow {
  const { record, problems } = compiled.lay(value, { time: arrival.cameAt.toISOString() });
  const mended = withMends(type, { record, problems }, mendsOf(arrival.mends, at));
  const key = rowKey(type, mended.record);
  const recordId = key ?? `${arrival.digest.slice(0, 16)}-${at}`;
  return {
    record: { ...mended.record, [type.idField]: recordId },
    recordId,
    key,
    problems: mended.problems,
  };
}

export function mendsOf(mends: Mends, at: number): Readonly<Record<string, string>> {
  return mends[String(at)] ?? {};
}

function withMends(
  type: RecordType,
  laid: { readonly record: JsonObject; readonly problems: readonly LineProblem[] },
  mends: Readonly<Record<string, string>>,
) {
  const leaves = new Map(leafFields(type.fields).map((leaf) => [leaf.path, leaf.field]));
  return Object.entries(mends).reduce((sofar, [path, typed]) => {
    const field = leaves.get(path);
    if (!field) return sofar;
    const problems = sofar.problems.filter((problem) => problem.field !== path);
    const read = typedIn(field, typed);
    return read.problem === undefined
      ? { record: writePath(sofar.record, path, read.json ?? undefined), problems }
      : { record: sofar.record, problems: [...problems, { field: path, because: read.problem }] };
  }, laid);
}

/** The events of a file come from it; with their rows they are each taken once. */
export const sourceOf = (id: string) => `/arrivals/${id}`;

/** Returns the event that a record of a file is. */
export function eventOf(
  { arrival: { id, cameAt }, system, type }: ReadyArrival,
  at: number,
  { record, recordId }: LaidRow,
): ReceivedEvent {
  return {
    id: String(at),
    source: sourceOf(id),
    kind: 'file row',
    ref: { system, recordType: type.name, id: recordId },
    time: cameAt.toISOString(),
    record,
    claimed: [],
  };
}

/** Returns what the rules would do with a record of a file, with each step. Throws a WorkspaceError where a system cannot be asked now. */
export async function reportOf(
  registry: Registry,
  ready: ReadyArrival,
  at: number,
  laid: LaidRow,
  pause?: () => Promise<void> | undefined,
): Promise<Report> {
  const { claimed: _claimed, ...received } = eventOf(ready, at, laid);
  const event: ChangeEvent = { ...received, record: laid.record, changed: Object.keys(laid.record) };
  const { catalog, rules } = registry;
  const workspace = new ConnectedWorkspace(registry);
  return (await runEvent(event, { catalog, rules, workspace, ...(pause && { pause }) })).report;
}

/** Returns how a record of a file stands. What is refused for one record is its own; throws where a system cannot be asked now. */
export async function judgeLaid(
  registry: Registry,
  ready: ReadyArrival,
  at: number,
  laid: LaidRow,
  pause?: () => Promise<void> | undefined,
): Promise<RowJudged> {
  if (laid.problems.length > 0)
    return { standing: 'cannot', because: problemText(laid.problems), differences: [] };
  try {
    return judgeRow(await reportOf(registry, ready, at, laid, pause));
  } catch (thrown) {
    if (!(thrown instanceof WorkspaceError) || thrown.problem.retry) throw thrown;
    return { standing: 'cannot', because: thrown.problem.message, differences: [] };
  }
}
