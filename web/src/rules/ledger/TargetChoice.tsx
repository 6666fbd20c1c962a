import { memo } from 'react';
import { Select } from '@mantine/core';
import type { RuleBody } from '@vast-knot/core';
import { useMayChange } from '../../frame/useRole';
import { useSheetTools } from '../SheetContext';

interface TargetChoiceProps {
  readonly trigger: RuleBody['trigger'];
  readonly finds: RuleBody['finds'];
  readonly target: string;
  /** Records that earlier actions create. */
  readonly created: readonly string[];
  readonly onChange: (target: string) => void;
}

/** Which record is written: the triggering one, or one that was found. */
export const TargetChoice = memo(function TargetChoice(props: TargetChoiceProps) {
  const { trigger, finds, created, target, onChange } = props;
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
        ...created.map((alias) => ({ value: alias, label: `the new ${alias}` })),
      ]}
      value={target}
      disabled={!mayChange}
      onChange={(chosen) => chosen !== null && onChange(chosen)}
      w={190}
    />
  );
});
