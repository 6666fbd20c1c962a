/** UTF-16 text with no surrogate pair can be cut by index; other text is cut by code point. */
const paired = /[\ud800-\udfff]/;

/** Returns the characters of a text from `start` up to `end`, counted in code points from 0. */
export function sliceText(value: string, start: number, end: number): string {
  // What lies behind the end is not looked at.
  return paired.test(end < value.length ? value.slice(0, end) : value)
    ? [...value].slice(start, end).join('')
    : value.slice(start, end);
}

/** Returns how many code points a text has. */
export function lengthOf(value: string): number {
  return paired.test(value) ? [...value].length : value.length;
}
