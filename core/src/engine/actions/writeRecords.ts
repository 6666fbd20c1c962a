import { extend, lostLines, type Branch } from '../branch';
import type { AnyCompiled } from '../compiled';
import { rememberPair } from '../counterparts';
import { withLinked } from '../follow';
import { runLines, SharedValues } from '../lines';
import type { FieldEdit } from '../../change/recordChange';
import { isBlankJson, sameValue } from '../../model/equal';
import type { Json } from '../../model/json';
import { printJson } from '../../model/jsonText';
import { refKey, type StoredRecord } from '../../model/record';
import { fieldAt, labelAt } from '../../model/system';
import { resolveKeys } from '../resolveKeys';
import { makeChange, noteError, noteLineErrors, noteStep, type RuleContext } from '../ruleContext';
import { createRecords } from './createRecords';
import { targetsOf } from './targets';
import type { WriteAction } from './write';

/** Branches whose records are held ready at the same time. */
const branchesAtOnce = 500;

/**
 * Writes the lines to a record of every branch; where its find found none and is to create it, creates it. Branches that looked for
 * the same record in vain create one: the first makes it, and the others write to it.
 */
export async function writeRecords(
  action: AnyCompiled<WriteAction>,
  branches: readonly Branch[],
  context: RuleContext,
): Promise<readonly Branch[]> {
  const { target: alias } = action;
  const isNew = (branch: Branch) => branch.toCreate[alias] !== undefined;
  await writeExisting(
    action,
    branches.filter((branch) => !isNew(branch)),
    context,
  );
  let result = branches;
  for (let fresh = result.filter(isNew); fresh.length > 0; fresh = result.filter(isNew)) {
    const groups = groupedBy(fresh, (branch) => JSON.stringify(branch.toCreate[alias]?.start));
    const firsts = groups.flatMap(([first]) => first ?? []);
    const made = await createRecords(action, alias, firsts, context);
    const after = new Map(firsts.map((first, at) => [first, made[at] ?? first]));
    const others = groups.flatMap(([first, ...rest]) => {
      const stored = first && after.get(first)?.found[alias];
      // Where the first could not make it, the next one tries.
      return stored ? rest.map((branch) => [branch, extend(branch, alias, stored)] as const) : [];
    });
    await writeExisting(
      action,
      others.map(([, branch]) => branch),
      context,
    );
    for (const [branch, known] of others) after.set(branch, known);
    await rememberPairs(alias, firsts, others, context);
    result = result.map((branch) => after.get(branch) ?? branch);
  }
  return result;
}

/** Remembers the pairs of those for whom the first one made the record; that of the first is remembered where it is made. */
async function rememberPairs(
  alias: string,
  firsts: readonly Branch[],
  others: readonly (readonly [Branch, Branch])[],
  context: RuleContext,
): Promise<void> {
  const pairOf = ({ self, toCreate }: Branch) => `${refKey(self)} ${JSON.stringify(toCreate[alias]?.start)}`;
  const known = new Set(firsts.map(pairOf));
  for (const [branch, { found }] of others) {
    const stored = found[alias];
    if (!stored || !branch.toCreate[alias]?.counterpart || known.has(pairOf(branch))) continue;
    known.add(pairOf(branch));
    await rememberPair(branch.self, stored.ref, context);
  }
}

function groupedBy<T>(items: readonly T[], key: (item: T) => string): readonly (readonly T[])[] {
  const groups = new Map<string, T[]>();
  for (const item of items) {
    const group = groups.get(key(item));
    if (group) group.push(item);
    else groups.set(key(item), [item]);
  }
  return [...groups.values()];
}

async function writeExisting(
  action: AnyCompiled<WriteAction>,
  branches: readonly Branch[],
  context: RuleContext,
): Promise<void> {
  // Every branch sees its target as it was before this action, also where another branch has written to it.
  const shared: Shared = { before: new Map(), written: new Map() };
  for (let at = 0; at < branches.length; at += branchesAtOnce) {
    await writePart(action, branches.slice(at, at + branchesAtOnce), shared, context);
  }
}

/** What the branches of one action know of the records that several of them write to. */
interface Shared {
  readonly before: Map<string, StoredRecord>;
  /** The edits made so far, by record. */
  readonly written: Map<string, readonly FieldEdit[]>;
}

/**
 * Returns the edits of a branch that no other branch has made already. Where two give one field different values, neither is more right
 * than the other: the first stays, and the difference is told.
 */
function notYetMade(
  edits: readonly FieldEdit[],
  { ref }: StoredRecord,
  { recordType }: AnyCompiled<WriteAction>,
  { written }: Shared,
  context: RuleContext,
): readonly FieldEdit[] {
  const made = written.get(refKey(ref)) ?? [];
  const fresh = edits.filter(({ path, after }) => {
    const other = made.find((one) => one.path === path);
    if (!other) return true;
    if (sameValue(fieldAt(recordType.fields, path), other.after, after)) return false;
    const label = labelAt(recordType.fields, path);
    const message = `“${label}” of ${recordType.label} ${ref.id} would be given two values by one action: ${shown(other.after)} and ${shown(after)}.`;
    noteError(context.counts, message);
    context.steps.push({ kind: 'problem', message, ref });
    return false;
  });
  if (fresh.length > 0) written.set(refKey(ref), [...made, ...fresh]);
  return fresh;
}

/** Returns a value as a sentence quotes it. */
function shown(json: Json | undefined): string {
  if (isBlankJson(json)) return 'blank';
  const text = typeof json === 'object' ? printJson(json) : String(json);
  return text.length > 60 ? 'a long value' : text;
}

async function writePart(
  action: AnyCompiled<WriteAction>,
  branches: readonly Branch[],
  sharedByAll: Shared,
  context: RuleContext,
): Promise<void> {
  const { before } = sharedByAll;
  const { workspace, counts } = context;
  const targets = await targetsOf(action, branches, context, before);
  const envs = await withLinked(
    action.lines.map(({ compiled }) => compiled),
    targets.map(({ env }) => env),
    workspace,
  );
  context.observe?.(
    action,
    targets.map(({ target, env }, at) => ({ target, env: envs[at] ?? env })),
  );
  const resolve = await resolveKeys(action.lines, envs, workspace);
  const shared = new SharedValues();
  for (const [at, { target, env, branch }] of targets.entries()) {
    counts.reached++;
    const missing = lostLines(action.lines, branch.lost);
    const lines = action.lines.filter((line) => !missing.some(({ field }) => field === line.field));
    const { reports: computed, edits } = runLines(lines, target.record, {
      env: envs[at] ?? env,
      resolve,
      shared,
    });
    const reports = [...computed, ...missing];
    noteStep(context, { kind: 'write', action: action.at, ref: target.ref, lines: reports });
    noteLineErrors(reports, `${target.ref.recordType} ${target.ref.id}`, context);
    const fresh = edits.length === 0 ? edits : notYetMade(edits, target, action, sharedByAll, context);
    if (fresh.length === 0) continue;
    if (await makeChange({ kind: 'edit', ref: target.ref, edits: fresh }, target, context))
      before.set(refKey(target.ref), target);
  }
}
