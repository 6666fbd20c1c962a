import { Select } from '@mantine/core';
import { memo } from 'react';
import { createdBefore, targetName, type Action, type RuleBody } from '@vast-knot/core';
import { useMay } from '../../frame/useMay';
import { useSheetTools } from '../SheetContext';

interface TargetChoiceProps {
  readonly body: RuleBody;
  readonly action: Action;
  /** The name that is chosen; that of the target where none is said. */
  readonly value?: string;
  readonly label?: string;
  readonly onChange: (name: string) => void;
}

/** Which record an action is about: the triggering one, one that was found, or one that an earlier action created. */
export function TargetChoice({ body, action, value, label, onChange }: TargetChoiceProps) {
  const { system, recordType } = body.trigger;
  const { surroundings } = useSheetTools();
  const type = surroundings.catalog.recordType(system, recordType);
  const names = [
    `record|the ${type?.label.toLowerCase() ?? 'record'} itself`,
    ...body.finds.map(({ alias, several }) => `${alias}|${several === 'each' ? 'each' : 'the'} ${alias}`),
    ...createdBefore(body, action).map(({ alias }) => `${alias}|the new ${alias}`),
  ];
  return (
    <Choice
      names={names.join('\n')}
      value={value ?? targetName(action)}
      label={label ?? 'Record that is written'}
      onChange={onChange}
    />
  );
}

interface ChoiceProps {
  /** `name|what it is`, a line each: one text stays the same while it says the same. */
  readonly names: string;
  readonly value: string;
  readonly label: string;
  readonly onChange: (name: string) => void;
}

const Choice = memo(
  function Choice({ names, value, label, onChange }: ChoiceProps) {
    const mayChange = useMay('rules.edit');
    return (
      <Select
        aria-label={label}
        data={names.split('\n').map((line) => {
          const [name = '', words = ''] = line.split('|');
          return { value: name, label: words };
        })}
        value={value}
        disabled={!mayChange}
        onChange={(chosen) => chosen !== null && onChange(chosen)}
        w={190}
      />
    );
  },
  // What is done with the choice is the same whenever it says the same.
  (a, b) => a.names === b.names && a.value === b.value && a.label === b.label,
);
