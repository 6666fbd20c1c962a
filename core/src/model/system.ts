import Joi from 'joi';

/** What a field can hold. `choice` and `multichoice` hold option values; `reference` holds the id of another record. */
export const fieldTypes = [
  'text',
  'integer',
  'decimal',
  'boolean',
  'date',
  'datetime',
  'choice',
  'multichoice',
  'reference',
  'object',
] as const;
export type FieldType = (typeof fieldTypes)[number];

export interface FieldOption {
  readonly value: string;
  readonly label: string;
}

/** One field of a record type, as its system has it. */
export interface Field {
  /** The API name; formulas use it. */
  readonly name: string;
  readonly label: string;
  readonly type: FieldType;
  readonly required?: boolean;
  readonly readOnly?: boolean;
  /** Kept by the system itself (revision, time of change); never counts as a change. */
  readonly keptBySystem?: boolean;
  /** Personal values are not to leave for other systems unnoticed; secret ones are not to leave at all. */
  readonly sensitivity?: 'personal' | 'secret';
  /** Longest text, in Unicode code points. */
  readonly maxLength?: number;
  readonly min?: number;
  readonly max?: number;
  readonly options?: readonly FieldOption[];
  /** Record types of the same system that a reference may point to. */
  readonly refersTo?: readonly string[];
  /** Fields of an object. */
  readonly fields?: readonly Field[];
}

export interface RecordType {
  readonly name: string;
  readonly label: string;
  readonly plural: string;
  readonly idField: string;
  /** The field that names a record to a person. */
  readonly nameField: string;
  readonly fields: readonly Field[];
}

/** A connected business application, without how it is reached: that is the server's. */
export interface System {
  readonly key: string;
  /** Two letters shown wherever the system is meant. */
  readonly tag: string;
  readonly name: string;
  /** Hue of the system's colour, 0 to 359. */
  readonly hue: number;
  readonly recordTypes: readonly RecordType[];
}

/** Names may hold spaces and letters of any script, but no dot, quote or bracket: dots walk into objects. */
const apiName = Joi.string()
  .pattern(/^[^.'"[\]{}()]+$/u, 'an API name')
  .max(120);

export const fieldSchema: Joi.ObjectSchema<Field> = Joi.object<Field>({
  name: apiName.required(),
  label: Joi.string().max(120).required(),
  type: Joi.valid(...fieldTypes).required(),
  required: Joi.boolean(),
  readOnly: Joi.boolean(),
  keptBySystem: Joi.boolean(),
  sensitivity: Joi.valid('personal', 'secret'),
  maxLength: Joi.number().integer().min(1),
  min: Joi.number(),
  max: Joi.number(),
  options: Joi.array().items(Joi.object({ value: Joi.string().required(), label: Joi.string().required() })),
  refersTo: Joi.array().items(apiName),
  fields: Joi.array().items(Joi.link('#field')),
}).id('field');

export const systemSchema: Joi.ObjectSchema<System> = Joi.object<System>({
  key: Joi.string()
    .pattern(/^[a-z][a-z0-9-]*$/)
    .max(40)
    .required(),
  tag: Joi.string().length(2).uppercase().required(),
  name: Joi.string().max(80).required(),
  hue: Joi.number().integer().min(0).max(359).required(),
  recordTypes: Joi.array()
    .items(
      Joi.object<RecordType>({
        name: apiName.required(),
        label: Joi.string().required(),
        plural: Joi.string().required(),
        idField: apiName.required(),
        nameField: apiName.required(),
        fields: Joi.array().items(fieldSchema).required(),
      }),
    )
    .required(),
});

/** A record type that a reference may point to, with the system that has it. */
export interface ReferredType {
  readonly system: string;
  readonly type: RecordType;
}

/** The systems known to a computation, with look-up by name. */
export class Catalog {
  readonly systems: readonly System[];
  private readonly byKey: ReadonlyMap<string, System>;
  /** The system of each field, by which the record types that a reference names are found. */
  private readonly owners = new Map<Field, string>();

  constructor(systems: readonly System[]) {
    this.systems = systems;
    this.byKey = new Map(systems.map((system) => [system.key, system]));
    for (const { key, recordTypes } of systems) {
      for (const { field } of recordTypes.flatMap((type) => leafFields(type.fields)))
        this.owners.set(field, key);
    }
  }

  system(key: string): System | undefined {
    return this.byKey.get(key);
  }

  recordType(system: string, name: string): RecordType | undefined {
    return this.byKey.get(system)?.recordTypes.find((type) => type.name === name);
  }

  /** Returns the record types that a reference of one of these systems may point to. */
  referred(reference: Field): readonly ReferredType[] {
    const system = this.owners.get(reference) ?? '';
    return (reference.refersTo ?? []).flatMap((name) => {
      const type = this.recordType(system, name);
      return type ? [{ system, type }] : [];
    });
  }
}

/** Returns the field at a dotted path, or undefined. */
export function fieldAt(fields: readonly Field[], path: string): Field | undefined {
  const [step, ...rest] = path.split('.');
  const field = fields.find((candidate) => candidate.name === step);
  if (rest.length === 0 || !field) return field;
  return fieldAt(field.fields ?? [], rest.join('.'));
}

export interface LeafField {
  readonly path: string;
  readonly label: string;
  readonly field: Field;
}

/** Returns every field that holds a value of its own, with dotted paths: objects are opened. */
export function leafFields(fields: readonly Field[], prefix = '', labelPrefix = ''): LeafField[] {
  return fields.flatMap((field) => {
    const path = prefix + field.name;
    const label = labelPrefix + field.label;
    return field.type === 'object' && field.fields
      ? leafFields(field.fields, `${path}.`, `${label} › `)
      : [{ path, label, field }];
  });
}
