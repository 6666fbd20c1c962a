import Joi from 'joi';
import { fieldName, formulaText } from '../../model/names';
import { taggedStepSchema, type TaggedStep } from '../tidyTagged';

/** How the text of a field is put in order. */
export const cleanings = ['trim', 'single spaces', 'lower case', 'upper case'] as const;
export type Cleaning = (typeof cleanings)[number];

/** One thing that a tidy action does to its record. */
export type TidyStep =
  /** Clears every field whose name fits the pattern; `*` stands for any characters. */
  | { readonly do: 'remove fields'; readonly pattern: string }
  /** Gives a field a value where it holds none. */
  | { readonly do: 'set when absent'; readonly field: string; readonly formula: string }
  /** Replaces the characters of a fixed-position code from a position on; the first is at position 1. */
  | {
      readonly do: 'set characters';
      readonly field: string;
      readonly position: number;
      readonly formula: string;
    }
  | { readonly do: 'clean'; readonly field: string; readonly how: Cleaning }
  /** Tidies a tagged record (ISO 2709) that a text field holds; what it reads are places of that record alone. */
  | { readonly do: 'tidy tagged'; readonly field: string; readonly step: TaggedStep };

const longestCode = 1000;

export const tidySteps = Joi.alternatives().conditional('.do', {
  switch: [
    {
      is: 'remove fields',
      then: Joi.object({
        do: Joi.valid('remove fields').required(),
        pattern: Joi.string().max(120).required(),
      }),
    },
    {
      is: 'set when absent',
      then: Joi.object({
        do: Joi.valid('set when absent').required(),
        field: fieldName.required(),
        formula: formulaText.required(),
      }),
    },
    {
      is: 'set characters',
      then: Joi.object({
        do: Joi.valid('set characters').required(),
        field: fieldName.required(),
        position: Joi.number().integer().min(1).max(longestCode).required(),
        formula: formulaText.required(),
      }),
    },
    {
      is: 'tidy tagged',
      then: Joi.object({
        do: Joi.valid('tidy tagged').required(),
        field: fieldName.required(),
        step: taggedStepSchema.required(),
      }),
    },
    {
      is: 'clean',
      then: Joi.object({
        do: Joi.valid('clean').required(),
        field: fieldName.required(),
        how: Joi.valid(...cleanings).required(),
      }),
    },
  ],
  otherwise: Joi.object({
    do: Joi.valid('remove fields', 'set when absent', 'set characters', 'clean', 'tidy tagged').required(),
  }).unknown(),
});
