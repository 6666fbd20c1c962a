import { Fragment } from 'react';
import { isBlankJson, isJsonObject, printJson, type Field, type Json } from '@vast-knot/core';

export type Tone = 'plain' | 'will' | 'settled' | 'wrong';

interface ValueProps {
  readonly json: Json | undefined;
  readonly tone?: Tone;
  /** Shows nothing for blank, where a column of blanks would be in the way. */
  readonly quiet?: boolean;
  /** The field that holds it: a code is shown with the label that people know it by. */
  readonly field?: Field | undefined;
}

/** A stored value: mono as it is, with blank said in words; a code behind the label that people know it by. */
export function Value({ json, tone = 'plain', quiet = false, field }: ValueProps) {
  if (isBlankJson(json)) {
    if (quiet) return null;
    return <span className={`value blank ${tone === 'will' ? 'will' : ''}`}>blank</span>;
  }
  const codes = Array.isArray(json) ? json : [json];
  const labels = codes.map((code) => labelOfCode(field, code));
  if (labels.every((label) => label === undefined))
    return <span className={`value ${tone}`}>{textOf(json)}</span>;
  return (
    <span className={`value labelled ${tone}`}>
      {codes.map((code, at) => (
        <Fragment key={at}>
          {at > 0 && ' · '}
          {labels[at] !== undefined && `${labels[at]} `}
          <span className="code">{textOf(code)}</span>
        </Fragment>
      ))}
    </span>
  );
}

/** Returns the label that a code has in a field, where it is another than the code. */
export function labelOfCode(field: Field | undefined, code: Json): string | undefined {
  const label = field?.options?.find(({ value }) => value === code)?.label;
  return label === code ? undefined : label;
}

/** Returns a value on one line; of an object in a list, what its fields hold. */
export function textOf(json: Json): string {
  if (typeof json === 'string') return json;
  if (Array.isArray(json) && json.some((element) => isJsonObject(element)))
    return json
      .map((element) =>
        isJsonObject(element)
          ? Object.values(element)
              .map((one) => textOf(one ?? ''))
              .join(' ')
          : textOf(element),
      )
      .join(' · ');
  if (Array.isArray(json)) return json.map(textOf).join(' · ');
  return typeof json === 'object' && json !== null ? printJson(json) : String(json);
}

/** Before and after, the change in the warm accent. */
export function Change({
  before,
  after,
  field,
}: {
  readonly before: Json | undefined;
  readonly after: Json | undefined;
  readonly field?: Field | undefined;
}) {
  return (
    <>
      <Value json={before} field={field} />
      <span className="arrow" aria-label="becomes">
        →
      </span>
      <Value json={after} tone="will" field={field} />
    </>
  );
}
