import { scalarText, type SearchCondition } from '@vast-knot/core';
import { condition, type ConditionFilter } from './condition';
import { parameterPerField, type ParameterFilter } from './parameterPerField';
import type { FilterKind } from './style';

/** How a system is asked for records that meet conditions. */
export type FilterStyle = ParameterFilter | ConditionFilter;

/** The styles; to add one, write its file and its line here. */
export const filterStyles: {
  readonly [Kind in FilterStyle['kind']]: FilterKind<Extract<FilterStyle, { kind: Kind }>>;
} = {
  'parameter per field': parameterPerField,
  condition,
};

/** Adds a condition to a query, as the style says. */
export function addFilter(
  query: URLSearchParams,
  style: FilterStyle,
  { field, values }: SearchCondition,
): void {
  const texts = values.map((value) => scalarText(value));
  switch (style.kind) {
    case 'parameter per field':
      return parameterPerField.add(query, style, field, texts);
    case 'condition':
      return condition.add(query, style, field, texts);
  }
}
