import { Select } from '@mantine/core';
import type { RecordRef, System } from '@vast-knot/core';

/** A record type of a system. */
export type TypePlace = Pick<RecordRef, 'system' | 'recordType'>;

interface RecordTypeSelectProps {
  readonly label?: string;
  readonly systems: readonly System[];
  readonly value: TypePlace | undefined;
  readonly onChange: (chosen: TypePlace) => void;
  /** Whether the system is named with each type, where nothing beside it says which. */
  readonly named?: boolean;
  readonly disabled?: boolean;
}

/** A record type of any system, found by typing. */
export function RecordTypeSelect({
  label = 'Record type',
  systems,
  value,
  onChange,
  named = false,
  disabled = false,
}: RecordTypeSelectProps) {
  const places = systems.flatMap(({ key, recordTypes }) =>
    recordTypes.map((type): TypePlace => ({ system: key, recordType: type.name })),
  );
  return (
    <Select
      label={label}
      searchable
      disabled={disabled}
      data={systems.map(({ key, name, recordTypes }) => ({
        group: name,
        items: recordTypes.map((type) => ({
          value: keyOf({ system: key, recordType: type.name }),
          label: named ? `${name}: ${type.label}` : type.label,
        })),
      }))}
      value={value ? keyOf(value) : null}
      onChange={(chosen) => {
        const place = places.find((each) => keyOf(each) === chosen);
        if (place) onChange(place);
      }}
    />
  );
}

function keyOf({ system, recordType }: TypePlace): string {
  return `${system}/${recordType}`;
}
