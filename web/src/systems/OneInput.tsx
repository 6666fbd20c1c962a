import { MultiSelect, Select, TextInput } from '@mantine/core';
import { jsonNumber, type Field, type Json } from '@vast-knot/core';
import { DateField, isDay } from '../parts/DateField';
import { textOf } from '../parts/Value';

export interface FieldInputProps {
  readonly field: Field;
  readonly label: string;
  readonly json: Json | undefined;
  readonly changed: boolean;
  readonly onChange: (json: Json) => void;
  readonly onEnter: () => void;
}

/** An input for one value, that fits the field's type and gives back what the system stores. */
export function OneInput({ field, label, json, changed, onChange, onEnter }: FieldInputProps) {
  const look = {
    styles: {
      input: {
        fontFamily: 'var(--mono)',
        fontSize: 12.8,
        minHeight: 26,
        height: 26,
        ...(changed && { borderColor: 'var(--will)', background: 'var(--will-ground)' }),
      },
    },
    'aria-label': label,
  };
  if (field.type === 'choice' || field.type === 'boolean') {
    const options =
      field.type === 'boolean'
        ? [
            { value: 'true', label: 'yes' },
            { value: 'false', label: 'no' },
          ]
        : (field.options ?? []);
    return (
      <Select
        {...look}
        data={options.map(({ value, label: name }) => ({ value, label: name }))}
        value={json === null || json === undefined ? null : String(json)}
        placeholder="blank"
        clearable={!field.required}
        onChange={(value) => onChange(field.type === 'boolean' && value !== null ? value === 'true' : value)}
      />
    );
  }
  if (field.type === 'multichoice') {
    return (
      <MultiSelect
        {...look}
        styles={{ input: { ...look.styles.input, height: 'auto' } }}
        data={(field.options ?? []).map(({ value, label: name }) => ({ value, label: name }))}
        value={Array.isArray(json) ? json.map(String) : []}
        onChange={onChange}
      />
    );
  }
  const held = json === null || json === undefined ? '' : textOf(json);
  // What is no day is shown as it is, to be mended.
  if (field.type === 'date' && (held === '' || isDay(held)))
    return (
      <DateField
        label={label}
        value={held}
        onChange={(day) => onChange(day === '' ? null : day)}
        styles={look.styles}
        onEnter={onEnter}
      />
    );
  const isNumber = field.type === 'integer' || field.type === 'decimal';
  return (
    <TextInput
      {...look}
      value={held}
      placeholder="blank"
      onChange={(event) => onChange(typed(event.currentTarget.value, isNumber))}
      onKeyDown={(event) => {
        if (event.key === 'Enter') onEnter();
      }}
    />
  );
}

function typed(text: string, isNumber: boolean): Json {
  if (text === '') return null;
  return isNumber && /^-?\d+(\.\d+)?$/.test(text) ? jsonNumber(text) : text;
}
