import { printJson } from '../model/jsonText';

/** What people call the members of a rule. A member that is not here is called as it is. */
const members: Readonly<Record<string, string>> = {
  name: 'name',
  note: 'note',
  order: 'order',
  system: 'system',
  recordType: 'record type',
  kinds: 'what happened',
  watched: 'watched fields',
  turns: 'only these changes',
  wait: 'seconds to wait for more changes',
  inputs: 'asks for',
  schedule: 'schedule',
  once: 'once for all records',
  at: 'time of day',
  zone: 'zone',
  days: 'days of the week',
  guard: 'condition',
  becomesTrue: 'only when it becomes true',
  match: 'matches',
  where: 'only those for which',
  none: 'when none is found',
  several: 'when several are found',
  counterpart: 'remembered as counterpart',
  descending: 'the last one first',
  formula: 'formula',
  policy: 'when it is written',
  reference: 'record by its key',
  only: 'only for records for which',
  target: 'record',
  alias: 'called',
  of: 'record that is copied',
  endpoint: 'address',
  type: 'type',
  parts: 'message',
  format: 'kind of file',
  to: 'goes to',
  folder: 'folder',
  replace: 'takes the place of one that is called the same',
  columns: 'column',
  steps: 'step',
  rule: 'rule that is done',
  list: 'for each of',
  review: 'reviewed before it is written',
  onError: 'what happens then',
  field: 'field',
  as: 'compared as',
  is: 'compared by',
};

/** Returns what people call a member by its path: the members that have a word, and names as they are. */
export function sayMember(path: readonly string[]): string {
  return path.map((part) => members[part] ?? part).join(', ');
}

/** Returns a value of a rule as people read it. */
export function sayValue(value: unknown): string {
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  return typeof value === 'string' ? value : printJson(value);
}
