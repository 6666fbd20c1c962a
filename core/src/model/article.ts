/**
 * Returns “a” or “an” for what people call a record type. It goes by the first letter (common practice, no source); words with u are spoken
 * as “unit” is, and not as “under”.
 */
export function article(noun: string): 'a' | 'an' {
  return /^[aeio]/i.test(noun) ? 'an' : 'a';
}
