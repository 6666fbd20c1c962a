import type { Reported, ReportedPart } from '@vast-knot/core';
import { Value } from './Value';

/** A computed value, or the sentence that says why there is none. */
export function ReportedValue({
  reported,
  changes = false,
}: {
  readonly reported: Reported;
  readonly changes?: boolean;
}) {
  if ('error' in reported) return <span className="value wrong">{reported.error}</span>;
  return <Value json={reported.json} tone={changes ? 'will' : 'plain'} />;
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
