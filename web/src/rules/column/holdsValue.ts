import { isBlankJson, type Json } from '@vast-knot/core';
import { textOf } from '../../parts/Value';
import type { ColumnRow } from './columnOf';

/** Whether a row has a text in what went in, in what it would be, or in what is there; letters of either case. `blank` finds blanks too. */
export function holdsValue(
  { sourceName, source, inputs, report, because }: ColumnRow,
  text: string,
): boolean {
  const wanted = text.trim().toLowerCase();
  const value = report?.value;
  const given: readonly (Json | undefined)[] = [
    ...inputs,
    ...(report ? [report.before] : []),
    ...(value && 'json' in value ? [value.json] : []),
  ];
  const texts = [
    source,
    sourceName,
    because ?? '',
    report?.because ?? '',
    ...given.map((json) => (json === undefined || isBlankJson(json) ? 'blank' : textOf(json))),
  ];
  return texts.some((each) => each.toLowerCase().includes(wanted));
}
