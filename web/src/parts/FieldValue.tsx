import type { ReactNode } from 'react';
import type { Field, Json } from '@vast-knot/core';
import { isRows, ListRows } from './ListRows';
import { Change, Value, type Tone } from './Value';

interface FieldValueProps {
  readonly field?: Field | undefined;
  readonly label: string;
  readonly json: Json | undefined;
  readonly tone?: Tone;
  readonly nameOf?: ((name: string, label: string) => ReactNode) | undefined;
}

/** What a field holds: a list of objects as rows, everything else on one line. */
export function FieldValue({ field, label, json, tone = 'plain', nameOf }: FieldValueProps) {
  return isRows(json) ? (
    <ListRows field={field} json={json} tone={tone} nameOf={nameOf} label={label} />
  ) : (
    <Value json={json} tone={tone} />
  );
}

/** What a field held before and holds after; of a list of objects, what became of each element. */
export function FieldChange({
  field,
  label,
  before,
  json,
  nameOf,
}: FieldValueProps & { readonly before: Json | undefined }) {
  return isRows(json) || isRows(before) ? (
    <ListRows field={field} before={before ?? null} json={json} nameOf={nameOf} label={label} />
  ) : (
    <Change before={before} after={json} />
  );
}
