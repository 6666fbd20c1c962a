import { joinNfc } from '../../model/nfc';
import { FormulaError } from '../error';
import { jsonLength } from '../jsonLength';
import { limits } from '../limits';
import { isList, isObjectValue, toText, type Value } from '../value';

/** Returns text that a function made, or an error when it is longer than a formula may make. */
export function boundedText(value: string): string | FormulaError {
  return value.length <= limits.text ? value : tooLong();
}

export function tooLong(): FormulaError {
  return new FormulaError(
    'limit',
    `A formula may make text of ${limits.text.toLocaleString('en')} characters.`,
  );
}

/** Returns a list that a function made, or an error when it has more elements than a formula may make. */
export function boundedList(values: readonly Value[]): readonly Value[] | FormulaError {
  return values.length <= limits.items
    ? values
    : new FormulaError('limit', `A formula may make lists of ${limits.items.toLocaleString('en')} elements.`);
}

/** Text that is put together piece by piece; it stops to grow, and is an error, as soon as it would be too long. */
export class Joining {
  private text = '';
  private begun = false;
  private failed: FormulaError | undefined;

  constructor(private readonly separator: string) {}

  add(value: Value): void {
    const part = typeof value === 'string' ? value : boundedToText(value);
    if (this.failed) return;
    if (part instanceof FormulaError) this.failed = part;
    else if (this.text.length + this.separator.length + part.length > limits.text) this.failed = tooLong();
    else {
      this.text = this.begun ? joinNfc(joinNfc(this.text, this.separator), part) : part;
      this.begun = true;
    }
  }

  get joined(): string | FormulaError {
    return this.failed ?? this.text;
  }
}

/** Returns several values as one text with a separator between, or an error as soon as it would be too long. */
export function joined(values: readonly Value[], separator = ''): string | FormulaError {
  const joining = new Joining(separator);
  for (const value of values) joining.add(value);
  return joining.joined;
}

/** Returns a value as text, or an error when that would be too long; the length is known before the text is made. */
export function boundedToText(value: Value): string | FormulaError {
  if (typeof value === 'string') return value;
  if (isList(value)) return joined(value, ', ');
  return isObjectValue(value) && jsonLength(value, limits.text) > limits.text ? tooLong() : toText(value);
}
