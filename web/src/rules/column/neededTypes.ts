import { compileRule, type Rule, type Surroundings } from '@vast-knot/core';

/** A record type of a system, as `system/type`. */
export type TypeKey = string;

/** Returns the record types whose records one line needs: the triggering one, those that are found, and those that it refers to. */
export function neededTypes(
  rule: Rule,
  action: number,
  field: string,
  surroundings: Surroundings,
): readonly TypeKey[] {
  const result = compileRule(rule, surroundings);
  const compiledParts = result.ok ? result.compiled : result.compiledParts;
  const line = compiledParts?.actions
    .find(({ at }) => at === action)
    ?.lines.find((each) => each.field === field);
  const { trigger, finds } = rule;
  const found = finds.map(({ system, recordType }) => `${system}/${recordType}`);
  const followed = (line?.compiled.follows ?? []).flatMap(({ step }) =>
    step.to.map(({ system, type }) => `${system}/${type.name}`),
  );
  const keyed = line?.resolved ? [`${line.resolved.system}/${line.resolved.type.name}`] : [];
  return [...new Set([`${trigger.system}/${trigger.recordType}`, ...found, ...followed, ...keyed])];
}
