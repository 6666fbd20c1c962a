import { describeType, isOpen, typeOfField, type Type } from '../formula/type';
import type { Field } from '../model/system';
import { linesOf, replaceFormula, type Check, type Finding } from './finding';

/** How a value of one type gets into a field of another. */
type Fit =
  | { readonly fit: 'exact' }
  | { readonly fit: 'safe' }
  /** Something may be lost; the conversion says what is wanted. `%` stands for the formula. */
  | { readonly fit: 'lossy'; readonly loses: string; readonly convert: string; readonly label: string }
  /** It does not fit as it is, and a conversion makes it fit. */
  | { readonly fit: 'converted'; readonly convert: string; readonly label: string }
  | { readonly fit: 'impossible' }
  /** An object whose fields are not those of the target. */
  | { readonly fit: 'misshapen'; readonly message: string };

const exact: Fit = { fit: 'exact' };
const safe: Fit = { fit: 'safe' };
const impossible: Fit = { fit: 'impossible' };

/** Compares the type of a formula with that of the field it is for. */
export function fitOf(given: Type, field: Field): Fit {
  const { type } = field;
  if (isOpen(given)) return safe;
  if (type === 'choice') {
    if (given.kind === 'choice') return exact;
    return given.kind === 'object' || given.kind === 'list' ? impossible : safe;
  }
  if (type === 'object') return given.kind === 'object' ? fitOfObject(given, field) : impossible;
  if (type === 'list') return fitOfElements(given, field);
  if (given.kind === 'object') return impossible;
  if (given.kind === 'list') return fitOfList(type);
  switch (type) {
    case 'text':
    case 'reference':
      return given.kind === 'text' ? exact : safe;
    case 'multichoice':
      return safe;
    case 'integer':
      if (given.kind === 'integer') return exact;
      if (given.kind === 'decimal') {
        return { fit: 'lossy', loses: 'decimals', convert: 'ROUND(%)', label: 'Round it' };
      }
      return isTextual(given)
        ? { fit: 'converted', convert: 'ROUND(VALUE(%))', label: 'Read as number' }
        : impossible;
    case 'decimal':
      if (given.kind === 'integer') return safe;
      if (given.kind === 'decimal') return exact;
      return isTextual(given)
        ? { fit: 'converted', convert: 'VALUE(%)', label: 'Read as number' }
        : impossible;
    case 'boolean':
      if (given.kind === 'boolean') return exact;
      return isTextual(given)
        ? { fit: 'converted', convert: 'ONEOF(LOWER(%), "true", "yes")', label: 'Yes for “true” and “yes”' }
        : impossible;
    case 'date':
      if (given.kind === 'date') return exact;
      if (given.kind === 'datetime') {
        return {
          fit: 'lossy',
          loses: 'the time of day',
          convert: 'LOCALDATE(%, "UTC")',
          label: 'Take the date',
        };
      }
      return isTextual(given)
        ? { fit: 'converted', convert: 'DATEVALUE(%)', label: 'Read as date' }
        : impossible;
    case 'datetime':
      if (given.kind === 'datetime') return exact;
      return given.kind === 'date'
        ? { fit: 'converted', convert: 'DATETIME(%, "00:00", "UTC")', label: 'Take midnight' }
        : impossible;
  }
}

/** Compares the fields that an object has with those of the target: none may be unknown there, of another kind, or wanting. */
function fitOfObject(given: Extract<Type, { kind: 'object' }>, { label, fields }: Field): Fit {
  if (!fields) return safe;
  if (given.fields === fields) return exact;
  const here = new Map(given.fields.map((field) => [field.name, field]));
  const known = new Set(fields.map(({ name }) => name));
  const stranger = given.fields.find(({ name }) => !known.has(name));
  if (stranger) return misshapen(`“${label}” has no field “${stranger.name}”, which the formula gives.`);
  for (const field of fields) {
    const own = here.get(field.name);
    const inner = own && fitOf(typeOfField(own), field);
    if (inner?.fit === 'misshapen') return inner;
    if (own && (inner?.fit === 'impossible' || inner?.fit === 'converted')) {
      const [wanted, gives] = [describeType(typeOfField(field)), describeType(typeOfField(own))];
      return misshapen(`“${field.label}” of “${label}” takes ${wanted}, and the formula gives ${gives}.`);
    }
    if (!own && field.required && !field.readOnly && !given.open)
      return misshapen(`“${field.label}” of “${label}” is required, and the formula does not give it.`);
  }
  return safe;
}

const misshapen = (message: string): Fit => ({ fit: 'misshapen', message });

function fitOfElements(given: Type, field: Field): Fit {
  const of = given.kind === 'list' ? given.of : given;
  if (!field.fields || isOpen(of)) return safe;
  return of.kind === 'object' ? fitOfObject(of, field) : impossible;
}

function fitOfList(type: Field['type']): Fit {
  if (type === 'multichoice') return exact;
  return type === 'text'
    ? { fit: 'converted', convert: 'TEXTJOIN(", ", TRUE, %)', label: 'Join with commas' }
    : impossible;
}

function isTextual(type: Type): boolean {
  return type.kind === 'text' || type.kind === 'choice' || type.kind === 'reference';
}

/** Values whose type the target does not take, or takes at a loss. */
export const misfitType: Check = {
  kind: 'misfit type',
  meaning: 'A formula gives a type that the target field does not take, or takes only with something lost.',
  find: (subject) =>
    linesOf(subject).flatMap(({ line, at }): Omit<Finding, 'kind'>[] => {
      if (line.resolved) return [];
      const fit = fitOf(line.compiled.type, line.definition);
      if (fit.fit === 'exact' || fit.fit === 'safe') return [];
      const given = describeType(line.compiled.type);
      const wanted = describeType(typeOfField(line.definition));
      const place = `${at}/formula`;
      if (fit.fit === 'impossible') {
        const message = `“${line.definition.label}” takes ${wanted}, and the formula gives ${given}.`;
        return [{ severity: 'error', at: place, message }];
      }
      if (fit.fit === 'misshapen') return [{ severity: 'error', at: place, message: fit.message }];
      const fix = replaceFormula(
        fit.label,
        place,
        fit.convert.replace('%', () => line.formula),
      );
      if (fit.fit === 'converted') {
        const message = `“${line.definition.label}” takes ${wanted}, and the formula gives ${given}; it has to be converted.`;
        return [{ severity: 'error', at: place, message, fix }];
      }
      const message = `“${line.definition.label}” takes ${wanted}, and the formula gives ${given}: a value with ${fit.loses} fails.`;
      return [{ severity: 'warning', at: place, message, fix }];
    }),
};
