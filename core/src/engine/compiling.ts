import { compile, type Compiled, type Formula } from '../formula/compile';
import { FormulaError } from '../formula/error';
import type { Scope } from '../formula/scope';
import { parsePlace, printPlace, type RulePlace } from '../model/place';
import type { PlacedFormula } from './compiled';
import type { Rule } from './rule';
import { scopeAt, scopeKey } from './scopes';
import type { Surroundings } from './surroundings';

/** A mistake in a rule: where it stands (`actions/0/lines/2/formula`) and what is wrong. */
export interface RuleProblem {
  readonly at: string;
  readonly error: FormulaError;
}

/** What the parts of a rule need to be compiled, and where they leave what is wrong. */
export interface Compiling {
  readonly rule: Rule;
  readonly surroundings: Surroundings;
  /** The formulas that were compiled so far. */
  readonly formulas: readonly PlacedFormula[];
  /** Keeps a mistake that is not in the text of a formula, with its place. */
  readonly note: (at: string, message: string) => void;
  /** The formula at a place, or undefined after its mistakes were noted. */
  readonly formulaAt: (at: string, source: string, scope?: Scope) => Formula | undefined;
  /** The formula at a place that has to give yes or no; undefined where there is none. */
  readonly conditionAt: (at: string, source: string | undefined, what: string) => Formula | undefined;
}

const nothingKnown: Scope = { record: [], found: new Map(), tables: new Map() };

/** Most compiled formulas that are kept. */
const mostKept = 4000;

export function beginCompiling(rule: Rule, surroundings: Surroundings, problems: RuleProblem[]): Compiling {
  const formulas: PlacedFormula[] = [];
  const scopeKeys = new Map<string, string>();
  const scopes = new Map<string, Scope>();

  const scopeOf = (at: string): Scope => {
    const known = scopes.get(at);
    if (known) return known;
    const scope = scopeAt(rule, at, surroundings) ?? nothingKnown;
    scopes.set(at, scope);
    return scope;
  };
  const compileAt = (at: string, source: string): Compiled => {
    const place = printPlace(placeOf(at));
    const { compiled: known } = surroundings;
    if (!known) return compile(source, scopeOf(place));
    const scoped = scopeKeys.get(place) ?? scopeKey(rule, place);
    scopeKeys.set(place, scoped);
    const key = `${scoped} ${source}`;
    const result = known.get(key) ?? compile(source, scopeOf(place));
    if (known.size > mostKept) known.clear();
    known.set(key, result);
    return result;
  };
  const formulaAt = (at: string, source: string, scope?: Scope): Formula | undefined => {
    const result = scope ? compile(source, scope) : compileAt(at, source);
    if (result.ok) {
      formulas.push({ at, formula: result.formula });
      return result.formula;
    }
    problems.push(...result.errors.map((error) => ({ at, error })));
    return undefined;
  };
  const conditionAt = (at: string, source: string | undefined, what: string): Formula | undefined => {
    if (source === undefined || source.trim() === '') return undefined;
    const formula = formulaAt(at, source);
    if (formula && formula.type.kind !== 'boolean' && formula.type.kind !== 'any') {
      problems.push({ at, error: new FormulaError('type', `${what} must give yes or no.`) });
    }
    return formula;
  };
  return {
    rule,
    surroundings,
    formulas,
    note: (at, message) => problems.push({ at, error: new FormulaError('name', message) }),
    formulaAt,
    conditionAt,
  };
}

/**
 * Returns the part of a place by which its names are known: lines of one action see the same, the conditions of one find too.
 * What a find keeps by its own guard, and what a creating action goes through, are places of their own.
 */
export function placeOf(path: string): RulePlace {
  const place = parsePlace(path);
  switch (place.of) {
    case 'line':
      return { of: 'action', at: place.at, rest: [] };
    case 'action':
      return { ...place, rest: place.rest[0] === 'each' ? ['each'] : [] };
    case 'find':
      return { ...place, rest: place.rest[0] === 'where' ? ['where'] : [] };
    default:
      return place;
  }
}
