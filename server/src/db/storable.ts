/** Returns text as PostgreSQL can keep it: a NUL character and half of a surrogate pair become the replacement character of Unicode. */
export function storable(text: string): string {
  return text.toWellFormed().replaceAll('\0', '\ufffd');
}
