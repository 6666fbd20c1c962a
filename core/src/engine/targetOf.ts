import type { RuleBody } from '../model/rule';
import type { Catalog, ReferredType } from '../model/system';

/** The record type that an action writes to: the trigger's own, or that of a find. */
export function targetOf(rule: RuleBody, target: string, catalog: Catalog): ReferredType | undefined {
  const place = target === 'record' ? rule.trigger : rule.finds.find(({ alias }) => alias === target);
  const type = place && catalog.recordType(place.system, place.recordType);
  return place && type && { system: place.system, type };
}
