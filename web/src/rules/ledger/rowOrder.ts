import type { LeafField } from '@vast-knot/core';

export const sorts = ['made', 'schema', 'name'] as const;
export type Sort = (typeof sorts)[number];
export const groupings = ['none', 'state', 'type'] as const;
export type Grouping = (typeof groupings)[number];

/** Where a target field stands in the work on a ledger. */
type FieldState = 'made' | 'required' | 'open' | 'read-only';

export function stateOf({ path, field }: LeafField, made: ReadonlySet<string>): FieldState {
  if (made.has(path)) return 'made';
  return field.readOnly ? 'read-only' : field.required ? 'required' : 'open';
}

const states: readonly FieldState[] = ['made', 'required', 'open', 'read-only'];
const stateWords: Readonly<Record<FieldState, string>> = {
  made: 'With a formula',
  required: 'Required, without a formula',
  open: 'Without a formula',
  'read-only': 'Read-only in its system',
};

/** Target fields in the order that was asked for; `made` puts those with a formula first, then required ones. */
export function sortLeaves(
  leaves: readonly LeafField[],
  sort: Sort,
  made: ReadonlySet<string>,
): readonly LeafField[] {
  if (sort === 'schema') return leaves;
  const rank = (leaf: LeafField) => states.indexOf(stateOf(leaf, made));
  return [...leaves].sort((a, b) =>
    sort === 'name' ? a.label.localeCompare(b.label, 'en') : rank(a) - rank(b),
  );
}

interface LeafGroup {
  readonly title: string;
  readonly leaves: readonly LeafField[];
}

/** Sorted fields under titles; one group without a title where none were asked for. */
export function groupLeaves(
  leaves: readonly LeafField[],
  grouping: Grouping,
  made: ReadonlySet<string>,
): readonly LeafGroup[] {
  if (grouping === 'none') return [{ title: '', leaves }];
  const titleOf = (leaf: LeafField) =>
    grouping === 'state' ? stateWords[stateOf(leaf, made)] : leaf.field.type;
  const groups = new Map<string, LeafField[]>();
  if (grouping === 'state') for (const state of states) groups.set(stateWords[state], []);
  for (const leaf of leaves) {
    const title = titleOf(leaf);
    const known = groups.get(title);
    if (known) known.push(leaf);
    else groups.set(title, [leaf]);
  }
  return [...groups].flatMap(([title, inside]) => (inside.length > 0 ? [{ title, leaves: inside }] : []));
}
