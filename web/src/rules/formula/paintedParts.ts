import { FormulaError, tokenize } from '@vast-knot/core';

interface PaintedPart {
  readonly paint: 'function' | 'name' | 'text' | 'number' | 'sign' | 'plain';
  readonly start: number;
  readonly end: number;
}

/** Returns the parts of formula text with the paint of each; together they are the whole text. Text that cannot be read stays plain. */
export function paintedParts(formula: string): readonly PaintedPart[] {
  const tokens = tokenize(formula);
  if (tokens instanceof FormulaError) return [{ paint: 'plain', start: 0, end: formula.length }];
  const parts: PaintedPart[] = [];
  let at = 0;
  tokens.forEach(({ kind, quoted, place }, index) => {
    if (place.start > at) parts.push({ paint: 'plain', start: at, end: place.start });
    at = place.end;
    if (kind === 'end') return;
    const calls = kind === 'name' && !quoted && tokens[index + 1]?.value === '(';
    const paint = calls ? 'function' : kind === 'symbol' ? 'sign' : kind;
    parts.push({ paint, ...place });
  });
  return parts;
}
