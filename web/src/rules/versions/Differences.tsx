import { useMemo } from 'react';
import { differencesOfRules, type RuleBody, type RuleDifference } from '@vast-knot/core';
import { Verdict } from '../../parts/Verdict';
import './versions.css';

interface DifferencesProps {
  readonly before: RuleBody;
  readonly after: RuleBody;
  /** What the two are called, as heads of their columns. */
  readonly names: readonly [string, string];
}

/** What two versions of a rule say differently, part by part, side by side. */
export function Differences({ before, after, names: [one, other] }: DifferencesProps) {
  const differences = useMemo(() => differencesOfRules(before, after), [before, after]);
  if (differences.length === 0)
    return (
      <p className="flush">
        <Verdict tone="settled">They say the same.</Verdict>
      </p>
    );
  return (
    <table className="grid boxed rule-differences" aria-label={`${one} beside ${other}`}>
      <thead>
        <tr>
          <th className="of30">What</th>
          <th>{one}</th>
          <th>{other}</th>
        </tr>
      </thead>
      {byPart(differences).map(({ of, each }) => (
        <tbody key={of}>
          <tr>
            <th colSpan={3} scope="rowgroup">
              {of}
            </th>
          </tr>
          {each.map(({ field, what, before: was, after: is }, at) => (
            <tr key={at}>
              <td>
                {field !== undefined && <span className="mono">{field}</span>} {what}
              </td>
              <Said value={was} gone={is === undefined} />
              <Said value={is} gone={false} />
            </tr>
          ))}
        </tbody>
      ))}
    </table>
  );
}

function Said({ value, gone }: { readonly value: string | undefined; readonly gone: boolean }) {
  if (value === undefined) return <td className="dim small">nothing</td>;
  return <td>{gone ? <del className="value">{value}</del> : <span className="value">{value}</span>}</td>;
}

function byPart(
  differences: readonly RuleDifference[],
): readonly { readonly of: string; readonly each: readonly RuleDifference[] }[] {
  const parts = [...new Set(differences.map(({ of }) => of))];
  return parts.map((of) => ({ of, each: differences.filter((difference) => difference.of === of) }));
}
