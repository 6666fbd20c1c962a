import { RE2JS } from 're2js';
import { FormulaError } from './error';

/** Patterns made ready, newest last; formulas mostly use one pattern for many records. */
const ready = new Map<string, RE2JS>();
const keptPatterns = 200;
const longestPattern = 500;

/** Returns a regular expression in the RE2 syntax, read once. Its matcher runs in time linear to the text, whatever the pattern. */
export function patternOf(source: string): RE2JS | FormulaError {
  const known = ready.get(source);
  if (known) return known;
  if (source.length > longestPattern) {
    return new FormulaError('limit', `A pattern may be ${longestPattern} characters long.`);
  }
  try {
    const made = RE2JS.compile(source);
    if (ready.size >= keptPatterns) ready.delete(ready.keys().next().value ?? '');
    ready.set(source, made);
    return made;
  } catch (thrown) {
    const why = thrown instanceof Error ? thrown.message : 'it cannot be read';
    return new FormulaError('value', `“${source}” is not a pattern: ${why}`);
  }
}
