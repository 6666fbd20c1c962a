import { compiledFormulas, type PlacedFormula } from '../engine/compiledFormulas';
import type { Subject } from './finding';

/** Every formula of a rule that compiles, with its place. */
export function formulasIn({ sound }: Subject): readonly PlacedFormula[] {
  return sound ? compiledFormulas(sound) : [];
}
