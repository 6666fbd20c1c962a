/** Returns at least how long a value is as JSON text; stops counting beyond `most`. */
export function jsonLength(value: unknown, most: number): number {
  if (typeof value === 'string') return value.length + 2;
  if (typeof value !== 'object' || value === null) return 4;
  let length = 2;
  for (const [name, part] of Object.entries(value)) {
    length += (Array.isArray(value) ? 1 : name.length + 4) + jsonLength(part, most - length);
    if (length > most) break;
  }
  return length;
}
