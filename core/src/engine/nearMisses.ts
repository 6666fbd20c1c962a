import type { Env } from '../formula/scope';
import { printChain, stepWords, toChain } from '../formula/chain';
import { FormulaError } from '../formula/error';
import { parse } from '../formula/parser';
import { toText } from '../formula/value';
import type { JsonObject } from '../model/json';
import { scalarText } from '../model/jsonText';
import { readPath } from '../model/json';
import type { StoredRecord } from '../model/record';
import { matches } from '../workspace/matches';
import type { CompiledFind } from './compiled';
import { comparedValue, meets, searchConditions, searchFor, type Asked } from './find';
import { differenceOf, type Difference } from './nearMiss';
import type { NearMiss } from './report';

/** Most near misses that a report names. */
const namedMisses = 3;

/**
 * Returns the records that a find would have found, had one text been written a little differently: for people who wonder why nothing
 * came back. All but one of the conditions are met, and the texts of that one are nearly the same.
 */
export function nearMisses(
  find: CompiledFind,
  asked: readonly Asked[],
  records: readonly StoredRecord[],
  env: Env,
): readonly NearMiss[] {
  const near: (NearMiss & { readonly distance: number })[] = [];
  for (const stored of records) {
    const failing = asked.filter((one) => !metBy(find, one, stored.record, env));
    const [only] = failing;
    if (!only || failing.length > 1 || !['equal', 'in'].includes(only.condition.is)) continue;
    const held = comparedValue(only.condition, stored.record, env);
    if (held instanceof FormulaError) continue;
    const differences = only.values
      .map((wanted) => ({ wanted: toText(wanted), found: differenceOf(toText(held), toText(wanted)) }))
      .filter((each): each is { wanted: string; found: Difference } => each.found !== undefined)
      .sort((a, b) => a.found.distance - b.found.distance);
    const [nearest] = differences;
    if (!nearest) continue;
    const { because, as, wanted: asWanted, distance } = nearest.found;
    near.push({
      ref: stored.ref,
      name: scalarText(readPath(stored.record, find.type.nameField) ?? stored.ref.id),
      condition: asked.indexOf(only),
      held: toText(held),
      wanted: nearest.wanted,
      because,
      ...(as !== undefined && { as: nested(as, only.condition.as) }),
      ...(asWanted !== undefined && { asWanted: nested(asWanted, only.condition.formula) }),
      distance,
    });
  }
  return near
    .sort((a, b) => a.distance - b.distance)
    .slice(0, namedMisses)
    .map(({ distance: _distance, ...miss }) => miss);
}

function metBy(find: CompiledFind, asked: Asked, record: JsonObject, env: Env): boolean {
  const search = searchFor(find, searchConditions([asked]));
  return matches(find.type, record, search) && meets(record, [asked], env);
}

/**
 * Returns a formula over `item` with another formula in the place of `item`. A step that was just taken is not taken again: comparing alike
 * a second time, because once was not enough, trims nothing twice.
 */
export function nested(formula: string, inner: string | undefined): string {
  if (inner === undefined || inner.trim() === '') return formula;
  const [outer, held] = [parse(formula), parse(inner)];
  if (outer instanceof FormulaError || held instanceof FormulaError)
    return formula.replace('item', () => inner.trim());
  const { source, steps } = toChain(held);
  const all = [...steps, ...toChain(outer).steps];
  const kept = all.filter((step, at) => at === 0 || stepWords(step) !== stepWords(all[at - 1] ?? step));
  return kept.length === all.length
    ? formula.replace('item', () => inner.trim())
    : printChain({ source, steps: kept });
}
