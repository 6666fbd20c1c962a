import { isBlankJson } from '../model/equal';
import { elementsOf, withElements } from '../model/elements';
import type { Json } from '../model/json';
import { scalarText } from '../model/jsonText';
import type { Field } from '../model/system';
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
export function afterPolicy(field: Field, policy: WritePolicy, held: Json | undefined, value: Json): Json {
  const givesBlank = isBlankJson(value);
  if (keptBecause(policy, held, givesBlank) !== undefined) return held ?? null;
  return policy === 'never clear' ? together(field, held, value) : value;
}

/** Returns what a field holds together with what is added: options chosen already and further ones, elements of a list by their key. */
export function together(field: Field, held: Json | undefined, added: Json): Json {
  if (!Array.isArray(held)) return added;
  if (field.type === 'list') return withElements(field, held, elementsOf(added));
  return field.type === 'multichoice' ? [...new Set([...held, ...elementsOf(added)].map(scalarText))] : added;
}
