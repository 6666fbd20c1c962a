import { DateInput } from '@mantine/dates';
import type { KeyboardEvent } from 'react';

interface DateFieldProps {
  readonly label: string;
  /** ISO 8601, `2026-03-09`; blank where there is none. */
  readonly value: string;
  readonly onChange: ((value: string) => void) | undefined;
  readonly styles?: { readonly input: Readonly<Record<string, string | number>> };
  readonly onEnter?: () => void;
  readonly width?: number;
}

const noDays: (0 | 1 | 2 | 3 | 4 | 5 | 6)[] = [];
const iso = /^\d{4}-\d{2}-\d{2}$/;

/** Returns whether a text is a day as the field for one shows it. */
export function isDay(text: string): boolean {
  return iso.test(text);
}

/** A day, typed as `2026-03-09` or picked from a calendar, which opens below and can be used by keys. */
export function DateField({ label, value, onChange, styles, onEnter, width }: DateFieldProps) {
  return (
    <DateInput
      size="xs"
      aria-label={label}
      valueFormat="YYYY-MM-DD"
      placeholder="2026-03-09"
      clearable={false}
      // Red would say that something went wrong.
      weekendDays={noDays}
      value={isDay(value) ? value : null}
      readOnly={!onChange}
      onChange={(day) => onChange?.(day ?? '')}
      onKeyDown={(event: KeyboardEvent) => event.key === 'Enter' && onEnter?.()}
      {...(styles && { styles })}
      {...(width !== undefined && { w: width })}
      popoverProps={{ withinPortal: true, shadow: 'md' }}
    />
  );
}
