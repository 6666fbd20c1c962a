import Joi from 'joi';

/**
 * What a field can hold. `choice` and `multichoice` hold option values; `reference` holds the id of another record; `list` holds objects
 * whose fields are known, or values of any kind.
 */
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
  'list',
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
  /** Fields of an object, or of the elements of a list; absent for a list of plain values. */
  readonly fields?: readonly Field[];
  /** Of a list of objects: the field by which an element is known, whatever its position. */
  readonly keyField?: string;
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
  keyField: apiName,
})
  .custom((field: Field, helpers) => {
    const { keyField, fields = [] } = field;
    return keyField === undefined || fields.some(({ name }) => name === keyField)
      ? field
      : helpers.message({
          custom: `“${field.name}” has the key field “${keyField}”, which its elements do not have.`,
        });
  })
  .id('field');

export const recordTypeSchema: Joi.ObjectSchema<RecordType> = Joi.object<RecordType>({
  name: apiName.required(),
  label: Joi.string().required(),
  plural: Joi.string().required(),
  idField: apiName.required(),
  nameField: apiName.required(),
  fields: Joi.array().items(fieldSchema).required(),
});

export const systemSchema: Joi.ObjectSchema<System> = Joi.object<System>({
  key: Joi.string()
    .pattern(/^[a-z][a-z0-9-]*$/)
    .max(40)
    .required(),
  tag: Joi.string().length(2).uppercase().required(),
  name: Joi.string().max(80).required(),
  hue: Joi.number().integer().min(0).max(359).required(),
  recordTypes: Joi.array().items(recordTypeSchema).required(),
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
      for (const type of recordTypes)
        for (const field of everyField(type.fields)) this.owners.set(field, key);
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

/** Returns the fields of a record type and those within them. */
function* everyField(fields: readonly Field[]): Generator<Field> {
  for (const field of fields) {
    yield field;
    yield* everyField(field.fields ?? []);
  }
}

/** Returns the field that holds one value at a dotted path, or undefined. What lies within a list has many, and is not found. */
export function fieldAt(fields: readonly Field[], path: string): Field | undefined {
  return fieldOn(fields, path.split('.'), false);
}

/** Returns the field at a dotted path that may lead into lists (`lines.weight`), or undefined: to watch it, to read it, to name it. */
export function fieldWithin(fields: readonly Field[], path: string): Field | undefined {
  return fieldOn(fields, path.split('.'), true);
}

function fieldOn(fields: readonly Field[], steps: readonly string[], lists: boolean): Field | undefined {
  const [step, ...rest] = steps;
  const field = fields.find((candidate) => candidate.name === step);
  if (rest.length === 0 || !field) return field;
  return field.type === 'list' && !lists ? undefined : fieldOn(field.fields ?? [], rest, lists);
}

export interface LeafField {
  readonly path: string;
  readonly label: string;
  readonly field: Field;
}

/** Returns every field that holds a value of its own, with dotted paths: objects are opened, a list is one value. */
export function leafFields(fields: readonly Field[], prefix = '', labelPrefix = ''): LeafField[] {
  return fields.flatMap((field) => {
    const path = prefix + field.name;
    const label = labelPrefix + field.label;
    return field.type === 'object' && field.fields
      ? leafFields(field.fields, `${path}.`, `${label} › `)
      : [{ path, label, field }];
  });
}

/** Returns every field that a line can write: those that hold a value of their own, and before those of an object the object as a whole. */
export function writableFields(fields: readonly Field[], prefix = '', labelPrefix = ''): LeafField[] {
  return fields.flatMap((field) => {
    const path = prefix + field.name;
    const label = labelPrefix + field.label;
    return field.type === 'object' && field.fields
      ? [
          { path, label: `${label} (as a whole)`, field },
          ...writableFields(field.fields, `${path}.`, `${label} › `),
        ]
      : [{ path, label, field }];
  });
}

/** Returns every field that can be watched: those that hold a value of their own, and behind each list the fields of its elements. */
export function watchableFields(fields: readonly Field[]): LeafField[] {
  return leafFields(fields).flatMap((leaf) =>
    leaf.field.type === 'list' && leaf.field.fields
      ? [
          leaf,
          ...watchableFields(leaf.field.fields).map(({ path, label, field }) => ({
            path: `${leaf.path}.${path}`,
            label: `${leaf.label} › ${label}`,
            field,
          })),
        ]
      : [leaf],
  );
}

/** Returns the label of the field at a path, behind that of the list that it lies in: “Cargo lines › Goods”. The path itself where there is none. */
export function labelAt(fields: readonly Field[], path: string): string {
  const label = fieldWithin(fields, path)?.label ?? path;
  const steps = path.split('.');
  for (let length = 1; length < steps.length; length++) {
    const outer = fieldWithin(fields, steps.slice(0, length).join('.'));
    if (outer?.type === 'list')
      return `${outer.label} › ${labelAt(outer.fields ?? [], steps.slice(length).join('.'))}`;
  }
  return label;
}
