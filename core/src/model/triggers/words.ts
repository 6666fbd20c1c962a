/** Returns a sentence part with a small first letter. */
export function lower(text: string): string {
  return text.charAt(0).toLowerCase() + text.slice(1);
}

/** Returns “a, b and c”. */
export function andList(items: readonly string[]): string {
  return items.length <= 1 ? items.join('') : `${items.slice(0, -1).join(', ')} and ${items.at(-1)}`;
}

/** Returns “a, b or c”. */
export function orList(items: readonly string[]): string {
  return items.length <= 1 ? items.join('') : `${items.slice(0, -1).join(', ')} or ${items.at(-1)}`;
}
