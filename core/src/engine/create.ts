import { applyChange } from '../change/recordChange';
import { isBlankJson } from '../model/equal';
import { readPath, writePath, type JsonObject } from '../model/json';
import { leafFields, type RecordType } from '../model/system';
import { extend, lostLines, noteError, without, type Branch, type Tally } from './branch';
import type { CompiledWrite } from './compileRule';
import { withLinked } from './follow';
import type { LineReport, Step } from './report';
import { resolveKeys } from './resolveKeys';
import type { RuleRun, Written } from './runRule';
import { runLines } from './write';

/**
 * Creates a record for every branch, and lets the actions after it know each by its alias. A record whose lines fail, or
 * that would lack a required field, is not created; the others are.
 */
export async function runCreate(
  action: CompiledWrite,
  branches: readonly Branch[],
  { workspace, freshId, observe }: RuleRun,
  steps: Step[],
  tally: Tally,
): Promise<{ readonly branches: Branch[]; readonly written: readonly Written[] }> {
  const { system, recordType, target: alias, lines } = action;
  const blank = branches.map((branch) => {
    const ref = { system, recordType: recordType.name, id: freshId() };
    return { branch, ref, env: { ...branch.env, target: {} } };
  });
  const envs = await withLinked(
    lines.map(({ compiled }) => compiled),
    blank.map(({ env }) => env),
    workspace,
  );
  observe?.(
    action,
    blank.map(({ ref, env }, at) => ({ target: { ref, record: {} }, env: envs[at] ?? env })),
  );
  const resolve = await resolveKeys(lines, envs, workspace);
  const written: Written[] = [];
  const next: Branch[] = [];
  for (const [at, { branch, ref, env }] of blank.entries()) {
    tally.reached++;
    const lost = lostLines(lines, branch.lost);
    const { reports: computed, edits } = runLines(lines, {}, envs[at] ?? env, resolve);
    const reports = [...lost, ...computed];
    steps.push({ kind: 'write', ref, lines: reports, creates: true });
    const record = edits.reduce<JsonObject>((made, { path, after }) => writePath(made, path, after ?? null), {
      [recordType.idField]: ref.id,
    });
    const wrong = whyNot(recordType, record, reports);
    const change = { kind: 'create', ref, record } as const;
    if (wrong === undefined && applyChange(change, undefined).ok) {
      const [result] = await workspace.apply([{ change }]);
      if (result?.ok) {
        written.push({ ref, record: {}, created: true });
        next.push(extend(branch, alias, { ref, record }));
        continue;
      }
      if (result) steps.push({ kind: 'problem', message: result.problem.message, ref });
    } else if (wrong !== undefined) {
      noteError(tally, `The ${recordType.label.toLowerCase()} is not created: ${wrong}`);
      steps.push({ kind: 'problem', message: `Not created: ${wrong}`, ref });
    }
    next.push(without(branch, alias));
  }
  return { branches: next, written };
}

/** Why a record cannot be created; undefined when it can. */
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
