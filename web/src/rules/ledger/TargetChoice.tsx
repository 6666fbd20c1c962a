import { memo } from 'react';
import { Select } from '@mantine/core';
import type { Action, RuleBody } from '@vast-knot/core';
import { useMayChange } from '../../frame/useRole';
import { useSheetTools } from '../SheetContext';

interface TargetChoiceProps {
  readonly trigger: RuleBody['trigger'];
  readonly finds: RuleBody['finds'];
  readonly target: string;
  /** Aliases of records that earlier actions create, with blanks between them: one text stays the same while it says the same. */
  readonly created: string;
  readonly setAction: (change: (action: Action) => Action) => void;
}

/** Which record is written: the triggering one, or one that was found. */
export const TargetChoice = memo(function TargetChoice(props: TargetChoiceProps) {
  const { trigger, finds, created, target, setAction } = props;
  const { surroundings } = useSheetTools();
  const mayChange = useMayChange();
  const { system, recordType } = trigger;
  const type = surroundings.catalog.recordType(system, recordType);
  return (
    <Select
      aria-label="Record that is written"
      data={[
        { value: 'record', label: `the ${type?.label.toLowerCase() ?? 'record'} itself` },
        ...finds.map(({ alias, several }) => ({
          value: alias,
          label: `${several === 'each' ? 'each' : 'the'} ${alias}`,
        })),
        ...created
          .split(' ')
          .filter(Boolean)
          .map((alias) => ({ value: alias, label: `the new ${alias}` })),
      ]}
      value={target}
      disabled={!mayChange}
      onChange={(chosen) =>
        chosen !== null &&
        setAction((known) => (known.kind === 'write' ? { ...known, target: chosen } : known))
      }
      w={190}
    />
  );
});
