import { readPath, isJsonObject, type Json, type JsonObject } from '../model/json';
import type { Deed } from '../model/expected';
import { refKey, type RecordRef } from '../model/record';
import { fieldsOf } from '../change/fields';
import { changeWithRealIds, withRealIds } from '../change/realIds';
import type { RecordChange } from '../change/recordChange';
import type { PlannedWrite, Report, RuleRef } from '../engine/report';

/** One record as an event leaves it: the change, what it was made to, and the fields that change. */
export interface RecordOutcome {
  /** `system/type/id`; a record that is created has no id yet and is `system/type/new 1`, counted in the order of the plan. */
  readonly key: string;
  /** Ids that stand for records yet to be created are their keys. */
  readonly change: RecordChange;
  readonly before: JsonObject;
  readonly fields: readonly { readonly path: string; readonly before: Json; readonly after: Json }[];
  readonly rules: readonly RuleRef[];
}

/** Returns what is done to a record, as files name it. */
export function deedOf(change: RecordChange): Deed {
  return change.kind === 'edit' ? 'write' : change.kind;
}

/** A message that is sent, with its data by dotted path. */
export interface MessageOutcome {
  readonly key: string;
  readonly endpoint: string;
  readonly type: string;
  readonly about: string;
  readonly data: Readonly<Record<string, Json>>;
  readonly rule: RuleRef;
}

/** What an event leaves behind, in a form that two replays can be compared by. */
export interface OutcomeOf {
  readonly records: readonly RecordOutcome[];
  readonly messages: readonly MessageOutcome[];
  /** What went wrong, a sentence each. */
  readonly problems: readonly string[];
}

/** Returns the outcome of a report; ids that stand for records yet to be created become names that every replay gives them again. */
export function outcomeOf(report: Pick<Report, 'writes' | 'messages' | 'problems' | 'rules'>): OutcomeOf {
  const names = namesOfNew(report.writes);
  const keyOf = (ref: RecordRef) => names.get(ref.id) ?? refKey(ref);
  const seen = new Map<string, number>();
  return {
    records: report.writes.map(({ change, before, rules }): RecordOutcome => {
      const shown = { ...changeWithRealIds(change, names), ref: change.ref };
      return {
        key: keyOf(change.ref),
        change: shown,
        before,
        fields: fieldsOf(shown).map(({ path, before: was, after }) => ({
          path,
          before: was ?? readPath(before, path) ?? null,
          after: after ?? null,
        })),
        rules,
      };
    }),
    messages: report.messages.map(({ endpoint, type, ref, data, rule }) => {
      const about = keyOf(ref);
      const name = `${endpoint} ${type} ${about}`;
      const count = (seen.get(name) ?? 0) + 1;
      seen.set(name, count);
      return {
        key: count === 1 ? name : `${name} ${count}`,
        endpoint,
        type,
        about,
        data: flat(withRealIds(data, names)),
        rule,
      };
    }),
    problems: [
      ...report.problems,
      ...report.rules
        .filter(({ verdict }) => verdict === 'failed')
        .map(({ ruleName, because }) => `${ruleName}: ${because}`),
    ],
  };
}

function namesOfNew(writes: readonly PlannedWrite[]): ReadonlyMap<string, string> {
  const counts = new Map<string, number>();
  const names = new Map<string, string>();
  for (const { change } of writes) {
    if (change.kind !== 'create') continue;
    const { ref } = change;
    const type = `${ref.system}/${ref.recordType}`;
    const count = (counts.get(type) ?? 0) + 1;
    counts.set(type, count);
    names.set(ref.id, `${type}/new ${count}`);
  }
  return names;
}

/** Returns the values inside objects by dotted path; lists stay whole. */
export function flat(json: Json, path = ''): Record<string, Json> {
  if (!isJsonObject(json)) return { [path]: json };
  return Object.assign(
    {},
    ...Object.entries(json).map(([name, part]) => flat(part ?? null, path === '' ? name : `${path}.${name}`)),
  ) as Record<string, Json>;
}
