import { kindOf, targetName, type Action } from '../engine/actions';
import type { RuleBody } from '../engine/rule';
import { sayMember, sayValue } from './words';

/** One thing that a rule says: which part says it, what it is about, and its value in words. */
interface Statement {
  /** The part, the same in every version: `trigger`, `find p`, `write record 1`. */
  readonly part: string;
  /** The member of the part: `kinds`, `phone formula`. */
  readonly member: string;
  /** What people call the part. */
  readonly of: string;
  /** The fields that it is about, by their API names; absent where it is about the part itself. */
  readonly field?: string;
  readonly what: string;
  readonly value: string;
  /** The names of a list in their order. */
  readonly isOrder: boolean;
}

/** One thing that two versions of a rule say differently. `before` is absent where it was added, `after` where it is gone. */
export interface RuleDifference {
  /** The part that it belongs to, in words: “when it runs”, “find of p”, “write to b”. Differences of one part stand together. */
  readonly of: string;
  /** The API name of the target field, for a mapping line. */
  readonly field?: string;
  /** What is different: “formula”, “when none is found”. */
  readonly what: string;
  readonly before?: string;
  readonly after?: string;
}

/**
 * Returns what two versions of a rule say differently, in the order in which a rule is read: trigger, guard, finds, actions line by line.
 * Nothing where they say the same. An order is named only where nothing was added to it or taken out.
 */
export function differencesOfRules(before: RuleBody, after: RuleBody): readonly RuleDifference[] {
  const was = statementsOf(before);
  const is = statementsOf(after);
  const keyOf = ({ part, member }: Statement) => `${part}\n${member}`;
  const earlier = new Map(was.map((statement) => [keyOf(statement), statement]));
  const later = new Map(is.map((statement) => [keyOf(statement), statement]));
  // Those that are gone stand where their part stands now, and otherwise at the end.
  const parts = [...new Set([...is, ...was].map(({ part }) => part))];
  const all = [...is, ...was.filter((statement) => !later.has(keyOf(statement)))];
  return parts.flatMap((part) =>
    all
      .filter((statement) => statement.part === part)
      .flatMap((statement): readonly RuleDifference[] => {
        const [from, to] = [earlier.get(keyOf(statement))?.value, later.get(keyOf(statement))?.value];
        if (from === to || (statement.isOrder && !sameMembers(from, to))) return [];
        const { of, what, field } = statement;
        return [
          {
            of,
            what,
            ...(field !== undefined && { field }),
            ...(from !== undefined && { before: from }),
            ...(to !== undefined && { after: to }),
          },
        ];
      }),
  );
}

const between = ', then ';

function sameMembers(before: string | undefined, after: string | undefined): boolean {
  if (before === undefined || after === undefined) return false;
  const sorted = (text: string) => text.split(between).sort().join(between);
  return sorted(before) === sorted(after);
}

function statementsOf(body: RuleBody): readonly Statement[] {
  const { trigger, finds, actions, name, note, guard, becomesTrue, onError } = body;
  const finding = finds.map(({ alias, ...find }) => ({
    part: `find ${alias}`,
    of: `find of ${alias}`,
    members: find,
  }));
  const acting = numbered(actions, partOfAction).map(({ key, each: { kind: _kind, ...members }, each }) => ({
    part: key,
    of: ofAction(each),
    members,
  }));
  const parts = [
    { part: 'rule', of: 'the rule', members: { name, note } },
    { part: 'trigger', of: 'when it runs', members: trigger },
    { part: 'guard', of: 'only if', members: { guard, becomesTrue } },
    ...finding,
    ...acting,
    { part: 'errors', of: 'when something fails', members: { onError } },
  ];
  const said = parts.flatMap(({ part, of, members }) =>
    flat(members, []).map(({ path, value, field, isOrder }) => ({
      part,
      of,
      member: path.join(' '),
      ...(field !== undefined && { field }),
      what: sayMember(field === undefined ? path : path.slice(2)),
      value,
      isOrder,
    })),
  );
  const orders = [
    { part: 'finds', of: 'finds', names: finding },
    { part: 'actions', of: 'what it does', names: acting },
  ].flatMap(({ part, of, names }) =>
    orderOf(names.map((each) => each.of)).map(({ value }) => ({
      part,
      of,
      member: '',
      what: sayMember(['order']),
      value,
      isOrder: true,
    })),
  );
  return [...said, ...orders];
}

const partOfAction = (action: Action): string => `${action.kind} ${targetName(action)}`;

/** Returns what people call an action: what it offers to do, and the record it is about. */
function ofAction(action: Action): string {
  const about = kindOf(action).target(action).is === 'none' ? '' : ` (${targetName(action)})`;
  return `${kindOf(action).offer.toLowerCase()}${about}`;
}

interface Leaf {
  readonly path: readonly string[];
  readonly value: string;
  readonly field?: string;
  readonly isOrder: boolean;
}

/** Returns the order of a list, where it has one. */
function orderOf(names: readonly string[], path: readonly string[] = []): readonly Leaf[] {
  return names.length > 1 ? [{ path: [...path, 'order'], value: names.join(between), isOrder: true }] : [];
}

/** Returns the members of a part, however deep they stand, each with its path. What is blank says nothing. */
function flat(value: unknown, path: readonly string[], field?: string): readonly Leaf[] {
  if (value === undefined || value === null || value === '') return [];
  const leaf = (text: string): Leaf[] => [
    { path, value: text, ...(field !== undefined && { field }), isOrder: false },
  ];
  if (Array.isArray(value)) {
    const items: readonly unknown[] = value;
    if (items.length === 0) return [];
    if (!items.every(isMember)) return leaf(items.map(sayValue).join(', '));
    // Lines are told by their fields: that is what people look for.
    const areLines = path.length === 1 && path[0] === 'lines';
    const elements = numbered(items, nameOf);
    return [
      ...elements.flatMap(({ key, each, name }) =>
        flat(each, [...path, key], areLines ? name : field).filter(
          ({ path: deep }) => !areLines || deep.length > 3 || deep[2] !== 'field',
        ),
      ),
      ...orderOf(
        elements.map(({ key }) => key),
        path,
      ),
    ];
  }
  if (isMember(value))
    return Object.entries(value).flatMap(([name, part]) => flat(part, [...path, name], field));
  return leaf(sayValue(value));
}

const isMember = (value: unknown): value is object =>
  typeof value === 'object' && value !== null && !Array.isArray(value);

/** By what an element of a list is known among the others; its kind where it has no name. */
const namedBy = ['field', 'name', 'alias', 'do', 'pattern'];

function nameOf(each: object): string {
  const members = new Map<string, unknown>(Object.entries(each));
  for (const member of namedBy) {
    const name = members.get(member);
    if (typeof name === 'string') return name;
  }
  return '';
}

/** Returns elements with keys of their own: their names, with a number where one name stands twice. */
function numbered<T>(
  items: readonly T[],
  name: (item: T) => string,
): readonly { readonly key: string; readonly name: string; readonly each: T }[] {
  const seen = new Map<string, number>();
  return items.map((each) => {
    const called = name(each);
    const at = (seen.get(called) ?? 0) + 1;
    seen.set(called, at);
    return { key: at === 1 && called !== '' ? called : `${called} ${at}`.trim(), name: called, each };
  });
}
