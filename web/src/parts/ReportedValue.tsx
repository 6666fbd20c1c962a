import type { Field, Reported, ReportedPart } from '@vast-knot/core';
import { FieldValue } from './FieldValue';

/** A computed value, or the sentence that says why there is none. */
export function ReportedValue({
  reported,
  changes = false,
  field,
}: {
  readonly reported: Reported;
  readonly changes?: boolean;
  /** The field that it is for. */
  readonly field?: Field;
}) {
  if ('error' in reported) return <span className="value wrong">{reported.error}</span>;
  return (
    <FieldValue
      field={field}
      label={field?.label ?? 'Value'}
      json={reported.json}
      tone={changes ? 'will' : 'plain'}
    />
  );
}

/** The value of every part of a formula. */
export function Explained({ part }: { readonly part: ReportedPart }) {
  return (
    <ul className="explain">
      <li>
        <span className="mono">{part.text}</span> <span className="dim">is</span>{' '}
        <ReportedValue reported={part.value} />
        {part.parts.map((inner, at) => (
          <Explained key={at} part={inner} />
        ))}
      </li>
    </ul>
  );
}
