import { fieldsOf } from '../change/fields';
import type { PlannedMessage, PlannedWrite, Report, RuleVerdict } from '../engine/report';
import { refKey } from '../model/record';
import type { Json } from '../model/json';

/** What a rule comes to for a record that exists. */
export const standings = ['right', 'changes', 'cannot', 'guard', 'none'] as const;
export type ExistingStanding =
  /** Every field holds its value already. */
  | 'right'
  /** Something would be written. */
  | 'changes'
  /** It cannot be computed; nothing would be written. */
  | 'cannot'
  /** The guard does not hold, or the rule does not start. */
  | 'guard'
  /** The rule reaches no record. */
  | 'none';

/** One thing that would be other than it is. */
export interface ExistingDifference {
  /** The record that is written, as `system/type/id`; the address of a message. */
  readonly key: string;
  readonly deed: 'edit' | 'create' | 'remove' | 'message';
  /** The field, dotted; blank where it is about the whole record. */
  readonly path: string;
  readonly before: Json;
  readonly after: Json;
}

/** How a record that exists stands beside a rule. */
export interface Judged {
  readonly standing: ExistingStanding;
  /** Why, as a sentence; blank where everything is right. */
  readonly because: string;
  readonly differences: readonly ExistingDifference[];
}

const byVerdict: Readonly<Record<RuleVerdict, ExistingStanding>> = {
  'not this kind': 'guard',
  'not watched': 'guard',
  waits: 'none',
  guard: 'guard',
  'nothing found': 'none',
  'nothing to write': 'right',
  writes: 'changes',
  failed: 'cannot',
};

/** Returns how the record of a report stands beside its rule. What a rule fails at beside what it writes is told as the reason. */
export function judge({ rules, writes, messages, problems, event }: Report): Judged {
  const differences = [...writes.flatMap(differencesOf), ...messages.map(messageOf)];
  const own = rules.find(({ ruleId, depth }) => depth === 0 && ruleId === event.rule);
  const failed = rules.find(({ verdict }) => verdict === 'failed');
  const because = problems[0] ?? failed?.because ?? own?.because ?? '';
  const wrong = problems.length > 0 || failed !== undefined;
  if (differences.length > 0) return { standing: 'changes', because: wrong ? because : '', differences };
  const standing = wrong ? 'cannot' : byVerdict[own?.verdict ?? 'nothing found'];
  // What was written and taken back within the computation leaves nothing.
  if (standing === 'changes' || standing === 'right') return { standing: 'right', because: '', differences };
  return { standing, because, differences };
}

/** Returns what a write would make other than it is. */
export function differencesOf({ change }: Pick<PlannedWrite, 'change'>): readonly ExistingDifference[] {
  const key = refKey(change.ref);
  const deed = change.kind;
  if (deed === 'remove') return [{ key, deed, path: '', before: change.record, after: null }];
  return fieldsOf(change).map(({ path, before, after }) => ({
    key,
    deed,
    path,
    before: before ?? null,
    after: after ?? null,
  }));
}

/** Returns a message that would be sent as a difference; of a file, whose rows are many, how many it would have. */
export function messageOf({ endpoint, type, data, way }: PlannedMessage): ExistingDifference {
  const { rows, ...rest } = data;
  const after = way === undefined ? data : { ...rest, rows: Array.isArray(rows) ? rows.length : 0 };
  return { key: endpoint, deed: 'message', path: type, before: null, after };
}

/** Returns whether two looks at a record came to the same. */
export function sameJudged(one: Judged, other: Judged): boolean {
  return one.standing === other.standing && textOf(one.differences) === textOf(other.differences);
}

function textOf(differences: readonly ExistingDifference[]): string {
  return JSON.stringify(
    differences
      .map(({ key, deed, path, before, after }) =>
        JSON.stringify([key, deed, path, canonical(before), canonical(after)]),
      )
      .sort(),
  );
}

/** Members of an object in one order, in whichever they are kept. */
function canonical(json: Json): string {
  return JSON.stringify(json, (_name, part: unknown) =>
    typeof part === 'object' && part !== null && !Array.isArray(part)
      ? Object.fromEntries(Object.entries(part).sort(([x], [y]) => (x < y ? -1 : 1)))
      : part,
  );
}
