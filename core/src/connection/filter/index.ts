import { scalarText } from '../../model/jsonText';
import type { SearchCondition } from '../../workspace/workspace';
import { schemaOfFamily } from '../style';
import { condition, type ConditionFilter } from './condition';
import type { FilterStyle } from './filter';
import { parameterPerField, type ParameterFilter } from './parameterPerField';
import { unfiltered, type NoFilter } from './unfiltered';

export type { ConditionFilter } from './condition';
export type { ParameterFilter } from './parameterPerField';

/** How a system is asked for records that meet conditions. */
export type Filter = ParameterFilter | ConditionFilter | NoFilter;

/** The styles of filters, in the order in which they are offered. */
export const filters = [
  parameterPerField,
  condition,
  unfiltered,
] as unknown as readonly FilterStyle<Filter>[];

export const filterSchema = schemaOfFamily(filters);

/** Values of one condition that are sent in one request; longer lists are asked for in parts. */
const valuesAtOnce = 100;

type Parameters = readonly (readonly [name: string, value: string])[];

/**
 * Returns the questions that together give every record that meets the conditions, and perhaps others: whoever asks compares anyway.
 * Each is a list of parameters. What cannot be asked for is left out; without any, everything is asked for.
 */
export function questionsFor(filter: Filter, conditions: readonly SearchCondition[]): readonly Parameters[] {
  const style = filters.find(({ kind }) => kind === filter.kind);
  let questions: readonly Parameters[] = [[]];
  for (const { field, values } of conditions) {
    const texts = [...new Set(values.map((value) => scalarText(value)))];
    const parts = chunks(texts, valuesAtOnce).flatMap((some): readonly (Parameters | undefined)[] => {
      const together = style?.parameters(filter, field, some);
      if (together || some.length === 1) return [together];
      return some.map((value) => style?.parameters(filter, field, [value]));
    });
    const asked = parts.filter((part) => part !== undefined);
    if (asked.length === 0 || asked.length < parts.length) continue;
    questions = questions.flatMap((question) => asked.map((part) => [...question, ...part]));
  }
  return questions;
}

/** Returns whether a system can be asked for the records with a value in a field. */
export function canAskFor(filter: Filter, field: string): boolean {
  const style = filters.find(({ kind }) => kind === filter.kind);
  return style?.parameters(filter, field, ['']) !== undefined;
}

function chunks<T>(all: readonly T[], size: number): readonly (readonly T[])[] {
  return Array.from({ length: Math.ceil(all.length / size) }, (_each, at) =>
    all.slice(at * size, (at + 1) * size),
  );
}
