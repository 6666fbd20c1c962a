import Joi from 'joi';

/**
 * A number with more digits than a float keeps, as JSON of ours carries it: `{"$number": "12345678901234567890"}`. It comes from the
 * outside as a plain JSON number, and goes there as one; in between it is a value like any other and no object.
 */
export type LongNumber = { readonly $number: string };

const numberText = /^-?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?$/;

/** Returns whether a value is a number with its digits. */
export function isLongNumber(value: unknown): value is LongNumber {
  if (typeof value !== 'object' || value === null || !('$number' in value)) return false;
  const { $number: digits } = value;
  return typeof digits === 'string' && Object.keys(value).length === 1 && numberText.test(digits);
}

/** The digits that a number from outside may have. */
export const longNumberSchema = Joi.object({
  $number: Joi.string().pattern(numberText).max(2000).required(),
});
