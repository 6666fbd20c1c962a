import {
  compileRule,
  hasLedger,
  isCompiledWrite,
  MemoryWorkspace,
  previewLines,
  reachTargets,
  readPath,
  type ChangeEvent,
  type Json,
  type LineReport,
  type Rule,
  type StoredRecord,
  type Surroundings,
} from '@vast-knot/core';

/** What one line gives for one record that it would write to. */
export interface ColumnRow {
  /** The triggering record. */
  readonly source: string;
  readonly sourceName: string;
  /** The record that is written; null where none is reached. */
  readonly target: string | null;
  /** Why none is reached. */
  readonly because: string | null;
  /** The values that the line reads, by the fields of `Column.uses`. */
  readonly inputs: readonly Json[];
  readonly report: LineReport | null;
}

export interface Column {
  /** The fields of the triggering record that the line reads. */
  readonly uses: readonly string[];
  readonly rows: readonly ColumnRow[];
}

/**
 * Returns one line over many records at once: every record of the triggering type is taken as if it had just been updated, and
 * its finds are looked for among the given records.
 */
export async function columnOf(
  input: {
    readonly rule: Rule;
    readonly action: number;
    readonly field: string;
    readonly records: readonly StoredRecord[];
    readonly time: string;
  },
  surroundings: Surroundings,
): Promise<Column> {
  const { rule, action: at, field, records, time } = input;
  const only: Rule = {
    ...rule,
    actions: rule.actions.map((action, index) =>
      hasLedger(action)
        ? { ...action, lines: index === at ? action.lines.filter((line) => line.field === field) : [] }
        : action,
    ),
  };
  const result = compileRule(only, surroundings);
  const compiledParts = result.ok ? result.compiled : result.compiledParts;
  const action = compiledParts?.actions.find((each) => each.at === at);
  const line = action?.lines[0];
  if (!compiledParts || !action || !isCompiledWrite(action) || !line) return { uses: [], rows: [] };
  const { system, recordType } = rule.trigger;
  const nameField = compiledParts.recordType.nameField;
  const uses = [...new Set(line.compiled.uses.filter(({ of }) => of === 'record').map(({ path }) => path))];
  const workspace = new MemoryWorkspace(surroundings.catalog, records);
  const rows: ColumnRow[] = [];
  for (const { ref, record } of records) {
    if (ref.system !== system || ref.recordType !== recordType) continue;
    const event: ChangeEvent = {
      id: ref.id,
      source: `/${system}`,
      kind: 'updated',
      ref,
      time,
      record,
      before: record,
      changed: [],
    };
    const { report, targets } = await reachTargets(compiledParts, event, workspace, surroundings.catalog);
    const reached = targets.get(at) ?? [];
    const previews = await previewLines(action, reached, workspace);
    const about = {
      source: ref.id,
      sourceName: String(readPath(record, nameField) ?? ''),
      inputs: uses.map((path) => readPath(record, path) ?? null),
    };
    if (reached.length === 0) rows.push({ ...about, target: null, because: report.because, report: null });
    reached.forEach(({ target }, index) =>
      rows.push({
        ...about,
        target: target.ref.id,
        because: null,
        report: previews[index]?.reports[0] ?? null,
      }),
    );
  }
  return { uses, rows };
}
