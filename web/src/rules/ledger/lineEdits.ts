import type { LedgerAction, LeafField, MappingLine, WritePolicy } from '@vast-knot/core';

/** Edits the lines of one action. One target field has one line. */
export function setLine(action: LedgerAction, field: string, change: Partial<MappingLine>): LedgerAction {
  const known = action.lines.find((line) => line.field === field);
  if (!known) {
    const line: MappingLine = { field, formula: '', policy: 'always', ...change };
    return { ...action, lines: [...action.lines, line] };
  }
  return { ...action, lines: action.lines.map((line) => (line === known ? { ...line, ...change } : line)) };
}

/** Returns the action without a line's natural key: its formula gives the id itself. */
export function withoutReference(action: LedgerAction, field: string): LedgerAction {
  return {
    ...action,
    lines: action.lines.map((line) => {
      if (line.field !== field) return line;
      const { reference: _reference, ...rest } = line;
      return rest;
    }),
  };
}

export function removeLines(action: LedgerAction, fields: ReadonlySet<string>): LedgerAction {
  return { ...action, lines: action.lines.filter(({ field }) => !fields.has(field)) };
}

export function setPolicies(
  action: LedgerAction,
  fields: ReadonlySet<string>,
  policy: WritePolicy,
): LedgerAction {
  return {
    ...action,
    lines: action.lines.map((line) => (fields.has(line.field) ? { ...line, policy } : line)),
  };
}

/** Takes a line to another target; where that has one already, the two change places. */
export function moveLine(action: LedgerAction, from: string, to: string): LedgerAction {
  const swapped: Readonly<Record<string, string>> = { [from]: to, [to]: from };
  return {
    ...action,
    lines: action.lines.map((line) => ({ ...line, field: swapped[line.field] ?? line.field })),
  };
}

/** Lines whose formula was emptied are gone once the row is left. */
export function withoutBlankLines(action: LedgerAction): LedgerAction {
  const lines = action.lines.filter(({ formula }) => formula.trim() !== '');
  return lines.length === action.lines.length ? action : { ...action, lines };
}

export interface Pasted {
  readonly action: LedgerAction;
  readonly taken: readonly string[];
  /** Fields that the target does not have, or that cannot be written. */
  readonly unknown: readonly string[];
}

/** Puts lines into an action, in the place of those that their targets have. */
export function pasteLines(
  action: LedgerAction,
  lines: readonly MappingLine[],
  targets: readonly LeafField[],
): Pasted {
  const writable = new Set(targets.filter(({ field }) => !field.readOnly).map(({ path }) => path));
  const fitting = lines.filter(({ field }) => writable.has(field));
  return {
    action: fitting.reduce((known, line) => setLine(known, line.field, line), action),
    taken: fitting.map(({ field }) => field),
    unknown: lines.filter(({ field }) => !writable.has(field)).map(({ field }) => field),
  };
}
