import { Select } from '@mantine/core';
import type { System } from '@vast-knot/core';

interface RecordTypeSelectProps {
  readonly label?: string;
  readonly systems: readonly System[];
  /** System and type, as `system/type`; empty while none is chosen. */
  readonly value: string;
  readonly onChange: (value: string) => void;
  readonly disabled?: boolean;
}

/** A record type of any system, found by typing. */
export function RecordTypeSelect({
  label = 'Record type',
  systems,
  value,
  onChange,
  disabled = false,
}: RecordTypeSelectProps) {
  return (
    <Select
      label={label}
      searchable
      disabled={disabled}
      data={systems.map(({ key, name, recordTypes }) => ({
        group: name,
        items: recordTypes.map((each) => ({ value: `${key}/${each.name}`, label: `${name}: ${each.label}` })),
      }))}
      value={value === '' ? null : value}
      onChange={(chosen) => onChange(chosen ?? '')}
    />
  );
}
