import { FormulaError } from '../formula/error';
import type { Formula } from '../formula/compile';
import type { Env } from '../formula/scope';
import type { CompiledLine, CompiledRule } from '../engine/compiled';
import { environment } from '../engine/run';
import { isBlankJson, sameValue } from '../model/equal';
import type { StoredRecord } from '../model/record';
import { select } from '../model/triggers';
import { existingEvent, type LookingAt } from './existing';

/**
 * Returns what tells of a record, with nothing but the lines of a rule, that every field holds its value already; where it does not say so,
 * the record has to be run through the engine. Undefined for a rule of which that cannot be told: one that looks for other records.
 *
 * Of a million records that are mostly right, a run for each would compute mostly reports that nobody reads.
 */
export function rightAtSight(
  compiled: CompiledRule,
  looking: LookingAt,
): ((stored: StoredRecord) => boolean) | undefined {
  const { finds, actions, guard, rule } = compiled;
  const lines = actions.flatMap((action) => action.lines);
  const isOwn =
    actions.length > 0 &&
    actions.every(({ kind, target, only }) => kind === 'write' && target === 'record' && only === undefined);
  const { turns = [] } = rule.trigger;
  if (
    finds.length > 0 ||
    turns.length > 0 ||
    !isOwn ||
    rule.becomesTrue ||
    !lines.every(isPlain) ||
    (guard && follows(guard))
  )
    return undefined;
  let base: Env | undefined;
  return (stored) => {
    const { ref, record } = stored;
    // All but the record and the id is the same for each.
    base ??= startedBy(compiled, stored, looking);
    if (!base) return false;
    const env: Env = {
      ...base,
      record,
      target: record,
      event: { ...base.event, id: `${looking.id}/${ref.id}` },
    };
    if (guard && guard.run(env) !== true) return false;
    return lines.every((line) => {
      const value = line.compiled.run(env);
      if (value instanceof FormulaError) return false;
      const { json } = line.encode(value);
      if (json === undefined) return false;
      const held = line.read(record);
      if (held === json) return true;
      if (isBlankJson(held) || isBlankJson(json)) return isBlankJson(held) && isBlankJson(json);
      return sameValue(line.definition, held, json);
    });
  };
}

/** Returns what formulas see of the event that a record is taken as; undefined where that does not start the rule. */
function startedBy(compiled: CompiledRule, stored: StoredRecord, looking: LookingAt): Env | undefined {
  const event = existingEvent(compiled, stored, looking);
  return select(compiled.rule.trigger, compiled.recordType, event).fires ? environment(event) : undefined;
}

const follows = ({ follows: references }: Formula): boolean => references.length > 0;

/** Whether a line needs nothing but the record: no reference is followed, none is given by a key, and no object is put together. */
function isPlain({ compiled, resolved, definition }: CompiledLine): boolean {
  return resolved === undefined && definition.type !== 'object' && !follows(compiled);
}
