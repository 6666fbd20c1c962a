import { isBlank } from '../../formula/compare';
import { FormulaError } from '../../formula/error';
import { limits } from '../../formula/limits';
import { withItem } from '../../formula/scope';
import { typedIn } from '../../formula/typedIn';
import { isList } from '../../formula/value';
import type { Reviewed } from '../../model/event';
import { isBlankJson } from '../../model/equal';
import { isJsonObject, readPath, writePath, type Json, type JsonObject } from '../../model/json';
import type { RecordRef } from '../../model/record';
import { fieldAt, leafFields, type RecordType } from '../../model/system';
import { extend, lostLines, without, type Branch } from '../branch';
import { rememberPair } from '../counterparts';
import { withLinked } from '../follow';
import { runLines } from '../lines';
import type { LineReport } from '../report';
import { resolveKeys } from '../resolveKeys';
import { makeChange, noteError, noteStep, type RuleContext } from '../ruleContext';
import { copied } from './copied';
import type { CopyAction } from './copy';
import type { CreateAction } from './create';
import type { CompiledCreating } from './creating';
import type { WriteAction } from './write';
import { passing, type Target } from './targets';

type CompiledWrite = CompiledCreating<WriteAction | CreateAction | CopyAction>;

/** Most records that one list may create in one run: as many as a list may have elements. */
const mostAtOnce = limits.items;

/**
 * Creates a record for every branch, or one for each element of a list, and lets the actions after it know each by its alias.
 * A record whose lines fail, or that would lack a required field, is not created; the others are.
 */
export async function createForEach(
  action: CompiledWrite,
  branches: readonly Branch[],
  context: RuleContext,
): Promise<readonly Branch[]> {
  const { creating, none } = await spread(action, branches, context);
  return [...(await createRecords(action, action.target, creating, context)), ...none];
}

interface Spread {
  readonly creating: readonly Branch[];
  /** Branches whose list has no element: the actions after this one go on without a new record. */
  readonly none: readonly Branch[];
}

/** Returns a branch for each element of the list of the action; without a list, the branches as they are. */
async function spread(
  { each, at, target }: CompiledWrite,
  branches: readonly Branch[],
  context: RuleContext,
): Promise<Spread> {
  if (!each) return { creating: branches, none: [] };
  const none: Branch[] = [];
  const envs = await withLinked(
    [each],
    branches.map(({ env }) => env),
    context.workspace,
  );
  const creating = branches.flatMap((branch, index): Branch[] => {
    const value = each.run(envs[index] ?? branch.env);
    if (value instanceof FormulaError) {
      noteError(context.counts, `The list of action ${at + 1} failed: ${value.message}`);
      context.steps.push({ kind: 'problem', message: `Nothing created: ${value.message}` });
      return [];
    }
    // A list that ends with a separator has a blank element, which is nothing.
    const items = (isList(value) ? value : [value]).filter((item) => !isBlank(item));
    if (items.length > mostAtOnce) {
      noteError(
        context.counts,
        `${items.length} records would be created at once; at most ${mostAtOnce.toLocaleString('en')} are.`,
      );
      return [];
    }
    if (items.length === 0) none.push(without(branch, target, 'not wanted'));
    return items.map((item) => ({ ...branch, env: withItem(branch.env, item) }));
  });
  return { creating, none };
}

interface Creation extends Target {
  readonly start: JsonObject;
  readonly reviewed: Reviewed | undefined;
  /** Whether the person who looked at it first did not want it. */
  readonly leftOut: boolean;
}

/** Creates the record of an action for each branch. Returns the branches that know it, in their order. */
export async function createRecords(
  action: CompiledWrite,
  alias: string,
  branches: readonly Branch[],
  context: RuleContext,
): Promise<readonly Branch[]> {
  const { system, recordType, lines } = action;
  const { workspace } = context;
  const creations = branches.map((branch, index): Creation => {
    const ref = { system, recordType: recordType.name, id: context.freshId() };
    const start = startOf(action, alias, branch);
    const { reviewed: all } = context.event;
    const reviewed = all?.find((one) => one.action === action.at && one.at === index);
    // Of what is to be looked at first, only what was looked at is created.
    const leftOut = reviewed ? reviewed.leftOut === true : all !== undefined && isReviewed(action);
    return {
      branch,
      target: { ref, record: {} },
      env: { ...branch.env, target: start },
      start,
      reviewed,
      leftOut,
    };
  });
  const passed = new Set(await passing(action, creations, context));
  const envs = await withLinked(
    lines.map(({ compiled }) => compiled),
    creations.map(({ env }) => env),
    workspace,
  );
  context.observe?.(
    action,
    creations.map(({ target, env }, at) => ({ target, env: envs[at] ?? env })),
  );
  const resolve = await resolveKeys(lines, envs, workspace);
  const next: Branch[] = [];
  for (const [at, creation] of creations.entries()) {
    const { branch, target, env, start, reviewed, leftOut } = creation;
    if (!passed.has(creation) || leftOut) {
      next.push(without(branch, alias, 'not wanted'));
      continue;
    }
    context.counts.reached++;
    const lost = lostLines(lines, branch.lost);
    const computable = lines.filter((line) => !lost.some(({ field }) => field === line.field));
    const { reports: computed } = runLines(computable, start, { env: envs[at] ?? env, resolve });
    const reports = withReviewed(recordType, [...lost, ...fromStart(start, computed), ...computed], reviewed);
    noteStep(context, {
      kind: 'write',
      action: action.at,
      ref: target.ref,
      lines: reports,
      creates: true,
      at,
    });
    const record = recordOf(recordType, target.ref.id, reports);
    next.push(
      (await createOne({ action, alias, creation, record, reports }, context)) ??
        without(branch, alias, 'failed'),
    );
  }
  return next;
}

/** A record that is to be created, filled by its lines. */
interface Filled {
  readonly action: CompiledWrite;
  readonly alias: string;
  readonly creation: Creation;
  readonly record: JsonObject;
  readonly reports: readonly LineReport[];
}

/** Creates one record, or says why not. Returns the branch that knows it. */
async function createOne(
  { action, alias, creation, record, reports }: Filled,
  context: RuleContext,
): Promise<Branch | undefined> {
  const {
    branch,
    target: { ref },
  } = creation;
  const { counts, steps } = context;
  const wrong = whyNot(action.recordType, record, reports);
  const change = { kind: 'create', ref, record } as const;
  if (wrong !== undefined) {
    noteError(counts, `The ${action.recordType.label.toLowerCase()} is not created: ${wrong}`);
    steps.push({ kind: 'problem', message: `Not created: ${wrong}`, ref });
    return undefined;
  }
  if (!(await makeChange(change, { ref, record: {} }, context))) return undefined;
  if (isCounterpart(action, alias, branch)) await rememberPair(branch.self, ref, context);
  return extend({ ...branch, env: { ...branch.env, item: null } }, alias, { ref, record });
}

function isReviewed({ action }: CompiledWrite): boolean {
  return action.kind !== 'write' && action.review === true;
}

function isCounterpart({ action }: CompiledWrite, alias: string, branch: Branch): boolean {
  if (action.kind === 'create') return action.counterpart ?? false;
  return branch.toCreate[alias]?.counterpart ?? false;
}

/** Returns what the record holds before the lines: what is copied, or what its find looked for. */
function startOf(action: CompiledWrite, alias: string, branch: Branch): JsonObject {
  const { action: said, recordType } = action;
  if (said.kind === 'copy') {
    const source = said.of === 'record' ? branch.env.record : branch.env.found[said.of];
    return copied(recordType, source ?? {});
  }
  if (said.kind === 'create') return {};
  return (branch.toCreate[alias]?.start ?? []).reduce<JsonObject>(
    (record, { field, value }) => writePath(record, field, value ?? null),
    {},
  );
}

/** Reports of the fields that no line fills and that the record starts with. */
function fromStart(start: JsonObject, computed: readonly LineReport[]): readonly LineReport[] {
  const filled = new Set(computed.filter(({ verdict }) => verdict === 'changes').map(({ field }) => field));
  return leavesOf(start)
    .filter(({ path }) => !filled.has(path))
    .map(({ path, value }) => startReport(path, value));
}

function startReport(field: string, value: Json): LineReport {
  return { field, formula: '', before: null, value: { json: value }, verdict: 'changes', because: null };
}

function leavesOf(
  record: JsonObject,
  prefix = '',
): readonly { readonly path: string; readonly value: Json }[] {
  return Object.entries(record).flatMap(([name, value]) =>
    isJsonObject(value)
      ? leavesOf(value, `${prefix}${name}.`)
      : value === undefined || value === null
        ? []
        : [{ path: prefix + name, value }],
  );
}

/** Returns the lines with what a person put in their place, as far as the fields can hold it. */
function withReviewed(
  { fields, label }: RecordType,
  reports: readonly LineReport[],
  reviewed: Reviewed | undefined,
): readonly LineReport[] {
  const typed = Object.entries(reviewed?.values ?? {}).map(([field, json]): LineReport => {
    const computed = reports.find((line) => line.field === field) ?? startReport(field, null);
    const definition = fieldAt(fields, field);
    const value = !definition
      ? { problem: `${label} has no field “${field}”.` }
      : definition.readOnly
        ? { problem: `“${definition.label}” is read-only in its system.` }
        : typedIn(definition, json);
    if (value.problem !== undefined)
      return { ...computed, value: { error: value.problem }, verdict: 'error', because: value.problem };
    const same =
      'json' in computed.value && JSON.stringify(computed.value.json) === JSON.stringify(value.json);
    return same && computed.verdict === 'changes'
      ? computed
      : { ...computed, value, verdict: 'changes', because: 'Typed on review.' };
  });
  const byField = new Map(typed.map((line) => [line.field, line]));
  const known = new Set(reports.map(({ field }) => field));
  return [
    ...reports.map((line) => byField.get(line.field) ?? line),
    ...typed.filter(({ field }) => !known.has(field)),
  ];
}

function recordOf(type: RecordType, id: RecordRef['id'], reports: readonly LineReport[]): JsonObject {
  return reports.reduce<JsonObject>(
    (made, { field, verdict, value }) =>
      verdict === 'changes' && 'json' in value ? writePath(made, field, value.json) : made,
    { [type.idField]: id },
  );
}

/** Returns why a record cannot be created; undefined when it can. */
function whyNot(
  { fields }: RecordType,
  record: JsonObject,
  reports: readonly LineReport[],
): string | undefined {
  const failed = reports.find(({ verdict }) => verdict === 'error');
  if (failed) return `${failed.field}: ${failed.because ?? ''}`;
  const missing = leafFields(fields).find(
    ({ field, path }) => field.required && !field.readOnly && isBlankJson(readPath(record, path)),
  );
  return missing && `“${missing.label}” is required and has no value.`;
}
