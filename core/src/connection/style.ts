import Joi from 'joi';

/** A member of a family of styles: what it is called, and what its description holds. */
export interface Style<S extends { readonly kind: string }> {
  readonly kind: S['kind'];
  /** The style on a screen: “by page number”. */
  readonly label: string;
  /** What one has to know of it, as a sentence. */
  readonly meaning: string;
  readonly schema: Joi.ObjectSchema<S>;
}

/** Returns the schema of a family, which refuses a kind that there is not with those that there are. */
export function schemaOfFamily<S extends { readonly kind: string }>(
  styles: readonly Style<S>[],
): Joi.AlternativesSchema<S> {
  return Joi.alternatives<S>().conditional(Joi.ref('.kind'), {
    switch: styles.map(({ kind, schema }) => ({ is: kind, then: schema })),
    otherwise: Joi.object({ kind: Joi.valid(...styles.map(({ kind }) => kind)).required() }).unknown(),
  });
}

/** A place in an answer: a JSON Pointer (RFC 6901); blank is the answer itself. */
export const pointerSchema = Joi.string()
  .allow('')
  .max(500)
  .pattern(/^(\/.*)?$/, 'a JSON Pointer');
export const parameterName = Joi.string().min(1).max(120);
/** The name of a header (RFC 9110, 5.1). */
export const headerName = Joi.string().pattern(/^[A-Za-z0-9!#$%&'*+.^_`|~-]{1,100}$/, 'the name of a header');
/** A path below the address of the system, as a template. */
export const pathTemplate = Joi.string()
  .max(500)
  .pattern(/^(\/|\{path\})[^\s#\\]*$/, 'a path that begins with /');
export const methodSchema = Joi.valid('POST', 'PUT', 'PATCH', 'DELETE');
