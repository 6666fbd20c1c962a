import {
  formulasOf,
  labelAt,
  linesIn,
  sameRule,
  type Finding,
  type RuleBody,
  type RuleDeeds,
  type RuleFindings,
  type RuleView,
  type SystemView,
} from '@vast-knot/core';

/** How a rule stands: whether it runs, and whether its draft is what runs. */
export type RuleState = 'runs' | 'differs' | 'draft' | 'paused';

/** A rule with all that the list shows of it. */
export interface ListedRule {
  readonly rule: RuleView;
  readonly state: RuleState;
  readonly errors: number;
  readonly warnings: number;
  readonly last: RuleDeeds['last'];
  readonly failed: number;
  /** Rules of one record type run in their order; of others the order does not matter. */
  readonly type: string;
  readonly typeName: string;
  /** Its place among the rules of its record type, from 1; absent where it is the only one. */
  readonly place?: { readonly at: number; readonly of: number };
  /** All that can be searched, in small letters. */
  readonly words: string;
}

interface ListedFrom {
  readonly rules: readonly RuleView[];
  readonly systems: readonly SystemView[];
  readonly findings: readonly RuleFindings[] | undefined;
  readonly deeds: readonly RuleDeeds[] | undefined;
}

/** Returns rules with what the list shows of them, in their order. */
export function listedRules({ rules, systems, findings, deeds }: ListedFrom): readonly ListedRule[] {
  const findingsOf = new Map(findings?.map((each) => [each.id, each.findings]));
  const deedsOf = new Map(deeds?.map((each) => [each.id, each]));
  const ofType = new Map<string, string[]>();
  for (const { id, draft } of rules) {
    const type = typeKey(draft);
    ofType.set(type, [...(ofType.get(type) ?? []), id]);
  }
  return rules.map((rule) => {
    const { id, draft, published, paused } = rule;
    const type = typeKey(draft);
    const siblings = ofType.get(type) ?? [];
    const found = findingsOf.get(id) ?? [];
    const number = (severity: Finding['severity']) =>
      found.filter((each) => each.severity === severity).length;
    return {
      rule,
      state: paused
        ? 'paused'
        : published === null
          ? 'draft'
          : sameRule(published.body, draft)
            ? 'runs'
            : 'differs',
      errors: number('error'),
      warnings: number('warning'),
      last: deedsOf.get(id)?.last ?? null,
      failed: deedsOf.get(id)?.failed ?? 0,
      type,
      typeName: typeName(draft, systems),
      ...(siblings.length > 1 && { place: { at: siblings.indexOf(id) + 1, of: siblings.length } }),
      words: wordsOf(rule, systems).toLowerCase(),
    };
  });
}

const typeKey = ({ trigger: { system, recordType } }: RuleBody): string => `${system}/${recordType}`;

function typeName({ trigger }: RuleBody, systems: readonly SystemView[]): string {
  const system = systems.find(({ key }) => key === trigger.system);
  const type = system?.recordTypes.find(({ name }) => name === trigger.recordType);
  return `${type?.label ?? trigger.recordType} in ${system?.name ?? trigger.system}`;
}

/** Returns everything that somebody may look for a rule by: names, notes, systems, record types, fields with their labels, formulas. */
function wordsOf({ draft, folder, published }: RuleView, systems: readonly SystemView[]): string {
  const about = (key: string, name: string, paths: readonly string[]): readonly string[] => {
    const system = systems.find((each) => each.key === key);
    const type = system?.recordTypes.find((each) => each.name === name);
    return [
      key,
      name,
      system?.name ?? '',
      system?.tag ?? '',
      type?.label ?? '',
      ...paths.flatMap((path) => [path, type ? labelAt(type.fields, path) : '']),
    ];
  };
  const { trigger, finds, actions } = draft;
  const targets = new Map(finds.map(({ alias, system, recordType }) => [alias, { system, recordType }]));
  return [
    draft.name,
    draft.note,
    folder,
    published?.note ?? '',
    ...about(trigger.system, trigger.recordType, trigger.watched),
    ...finds.flatMap(({ system, recordType, match }) =>
      about(
        system,
        recordType,
        match.map(({ field }) => field),
      ),
    ),
    ...actions.flatMap((action) => {
      const fields = linesIn(action).map(({ field }) => field);
      const target =
        'system' in action
          ? action
          : (('target' in action ? targets.get(action.target) : undefined) ?? trigger);
      return about(target.system, target.recordType, fields);
    }),
    ...formulasOf(draft).map(({ formula }) => formula),
  ].join('\n');
}

/** By what the list is narrowed, as it stands in the address; blank lets everything through. */
export interface RuleFilter {
  readonly search: string;
  readonly system: string;
  readonly type: string;
  readonly state: string;
  readonly findings: string;
  readonly who: string;
  readonly folder: string;
}

/** The folder of rules that are in none, as a filter. */
export const noFolder = '-';

/** Returns whether a filter lets a rule through. Every word of what is searched has to be somewhere in it. */
export function fits(
  { rule, state, errors, warnings, type, words }: ListedRule,
  filter: RuleFilter,
): boolean {
  const { draft, published, changedBy, folder } = rule;
  return (
    (filter.system === '' || draft.trigger.system === filter.system) &&
    (filter.type === '' || type === filter.type) &&
    (filter.state === '' || state === filter.state || (filter.state === 'running' && published !== null)) &&
    (filter.findings === '' ||
      (filter.findings === 'errors' && errors > 0) ||
      (filter.findings === 'warnings' && warnings > 0) ||
      (filter.findings === 'none' && errors + warnings === 0)) &&
    (filter.who === '' || changedBy === filter.who || published?.by === filter.who) &&
    (filter.folder === '' || folder === (filter.folder === noFolder ? '' : filter.folder)) &&
    filter.search
      .toLowerCase()
      .split(/\s+/)
      .every((word) => words.includes(word))
  );
}

/** By what rules can be sorted; without any they stand in the order in which they run. */
export const sortings = ['name', 'state', 'findings', 'last', 'failed', 'changed'] as const;
export type Sorting = (typeof sortings)[number];

/** What is more pressing comes first, and what is newer. */
const values: Readonly<Record<Sorting, (listed: ListedRule) => string | number>> = {
  name: ({ rule }) => rule.draft.name.toLocaleLowerCase(),
  state: ({ state }) => ['paused', 'differs', 'draft', 'runs'].indexOf(state),
  findings: ({ errors, warnings }) => -(errors * 1000 + warnings),
  last: ({ last }) => -(last ? Date.parse(last.at) : 0),
  failed: ({ failed }) => -failed,
  changed: ({ rule }) => -Date.parse(rule.changedAt),
};

/** Returns rules by what a column shows; those of which it shows the same stay in their order. */
export function sorted(
  listed: readonly ListedRule[],
  by: Sorting | undefined,
  turned: boolean,
): readonly ListedRule[] {
  if (by === undefined) return listed;
  const of = values[by];
  const compare = (a: string | number, b: string | number): number =>
    typeof a === 'string' && typeof b === 'string' ? a.localeCompare(b, 'en') : Number(a) - Number(b);
  return [...listed].sort((a, b) => compare(of(a), of(b)) * (turned ? -1 : 1));
}

export const groupings = ['folder', 'system', 'type'] as const;
export type Grouping = (typeof groupings)[number];

/** A line of the list: a rule, or what those below it have in common. */
export type ListLine =
  | { readonly kind: 'rule'; readonly listed: ListedRule }
  | { readonly kind: 'group'; readonly name: string; readonly count: number; readonly ordered: boolean };

/** Returns the lines of the list: rules under what they have in common, where that is wanted. */
export function listLines(
  listed: readonly ListedRule[],
  by: Grouping | undefined,
  systems: readonly SystemView[],
): readonly ListLine[] {
  const lines = (of: readonly ListedRule[]) => of.map((each): ListLine => ({ kind: 'rule', listed: each }));
  if (by === undefined) return lines(listed);
  const nameOf = ({ rule, typeName: name }: ListedRule): string => {
    if (by === 'folder') return rule.folder;
    if (by === 'type') return name;
    const { system } = rule.draft.trigger;
    return systems.find(({ key }) => key === system)?.name ?? system;
  };
  const groups = new Map<string, ListedRule[]>();
  for (const each of listed) groups.set(nameOf(each), [...(groups.get(nameOf(each)) ?? []), each]);
  return [...groups]
    .sort(([a], [b]) => Number(a === '') - Number(b === '') || a.localeCompare(b, 'en'))
    .flatMap(([name, of]): readonly ListLine[] => [
      {
        kind: 'group',
        name: name === '' ? 'In no folder' : name,
        count: of.length,
        ordered: by === 'type' && of.some(({ place }) => place !== undefined),
      },
      ...lines(of),
    ]);
}

/** Returns the ids of the rules of the record type of one of them, in the order in which they run. */
export function orderAround(listed: readonly ListedRule[], id: string): readonly string[] {
  const type = listed.find(({ rule }) => rule.id === id)?.type;
  return listed.filter((each) => each.type === type).map(({ rule }) => rule.id);
}

/** Returns the ids of the rules of one record type after one of them took another place, from 1; beyond the ends it takes the end. */
export function movedTo(listed: readonly ListedRule[], id: string, place: number): readonly string[] {
  const ids = orderAround(listed, id);
  const others = ids.filter((each) => each !== id);
  return others.toSpliced(Math.min(Math.max(place, 1), ids.length) - 1, 0, id);
}
