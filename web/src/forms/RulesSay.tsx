import { useDeferredValue, useMemo } from 'react';
import { Link } from 'react-router';
import type { RecordType, Rule } from '@vast-knot/core';
import { useKnown, useRules } from '../api/queries';
import { Verdict } from '../parts/Verdict';
import type { Known } from '../work/known';
import { useWork } from '../work/useWork';

/** What the rules that these records start say of themselves, with the fields and choices as they are edited: before anybody answers. */
export function RulesSay({ system, type }: { readonly system: string; readonly type: RecordType }) {
  const { known } = useKnown();
  const views = useRules().data;
  const settled = useDeferredValue(type);
  const asEdited = useMemo(
    (): Known | undefined =>
      known && {
        ...known,
        systems: known.systems.map((each) =>
          each.key === system
            ? {
                ...each,
                recordTypes: each.recordTypes.map((one) => (one.name === settled.name ? settled : one)),
              }
            : each,
        ),
      },
    [known, system, settled],
  );
  const input = useMemo(
    () =>
      views && {
        system,
        recordType: settled.name,
        rules: views.map(({ id, draft }): Rule => ({ ...draft, id, version: 0 })),
        // What is found depends on the fields as well, which go another way.
        of: settled,
      },
    [views, system, settled],
  );
  const says = useWork('findingsOfType', input, asEdited).output;
  if (!says) return null;
  return (
    <section aria-label="What the rules say of it">
      <h2 className="form-part">What the rules say of it</h2>
      {says.length === 0 && <p className="dim">No rule is started by it yet.</p>}
      {says.map(({ id, name, findings }) => (
        <div key={id} className="rule-says">
          <Link to={`/rules/${id}`}>{name}</Link>
          {findings.length === 0 && <Verdict tone="settled">nothing is missing</Verdict>}
          {findings.map(({ message, severity }) => (
            <p key={message} className="flush">
              <Verdict tone={severity === 'error' ? 'wrong' : 'will'}>{message}</Verdict>
            </p>
          ))}
        </div>
      ))}
    </section>
  );
}
