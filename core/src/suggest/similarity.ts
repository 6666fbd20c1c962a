import { distance } from 'fastest-levenshtein';

/** Returns the words of a name: `customer_since`, `customerSince` and `Customer since` have the same. */
function wordsOf(name: string): readonly string[] {
  return name
    .replace(/([\p{Ll}\p{N}])(\p{Lu})/gu, '$1 $2')
    .toLowerCase()
    .split(/[^\p{L}\p{N}]+/u)
    .filter((word) => word !== '');
}

/** Returns how alike two words are, 0 to 1; a word that begins the other counts much, a few letters of difference little. */
function wordSimilarity(a: string, b: string): number {
  if (a === b) return 1;
  const [short, long] = a.length < b.length ? [a, b] : [b, a];
  if (short.length >= 3 && long.startsWith(short)) return 0.8;
  const alike = 1 - distance(a, b) / long.length;
  return alike >= 0.7 ? alike : 0;
}

/** Returns how alike two names are, 0 to 1: the words of each are paired with their best counterparts. */
export function nameSimilarity(a: string, b: string): number {
  const [left, right] = [wordsOf(a), wordsOf(b)];
  if (left.length === 0 || right.length === 0) return 0;
  const best = (words: readonly string[], others: readonly string[]) =>
    words.reduce((sum, word) => sum + Math.max(...others.map((other) => wordSimilarity(word, other))), 0);
  return (best(left, right) + best(right, left)) / (left.length + right.length);
}
