import { Button, Select } from '@mantine/core';
import { comparisons, type MatchCondition } from '@vast-knot/core';
import { useMay } from '../../frame/useMay';
import { comparisonWords } from '../../parts/FindWork';
import { ClauseFormula } from '../formula/ClauseFormula';

interface ConditionProps {
  readonly place: string;
  readonly alias: string;
  readonly condition: MatchCondition;
  readonly fields: readonly { readonly value: string; readonly label: string }[];
  readonly set: (condition: MatchCondition) => void;
  readonly remove: (() => void) | undefined;
}

/** One match condition: a field of the record looked for, perhaps in another form, held against a formula. */
export function Condition({ place, alias, condition, fields, set, remove }: ConditionProps) {
  const mayChange = useMay('rules.edit');
  const { field, as, is, formula } = condition;
  return (
    <div className="match">
      <Select
        aria-label={`Field of ${alias} to compare`}
        data={[...fields]}
        value={field}
        searchable
        disabled={!mayChange}
        onChange={(chosen) => chosen !== null && set({ ...condition, field: chosen })}
      />
      <Select
        aria-label="How it is compared"
        data={comparisons.map((value) => ({ value, label: comparisonWords[value] }))}
        value={is}
        disabled={!mayChange}
        onChange={(chosen) => {
          const comparison = comparisons.find((each) => each === chosen);
          if (comparison) set({ ...condition, is: comparison });
        }}
      />
      <span>
        <ClauseFormula
          place={`${place}/formula`}
          value={formula}
          label={`What ${field} of ${alias} is compared with`}
          placeholder="a formula, such as id"
          onChange={(next) => set({ ...condition, formula: next })}
        />
      </span>
      {mayChange && (
        <span>
          {as === undefined && (
            <Button
              variant="subtle"
              size="compact-xs"
              title="Compare the field in another form: trimmed, in small letters, its domain part"
              onClick={() => set({ ...condition, as: 'LOWER(TRIM(item))' })}
            >
              as …
            </Button>
          )}
          {remove && (
            <Button variant="subtle" color="rust" size="compact-xs" onClick={remove}>
              Remove
            </Button>
          )}
        </span>
      )}
      {as !== undefined && (
        <div className="match-as">
          <span className="small dim">
            {field} is compared as <span className="mono">item</span> made into
          </span>
          <span>
            <ClauseFormula
              place={`${place}/as`}
              value={as}
              label={`What ${field} of ${alias} is compared as`}
              placeholder="a formula of item, such as LOWER(TRIM(item))"
              onChange={(next) => set({ ...condition, as: next })}
            />
          </span>
          {mayChange && (
            <Button variant="subtle" size="compact-xs" onClick={() => set({ field, is, formula })}>
              as it stands
            </Button>
          )}
        </div>
      )}
    </div>
  );
}
