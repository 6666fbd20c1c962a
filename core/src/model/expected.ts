import Joi from 'joi';
import type { Json } from './json';

/** What is done to a record, as files name it. */
export type Deed = 'write' | 'create' | 'remove';

/** What a value must be for a sample to hold. */
export type Expectation =
  | { readonly is: 'equal'; readonly value: Json }
  /** A number that may differ by so much. */
  | { readonly is: 'near'; readonly value: string; readonly within: string }
  /** A text that matches a regular expression, RE2 syntax, somewhere. */
  | { readonly is: 'matching'; readonly pattern: string }
  | { readonly is: 'blank' }
  /** It changes, and to what does not matter. */
  | { readonly is: 'any' };

interface ExpectedRecord {
  /** As in an outcome. */
  readonly key: string;
  readonly deed: Deed;
  /** By dotted path; a field that is not here must not change. */
  readonly fields: Readonly<Record<string, Expectation>>;
}

interface ExpectedMessage {
  readonly key: string;
  readonly data: Readonly<Record<string, Expectation>>;
}

/** What a sample's outcome must be: these records and messages, and no others. */
export interface Expected {
  readonly records: readonly ExpectedRecord[];
  readonly messages: readonly ExpectedMessage[];
  /** What goes wrong, where that is what is wanted. */
  readonly problems: readonly string[];
}

const decimalText = Joi.string()
  .pattern(/^-?\d+(\.\d+)?$/, 'a number')
  .max(60);

const expectationSchema = Joi.alternatives().try(
  Joi.object({ is: Joi.valid('equal').required(), value: Joi.any().required() }),
  Joi.object({
    is: Joi.valid('near').required(),
    value: decimalText.required(),
    within: decimalText.required(),
  }),
  Joi.object({ is: Joi.valid('matching').required(), pattern: Joi.string().max(500).required() }),
  Joi.object({ is: Joi.valid('blank', 'any').required() }),
);

const fields = Joi.object().pattern(/^[\s\S]{0,200}$/, expectationSchema);
const key = Joi.string().max(500).required();

export const expectedSchema = Joi.object<Expected>({
  records: Joi.array()
    .items(
      Joi.object({ key, deed: Joi.valid('write', 'create', 'remove').required(), fields: fields.required() }),
    )
    .unique('key')
    .max(10_000)
    .required(),
  messages: Joi.array()
    .items(Joi.object({ key, data: fields.required() }))
    .unique('key')
    .max(1000)
    .required(),
  problems: Joi.array().items(Joi.string().max(2000)).max(1000).required(),
});
