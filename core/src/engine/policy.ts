import { isBlankJson } from '../model/equal';
import type { Json } from '../model/json';
import type { WritePolicy } from './actions/mappingLine';

/** Returns why a field stays as it is under a policy; undefined when the line writes. */
export function keptBecause(
  policy: WritePolicy,
  held: Json | undefined,
  givesBlank: boolean,
): string | undefined {
  switch (policy) {
    case 'always':
      return undefined;
    case 'target blank':
      return isBlankJson(held) ? undefined : 'The field already holds a value.';
    case 'value present':
      return givesBlank ? 'The formula gave blank.' : undefined;
    case 'never clear':
      return givesBlank && !isBlankJson(held) ? 'Blank would clear the field.' : undefined;
  }
}

/** Returns what a field would hold after a line under a policy, given what the formula gives; for previews beside the choice. */
export function afterPolicy(policy: WritePolicy, held: Json | undefined, value: Json): Json {
  const givesBlank = isBlankJson(value);
  if (keptBecause(policy, held, givesBlank) !== undefined) return held ?? null;
  if (policy === 'never clear' && Array.isArray(held))
    return together(held, Array.isArray(value) ? value : [value]);
  return value;
}

/** Returns the options that are chosen already, and after them those that are added. */
export function together(held: readonly Json[], added: readonly Json[]): Json[] {
  return [...new Set([...held, ...added].map(String))];
}
