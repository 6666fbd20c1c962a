import { Select } from '@mantine/core';
import type { RuleBody, WriteAction } from '@vast-knot/core';
import { useMayChange } from '../../frame/useRole';
import { useSheet } from '../SheetContext';

interface TargetChoiceProps {
  readonly body: RuleBody;
  readonly action: WriteAction;
  readonly setAction: (change: (action: WriteAction) => WriteAction) => void;
}

/** Which record is written: the triggering one, or one that was found. */
export function TargetChoice({ body, action, setAction }: TargetChoiceProps) {
  const { surroundings } = useSheet();
  const mayChange = useMayChange();
  const { system, recordType } = body.trigger;
  const type = surroundings.catalog.recordType(system, recordType);
  return (
    <Select
      aria-label="Record that is written"
      data={[
        { value: 'record', label: `the ${type?.label.toLowerCase() ?? 'record'} itself` },
        ...body.finds.map(({ alias, several }) => ({
          value: alias,
          label: `${several === 'each' ? 'each' : 'the'} ${alias}`,
        })),
      ]}
      value={action.target}
      disabled={!mayChange}
      onChange={(target) => target !== null && setAction((known) => ({ ...known, target }))}
      w={190}
    />
  );
}
