import type { FieldOption } from '@vast-knot/core';

/** Returns options as they are typed, one to a line: the value, or `value = what people read`. */
export function optionLines(options: readonly FieldOption[]): string {
  return options
    .map(({ value, label }) => (value === label && !value.includes('=') ? value : `${value} = ${label}`))
    .join('\n');
}

/** Reads options as they are typed. Where an equals sign has blanks around it, the first of these stands before what people read. */
export function optionsIn(text: string): readonly FieldOption[] {
  return text.split('\n').flatMap((line) => {
    const spaced = line.indexOf(' = ');
    const at = spaced >= 0 ? spaced + 1 : line.indexOf('=');
    const value = (at < 0 ? line : line.slice(0, at)).trim();
    const label = at < 0 ? '' : line.slice(at + 1).trim();
    return value === '' ? [] : [{ value, label: label === '' ? value : label }];
  });
}
