import type { Field, Json } from '@vast-knot/core';
import { isRows, ListRows } from './ListRows';
import { Change, Value, type Tone } from './Value';

interface FieldValueProps {
  readonly field?: Field | undefined;
  readonly label: string;
  readonly json: Json | undefined;
  readonly tone?: Tone;
}

/** What a field holds: a list of objects as rows, everything else on one line. */
export function FieldValue({ field, label, json, tone = 'plain' }: FieldValueProps) {
  return isRows(json) ? (
    <ListRows field={field} json={json} tone={tone} label={label} />
  ) : (
    <Value json={json} tone={tone} field={field} />
  );
}

/** What a field held before and holds after; of a list of objects, what became of each element. */
export function FieldChange({
  field,
  label,
  before,
  json,
}: FieldValueProps & { readonly before: Json | undefined }) {
  return isRows(json) || isRows(before) ? (
    <ListRows field={field} before={before ?? null} json={json} label={label} />
  ) : (
    <Change before={before} after={json} field={field} />
  );
}
