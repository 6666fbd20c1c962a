import Joi from 'joi';

/** A name or a dotted path as systems give them. */
export const fieldName = Joi.string().max(120);

export const formulaText = Joi.string().allow('').max(10_000);

/** A name for a record inside a rule; the words that formulas have for other records are taken. */
export const alias = Joi.string()
  .pattern(/^[a-z][A-Za-z0-9_]*$/, 'an alias')
  .invalid('record', 'before', 'target', 'event', 'input', 'item')
  .max(40);
