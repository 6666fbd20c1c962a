import type { Find } from '../model/find';
import type { Trigger } from '../model/trigger';
import { leafFields, type Catalog, type RecordType } from '../model/system';
import { printPath } from '../formula/print';

/** A way from the triggering record to others, by a reference of either side. */
export interface Relation {
  /** `points to`: the record that a field of the trigger points to. `pointed from`: those whose field points to the trigger. */
  readonly kind: 'points to' | 'pointed from';
  readonly system: string;
  readonly type: RecordType;
  /** The dotted path of the reference, on the side that has it. */
  readonly path: string;
  readonly label: string;
}

/** Returns all relations of the record type that starts a rule: first what it points to, then what points to it. */
export function relationsOf({ system, recordType }: Trigger, catalog: Catalog): readonly Relation[] {
  const own = catalog.recordType(system, recordType);
  if (!own) return [];
  const out = leafFields(own.fields).flatMap(({ path, label, field }) =>
    catalog.referred(field).map((referred): Relation => ({ kind: 'points to', ...referred, path, label })),
  );
  const back = (catalog.system(system)?.recordTypes ?? []).flatMap((type) =>
    leafFields(type.fields)
      .filter(({ field }) => field.type === 'reference' && (field.refersTo ?? []).includes(recordType))
      .map(({ path, label }): Relation => ({ kind: 'pointed from', system, type, path, label })),
  );
  return [...out, ...back];
}

/** Returns the match conditions by which a find follows a relation. */
export function conditionsOf(relation: Relation, own: RecordType): Find['match'] {
  return relation.kind === 'points to'
    ? [{ field: relation.type.idField, is: 'equal', formula: printPath(relation.path.split('.')) }]
    : [{ field: relation.path, is: 'equal', formula: printPath([own.idField]) }];
}

/** Returns the relation that a find follows, if its conditions say just that. */
export function relationIn(find: Find, trigger: Trigger, catalog: Catalog): Relation | undefined {
  const own = catalog.recordType(trigger.system, trigger.recordType);
  const [only, ...others] = find.match;
  if (!own || !only || others.length > 0 || (only.as ?? '').trim() !== '' || only.is !== 'equal')
    return undefined;
  return relationsOf(trigger, catalog).find((relation) => {
    if (relation.system !== find.system || relation.type.name !== find.recordType) return false;
    const [wanted] = conditionsOf(relation, own);
    return wanted?.field === only.field && wanted.formula === only.formula.trim();
  });
}
