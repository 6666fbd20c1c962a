import { useId } from 'react';
import {
  afterPolicy,
  sameValue,
  writePolicies,
  type Field,
  type Json,
  type WritePolicy,
  policyWords,
} from '@vast-knot/core';
import { useMay } from '../../frame/useMay';
import { Elements } from '../../parts/ListRows';
import { Value } from '../../parts/Value';

interface PolicyChoiceProps {
  readonly field: Field;
  readonly policy: WritePolicy;
  /** What the formula gives and what is there now; undefined without a sample, or when the formula fails. */
  readonly values: { readonly given: Json; readonly held: Json | undefined } | undefined;
  readonly onChange: (policy: WritePolicy) => void;
}

/** When a line is written, each choice with what it would leave for the present sample. */
export function PolicyChoice({ field, policy, values, onChange }: PolicyChoiceProps) {
  const name = useId();
  const mayChange = useMay('rules.edit');
  return (
    <fieldset className="policies">
      <legend className="small dim">Written</legend>
      {writePolicies.map((each) => {
        const left = values && afterPolicy(field, each, values.held, values.given);
        return (
          <label key={each}>
            <input
              type="radio"
              name={name}
              value={each}
              checked={each === policy}
              disabled={!mayChange}
              onChange={() => onChange(each)}
            />
            <span>{policyWords[each]}</span>
            {values && left !== undefined && (
              <span className="leaves">
                {field.type === 'list' || field.type === 'object' ? (
                  <Elements json={left} />
                ) : (
                  <Value
                    json={left}
                    tone={sameValue(field, values.held, left) ? 'settled' : 'will'}
                    field={field}
                  />
                )}
              </span>
            )}
          </label>
        );
      })}
    </fieldset>
  );
}
