import Joi from 'joi';
import { encoderFor } from '../../formula/encode';
import { fieldName, formulaText } from '../../model/names';
import { pathReader } from '../../model/json';
import { fieldAt, type Catalog, type Field, type RecordType } from '../../model/system';
import type { CompiledLine, ResolvedReference } from '../compiled';
import type { Compiling } from '../compiling';

/**
 * When a line writes. `target blank`: only where nothing stands yet. `value present`: not when the formula gives blank.
 * `never clear`: nothing that stands there is taken away; a blank is not written, and of several options those that are
 * chosen stay.
 */
export const writePolicies = ['always', 'target blank', 'value present', 'never clear'] as const;
export type WritePolicy = (typeof writePolicies)[number];

/** One target field, the formula that gives its value, and when it is written. */
export interface MappingLine {
  readonly field: string;
  readonly formula: string;
  readonly policy: WritePolicy;
  /** For a reference: the formula gives a natural key, and this says whose record it names. */
  readonly reference?: ReferenceByKey;
}

/** Which record a natural key names: the one of this type whose field holds it. */
export interface ReferenceByKey {
  readonly recordType: string;
  readonly field: string;
  /** When no record holds the key: leave the reference blank, keep what is there, or fail the line. */
  readonly none: 'blank' | 'keep' | 'fail';
  /** When several hold it: fail the line, or take the first by id. */
  readonly several: 'fail' | 'first';
}

export const linesSchema = Joi.array()
  .items(
    Joi.object<MappingLine>({
      field: fieldName.required(),
      formula: formulaText.required(),
      policy: Joi.valid(...writePolicies).required(),
      reference: Joi.object<ReferenceByKey>({
        recordType: fieldName.required(),
        field: fieldName.required(),
        none: Joi.valid('blank', 'keep', 'fail').required(),
        several: Joi.valid('fail', 'first').required(),
      }),
    }),
  )
  .max(500)
  .unique('field');

/** Returns the formulas of lines with their places in the action. */
export function lineFormulas(lines: readonly MappingLine[]) {
  return lines.map(({ formula }, at) => ({ at: `lines/${at}/formula`, formula }));
}

/** Compiles the lines of an action and notes what is wrong with them; lines with mistakes are left out. */
export function compileLines(
  { surroundings, note, formulaAt }: Compiling,
  place: string,
  lines: readonly MappingLine[],
  { fields }: RecordType,
): readonly CompiledLine[] {
  return lines.flatMap((line, index): CompiledLine[] => {
    const path = `${place}/lines/${index}`;
    const definition = fieldAt(fields, line.field);
    if (!definition) note(`${path}/field`, `The target has no field “${line.field}”.`);
    else if (definition.readOnly) note(`${path}/field`, `“${definition.label}” is read-only in its system.`);
    const reference = line.reference && resolveReference(line.reference, definition, surroundings.catalog);
    if (typeof reference === 'string') note(`${path}/reference`, reference);
    const compiled = formulaAt(`${path}/formula`, line.formula);
    if (!definition || !compiled || typeof reference === 'string') return [];
    const [read, encode] = [pathReader(line.field), encoderFor(definition)];
    return [
      { ...line, at: index, definition, compiled, read, encode, ...(reference && { resolved: reference }) },
    ];
  });
}

/** Returns the record type that a natural key is looked for in, or why it cannot be. */
function resolveReference(
  reference: ReferenceByKey,
  definition: Field | undefined,
  catalog: Catalog,
): ResolvedReference | string | undefined {
  if (!definition) return undefined;
  if (definition.type !== 'reference')
    return `“${definition.label}” is no reference; it takes no key of a record.`;
  const found = catalog.referred(definition).find(({ type }) => type.name === reference.recordType);
  if (!found) return `“${definition.label}” does not point to “${reference.recordType}”.`;
  return fieldAt(found.type.fields, reference.field)
    ? found
    : `${found.type.label} has no field “${reference.field}”.`;
}
