import type { FieldOption } from '@vast-knot/core';

/** Returns options as they are typed, one to a line: the value, or `value = what people read`. */
export function optionLines(options: readonly FieldOption[]): string {
  return options.map(({ value, label }) => (value === label ? value : `${value} = ${label}`)).join('\n');
}

/** Reads options as they are typed. */
export function optionsIn(text: string): readonly FieldOption[] {
  return text.split('\n').flatMap((line) => {
    const [value = '', label] = line.split('=', 2).map((part) => part.trim());
    return value === '' ? [] : [{ value, label: label === undefined || label === '' ? value : label }];
  });
}
