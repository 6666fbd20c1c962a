import Joi from 'joi';
import { taggedStepSchema, type TaggedStep } from '../engine/tidyTagged';
import { fileSettingsSchema, type FileSettings } from '../formats/files';

/** One field of the records that a file becomes, and where its value comes from. */
export interface LayoutLine {
  /** A field of the record type, dotted. */
  readonly field: string;
  /** A place in a record of the file; or, after `=`, a formula, which reads places with PLACE and other fields by name. */
  readonly from: string;
}

/** How the records of a file become records of a type: how the file is read, and what fills which field. */
export interface Layout {
  readonly file: FileSettings;
  readonly lines: readonly LayoutLine[];
  /** What is done to each record before, of a file of tagged records. */
  readonly tidy?: readonly TaggedStep[];
}

/** Longest line, and so many lines. */
const [longestFrom, mostLines] = [4000, 500];
const mostSteps = 100;

export const layoutLineSchema = Joi.object<LayoutLine>({
  field: Joi.string().max(200).required(),
  from: Joi.string().allow('').max(longestFrom).required(),
});

export const layoutSchema: Joi.ObjectSchema<Layout> = Joi.object<Layout>({
  file: fileSettingsSchema.required(),
  lines: Joi.array().items(layoutLineSchema).max(mostLines).required(),
  tidy: Joi.array().items(taggedStepSchema).max(mostSteps),
});

/** Returns the formula of a line; undefined where it names a place. */
export function formulaOf({ from }: Pick<LayoutLine, 'from'>): string | undefined {
  const text = from.trim();
  return text.startsWith('=') ? text.slice(1) : undefined;
}
