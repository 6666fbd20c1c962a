import {
  compileLayout,
  leafFields,
  readPath,
  type Field,
  type FileRow,
  type FileSettings,
  type Json,
  type LayoutLine,
  type RecordType,
  type TaggedStep,
  type TableIndex,
} from '@vast-knot/core';

/** A field with where its value comes from, and what that gives for the record that is shown. */
export interface LaidField {
  readonly path: string;
  readonly label: string;
  readonly field: Field;
  readonly from: string;
  readonly value: Json | undefined;
  /** Why the line cannot be, or gives no value here. */
  readonly problem: string | undefined;
  /** It must be filled, and no line fills it. */
  readonly isMissing: boolean;
}

interface LaidOut {
  readonly type: RecordType;
  readonly file: FileSettings;
  readonly lines: readonly LayoutLine[];
  readonly tidy: readonly TaggedStep[];
  readonly tables: ReadonlyMap<string, TableIndex>;
  readonly row: FileRow | undefined;
  /** When the file came. */
  readonly time: string;
}

/** Returns every field of a record type with what fills it. */
export function laidFields({ type, file, lines, tidy, tables, row, time }: LaidOut): readonly LaidField[] {
  const compiled = compileLayout({ file, lines, tidy }, type, tables);
  const laid = row?.ok === true ? compiled.lay(row.value, { time }) : undefined;
  const problems = [...compiled.problems, ...(laid?.problems ?? [])];
  const missing = new Set(compiled.missing.map(({ path }) => path));
  return leafFields(type.fields).map(({ path, label, field }) => ({
    path,
    label,
    field,
    from: lines.find((line) => line.field === path)?.from ?? '',
    value: laid && readPath(laid.record, path),
    problem: problems.find((problem) => problem.field === path)?.because,
    isMissing: missing.has(path),
  }));
}
