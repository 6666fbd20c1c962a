import { Select, TextInput } from '@mantine/core';
import type { Field } from '@vast-knot/core';
import { DateField } from '../../parts/DateField';

interface ConditionValueProps {
  /** The text of a formula. */
  readonly value: string;
  readonly field: Field | undefined;
  readonly label: string;
  readonly onChange: ((value: string) => void) | undefined;
}

/** A value of a condition: one of the field's options, a text or number as it is, or any formula when it begins with “=”. */
export function ConditionValue({ value, field, label, onChange }: ConditionValueProps) {
  const literal = textIn(value);
  if (field?.type === 'boolean') {
    return (
      <Select
        aria-label={label}
        data={[
          { value: 'TRUE', label: 'yes' },
          { value: 'FALSE', label: 'no' },
        ]}
        value={value.toUpperCase()}
        disabled={!onChange}
        onChange={(chosen) => chosen !== null && onChange?.(chosen)}
        w={90}
      />
    );
  }
  if (field?.options && literal !== undefined) {
    return (
      <Select
        aria-label={label}
        placeholder="blank"
        data={field.options.map((option) => ({ value: option.value, label: option.label }))}
        value={literal === '' ? null : literal}
        disabled={!onChange}
        clearable
        searchable
        onChange={(chosen) => onChange?.(quoted(chosen ?? ''))}
        w={150}
      />
    );
  }
  const day = dayIn(value);
  if (field?.type === 'date' && day !== undefined) {
    return (
      <DateField
        label={label}
        value={day}
        onChange={onChange && ((chosen) => onChange(chosen === '' ? '""' : dayFormula(chosen)))}
        width={150}
      />
    );
  }
  const asText = field === undefined || ['text', 'choice', 'reference'].includes(field.type);
  const shown = asText && literal !== undefined ? literal : asText && value !== '' ? `=${value}` : value;
  return (
    <TextInput
      aria-label={label}
      styles={{ input: { fontFamily: 'var(--mono)', fontSize: 12.8 } }}
      placeholder={asText ? 'text, or =formula' : 'a value or formula'}
      value={shown}
      readOnly={!onChange}
      onChange={({ currentTarget: { value: typed } }) =>
        onChange?.(asText ? (typed.startsWith('=') ? typed.slice(1) || '""' : quoted(typed)) : typed)
      }
      w={150}
    />
  );
}

/** Returns the day that a formula is, as `2026-03-09`: of `DATE(2026, 3, 9)`, blank of nothing; undefined for any other formula. */
export function dayIn(formula: string): string | undefined {
  if (formula.trim() === '' || formula.trim() === '""') return '';
  const [, year, month, day] = /^DATE\((\d{4}), ?(\d{1,2}), ?(\d{1,2})\)$/i.exec(formula.trim()) ?? [];
  return year && month && day ? `${year}-${month.padStart(2, '0')}-${day.padStart(2, '0')}` : undefined;
}

export function dayFormula(day: string): string {
  return `DATE(${day.split('-').map(Number).join(', ')})`;
}

/** Returns the text of a text literal; undefined for any other formula. */
function textIn(formula: string): string | undefined {
  if (formula.trim() === '') return '';
  const match = /^"((?:[^"]|"")*)"$/.exec(formula.trim());
  return match?.[1]?.replaceAll('""', '"');
}

function quoted(text: string): string {
  return `"${text.replaceAll('"', '""')}"`;
}
