import { FormulaError } from '../formula/error';
import type { Env } from '../formula/scope';
import { refKey, type RecordRef, type StoredRecord } from '../model/record';
import { matches } from '../workspace/matches';
import { ValueIndex } from '../workspace/valueIndex';
import type { SearchCondition, Workspace } from '../workspace/workspace';
import { extend, toBeCreated, type Branch } from './branch';
import type { CompiledFind, CompiledRule } from './compiled';
import { counterpartsOf } from './counterparts';
import {
  ask,
  hasBlankKey,
  inOrder,
  meets,
  reportedConditions,
  searchConditions,
  searchFor,
  type Asked,
} from './find';
import { withLinked } from './follow';
import { stopwatch } from './stopwatch';
import { nearMisses } from './nearMisses';
import type { NearMiss, RuleVerdict, Step } from './report';

/** Where the finds of a rule lead, or why they lead nowhere. */
type ReachResult =
  | {
      readonly branches: readonly Branch[];
      readonly matched: readonly Matched[];
      /** Why branches ended whose find failed; their siblings went on. */
      readonly failures: readonly string[];
    }
  | { readonly verdict: RuleVerdict; readonly because: string };

/** Two records that a find matched and that are to be remembered as counterparts. */
interface Matched {
  readonly of: RecordRef;
  readonly is: RecordRef;
}

type FindStep = Extract<Step, { kind: 'find' }>;

/** How many of the found records a report names. */
const namedRecords = 20;

/** Finds of one rule that are kept in a report; further ones would tell the same. */
const findsInFull = 200;

/** Most records that are compared one by one, when a system cannot be asked for a condition. */
const mostCompared = 50_000;

/** Most records that are looked through for near misses. */
const lookedThrough = 1000;

/** What a find asks for one branch, and what came back. */
interface FindRequest {
  readonly branch: Branch;
  readonly env: Env;
  readonly asked: readonly Asked[];
  readonly conditions: readonly SearchCondition[];
  found: readonly StoredRecord[];
  /** Whether the record was known as a counterpart, so that nothing was looked for. */
  paired: boolean;
}

/**
 * Takes branches through the finds of a rule. Each find asks its system once for all branches, not once for each. A find that fails
 * for one branch ends that one; when it was the only one, or no other is left, the rule has failed.
 */
export async function reach(
  { finds }: CompiledRule,
  start: readonly Branch[],
  workspace: Workspace,
  { steps, clock }: { readonly steps: Step[]; readonly clock?: (() => number) | undefined },
): Promise<ReachResult> {
  let branches = start;
  const matched: Matched[] = [];
  const failures: string[] = [];
  for (const find of finds) {
    const took = stopwatch(clock);
    const { requests, failed } = await askAll(find, branches, workspace);
    failures.push(...failed);
    const compared = await fetchAll(find, requests, workspace);
    const { milliseconds } = took();
    const next: Branch[] = [];
    for (const [at, request] of requests.entries()) {
      const kept = await keptBy(find, request, workspace);
      if (kept instanceof FormulaError) {
        failures.push(`“${find.alias}” cannot be told: its condition failed: ${kept.message}`);
        continue;
      }
      const records = find.several === 'first' ? inOrder(find, kept).slice(0, 1) : kept;
      const near = kept.length === 0 ? await lookNear(find, request, workspace, steps) : [];
      noteFind(steps, find, {
        request,
        kept,
        compared,
        near,
        milliseconds: at === 0 ? milliseconds : undefined,
      });
      if (records.length === 0) {
        const because = `No ${find.type.label.toLowerCase()} was found for “${find.alias}”${near[0] ? `; the nearest: ${near[0].because}` : ''}.`;
        if (find.none === 'fail') failures.push(because);
        else if (find.none === 'go on') next.push(extend(request.branch, find.alias, undefined));
        else if (find.none === 'create') next.push(creating(find, request));
        else if (start.length === 1 && branches.length === 1) return { verdict: 'nothing found', because };
        continue;
      }
      if (records.length > 1 && find.several === 'fail') {
        failures.push(`${records.length} records were found for “${find.alias}”, and one is wanted.`);
        continue;
      }
      const [only, ...others] = records;
      if (find.counterpart && only && others.length === 0 && !request.paired)
        matched.push({ of: request.branch.self, is: only.ref });
      next.push(...records.map((stored) => extend(request.branch, find.alias, stored)));
    }
    branches = next;
    if (failures.length > 0 && branches.length === 0) return { verdict: 'failed', because: allOf(failures) };
  }
  return { branches, matched, failures };
}

function allOf(failures: readonly string[]): string {
  const [first = ''] = failures;
  const more = failures.length - 1;
  return more === 0 ? first : `${first} ${more} more failed as well.`;
}

/** Returns what a find asks for each branch, and why it cannot be asked for some. */
async function askAll(
  find: CompiledFind,
  branches: readonly Branch[],
  workspace: Workspace,
): Promise<{ readonly requests: readonly FindRequest[]; readonly failed: readonly string[] }> {
  const envs = await withLinked(
    find.match.map(({ compiled }) => compiled),
    branches.map(({ env }) => env),
    workspace,
  );
  const requests: FindRequest[] = [];
  const failed: string[] = [];
  for (const [at, branch] of branches.entries()) {
    const env = envs[at] ?? branch.env;
    const asked = ask(find, env);
    if (asked instanceof FormulaError) failed.push(asked.message);
    else requests.push({ branch, env, asked, conditions: searchConditions(asked), found: [], paired: false });
  }
  return { requests, failed };
}

/** Fetches what all branches ask for. Returns how many records were compared one by one, if any were. */
async function fetchAll(
  find: CompiledFind,
  askings: readonly FindRequest[],
  workspace: Workspace,
): Promise<number | undefined> {
  const open: FindRequest[] = [];
  const selves = askings.map(({ branch }) => branch.self);
  const pairs = find.counterpart && (await counterpartsOf(selves, find, find.type, workspace));
  for (const request of askings) {
    const known = pairs ? pairs.get(refKey(request.branch.self)) : undefined;
    if (known) {
      request.found = [known];
      request.paired = true;
    } else if (!hasBlankKey(request.asked)) open.push(request);
  }
  const [first] = open;
  if (!first) return undefined;
  if (first.conditions.length === 0) return compareAll(find, open, workspace);
  const records = await workspace.find(searchFor(find, together(open)));
  const candidates = candidatesIn(find, open, records);
  for (const request of open) {
    const search = searchFor(find, request.conditions);
    request.found = candidates(request).filter(
      ({ record }) =>
        (open.length === 1 || matches(find.type, record, search)) &&
        meets(record, request.asked, request.env),
    );
  }
  return undefined;
}

/** Returns one search that gives the records of all branches, and perhaps more: each field may hold what any of them asks for. */
function together(askings: readonly FindRequest[]): readonly SearchCondition[] {
  const [first] = askings;
  return (first?.conditions ?? []).map(({ field }, at) => {
    const values = askings.flatMap(({ conditions }) => conditions[at]?.values ?? []);
    return { field, values: [...new Map(values.map((value) => [JSON.stringify(value), value])).values()] };
  });
}

/** Returns the records that may be those of a branch, by an index of the first condition where there are many of both. */
function candidatesIn(
  find: CompiledFind,
  askings: readonly FindRequest[],
  records: readonly StoredRecord[],
): (request: FindRequest) => readonly StoredRecord[] {
  const [condition] = askings[0]?.conditions ?? [];
  const definition = find.match.find(({ field }) => field === condition?.field)?.definition;
  if (askings.length === 1 || !condition || !definition) return () => records;
  const index = new ValueIndex(definition, condition.field, records);
  return ({ conditions }) => index.candidates(conditions[0]?.values ?? []) ?? records;
}

/** Reads all records of the type, because their system cannot be asked for any of the conditions. */
async function compareAll(
  find: CompiledFind,
  askings: readonly FindRequest[],
  workspace: Workspace,
): Promise<number> {
  const all = await workspace.find({ ...searchFor(find, []), peek: mostCompared });
  for (const request of askings) {
    const met = all.filter(({ record }) => meets(record, request.asked, request.env));
    // What was only peeked at counts as met once it is used.
    const used = await Promise.all(met.map(({ ref }) => workspace.get(ref)));
    request.found = used.filter((stored) => stored !== undefined);
  }
  return all.length;
}

/** Returns what the find's own guard keeps, or the error of a record for which it cannot be computed. */
async function keptBy(
  find: CompiledFind,
  { branch, found }: FindRequest,
  workspace: Workspace,
): Promise<readonly StoredRecord[] | FormulaError> {
  const { compiledWhere } = find;
  if (!compiledWhere) return found;
  const envs = await withLinked(
    [compiledWhere],
    found.map((stored) => extend(branch, find.alias, stored).env),
    workspace,
  );
  const kept: StoredRecord[] = [];
  for (const [at, stored] of found.entries()) {
    const env = envs[at];
    const value = env && compiledWhere.run(env);
    if (value instanceof FormulaError) return value;
    if (value === true) kept.push(stored);
  }
  return kept;
}

/** Looks for records that would have been found, had a text been written a little differently. */
async function lookNear(
  find: CompiledFind,
  { asked, env, found }: FindRequest,
  workspace: Workspace,
  steps: readonly Step[],
): Promise<readonly NearMiss[]> {
  const known = steps.some((step) => step.kind === 'find' && step.alias === find.alias);
  // Where nothing found is nothing unusual, or nothing was asked for, there is nothing to wonder about.
  if (known || found.length > 0 || find.none === 'go on' || find.none === 'create' || hasBlankKey(asked))
    return [];
  const some = await workspace.find({ ...searchFor(find, []), peek: lookedThrough, hint: true });
  const near = nearMisses(find, asked, some, env);
  // A sample of this run holds them, so that the mended find finds them there.
  await Promise.all(near.map(({ ref }) => workspace.get(ref)));
  return near;
}

function creating(find: CompiledFind, { branch, asked }: FindRequest): Branch {
  const start = asked.flatMap(({ condition, values }) => {
    const [value] = reportedConditions([{ condition, values }])[0]?.values ?? [];
    return condition.is === 'equal' && !condition.compiledAs && value !== undefined
      ? [{ field: condition.field, value }]
      : [];
  });
  return toBeCreated(branch, find.alias, { start, counterpart: find.counterpart ?? false });
}

/** What a find came to for one branch. */
interface Finding {
  readonly request: FindRequest;
  readonly kept: readonly StoredRecord[];
  /** How many records were compared one by one. */
  readonly compared: number | undefined;
  readonly near: readonly NearMiss[];
  /** How long asking took, told with the first of those that were asked at once. */
  readonly milliseconds: number | undefined;
}

function noteFind(
  steps: Step[],
  find: CompiledFind,
  { request: { asked, found, paired }, kept, compared, near, milliseconds }: Finding,
): void {
  if (steps.filter(({ kind }) => kind === 'find').length >= findsInFull) return;
  const step: FindStep = {
    kind: 'find',
    alias: find.alias,
    system: find.system,
    recordType: find.recordType,
    conditions: reportedConditions(asked),
    found: kept.length,
    ...(milliseconds !== undefined && { milliseconds }),
    ...(found.length > kept.length && { leftOut: found.length - kept.length }),
    ...(paired && { paired: true as const }),
    ...(compared !== undefined && { compared }),
    ...(near.length > 0 && { near }),
    records: kept.slice(0, namedRecords).map(({ ref }) => ref),
  };
  steps.push(step);
}
