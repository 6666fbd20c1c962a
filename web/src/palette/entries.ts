import {
  sameRule,
  scalarText,
  type Field,
  type Right,
  type RuleView,
  type SampleSummary,
  type SystemView,
  type LookupTable,
  type TableSummary,
} from '@vast-knot/core';

/** The kinds of what can be found, in the order in which they stand. */
export const entryKinds = [
  'Commands',
  'Rules',
  'Tables',
  'Samples',
  'Systems',
  'Fields',
  'Rows of tables',
  'Places',
] as const;
export type EntryKind = (typeof entryKinds)[number];

/** Something that can be found, and where it leads. */
export interface Entry {
  readonly system?: string;
  readonly kind: EntryKind;
  readonly title: string;
  /** What stands beside it: where it belongs, or its code. */
  readonly more: string;
  readonly path: string;
}

/** An entry with what is searched of it, in small letters. */
export interface SearchedEntry extends Entry {
  readonly words: string;
}

interface EntriesFrom {
  readonly rules: readonly RuleView[];
  readonly systems: readonly SystemView[];
  readonly tables: readonly TableSummary[];
  /** Those whose rows are known. */
  readonly wholeTables: readonly LookupTable[];
  readonly samples: readonly SampleSummary[];
  readonly may: (right: Right) => boolean;
}

const places: readonly (readonly [title: string, path: string, more?: string])[] = [
  ['Today', '/today', 'how things stand'],
  ['Systems', '/systems', 'connections and fields'],
  ['Records', '/records', 'two systems side by side'],
  ['Tables', '/tables', 'lookup tables'],
  ['Rules', '/rules'],
  ['Removed rules', '/rules?state=removed'],
  ['Bench', '/bench', 'samples and what they expect'],
  ['Comparison over history', '/bench/history'],
  ['Runs', '/runs', 'what came in and what it did'],
  ['Arrivals', '/arrivals', 'files that came in, and what their rows would do'],
  ['Where files come from', '/arrivals/sources', 'addresses that are fetched, and folders that are watched'],
  ['Forms', '/arrivals/forms', 'pages that people outside answer, and their answers'],
  ['Failures by cause', '/failures'],
  ['Reconciles', '/reconcile', 'rules beside the records that exist'],
  ['Messages', '/messages'],
  ['Outside addresses', '/addresses'],
  ['Who is told', '/telling'],
  ['Where is this value?', '/values'],
  ['Reference', '/reference', 'functions, parts of a rule, findings, words'],
];

const commands: readonly (readonly [title: string, path: string, right: Right])[] = [
  ['New rule', '/rules/new', 'rules.edit'],
  ['New table', '/tables?new=yes', 'tables.change'],
  ['New sample', '/bench/new', 'samples.change'],
  ['Connect a system', '/systems/connect', 'systems.change'],
  ['People', '/people', 'people.read'],
  ['Roles', '/roles', 'people.read'],
  ['This environment', '/environment', 'environment.change'],
  ['What was done', '/audit', 'audit.read'],
];

/** Returns everything of ours that can be found. */
export function entriesOf(from: EntriesFrom): readonly SearchedEntry[] {
  const { rules, systems, tables, wholeTables, samples, may } = from;
  const nameOf = (key: string) => systems.find((system) => system.key === key)?.name ?? key;
  const entry = (
    kind: EntryKind,
    title: string,
    more: string,
    path: string,
    { system, words = '' }: { readonly system?: string; readonly words?: string } = {},
  ): SearchedEntry => ({
    kind,
    ...(system !== undefined && { system }),
    title,
    more,
    path,
    words: `${title}\n${more}\n${words}`.toLowerCase(),
  });
  return [
    ...commands
      .filter(([, , right]) => may(right))
      .map(([title, path]) => entry('Commands', title, '', path)),
    ...(may('rules.publish') ? rules.filter(isPublishable) : []).map(({ id, draft }) =>
      entry('Commands', `Publish “${draft.name}”`, '', `/rules/${id}?ask=publish`),
    ),
    ...rules.map(({ id, draft, folder }) =>
      entry('Rules', draft.name, folder, `/rules/${id}`, {
        system: draft.trigger.system,
        words: `${draft.note}\n${nameOf(draft.trigger.system)}`,
      }),
    ),
    ...tables.map(({ name, columns }) =>
      entry(
        'Tables',
        name,
        columns.map(({ label }) => label).join(', '),
        `/tables/${encodeURIComponent(name)}`,
      ),
    ),
    ...samples.map(({ id, name, note, ref }) =>
      entry('Samples', name, `${nameOf(ref.system)} ${ref.id}`, `/bench/${id}`, {
        system: ref.system,
        words: note,
      }),
    ),
    ...systems.map(({ key, name, tag }) =>
      entry('Systems', name, tag, `/systems/${key}`, { system: key, words: key }),
    ),
    ...systems.flatMap((system) =>
      system.recordTypes.flatMap(({ name, label, fields }) =>
        fieldsIn(fields).map((field) =>
          entry(
            'Fields',
            field.label,
            `${field.path} · ${label} in ${system.name}`,
            `/systems/${system.key}?type=${encodeURIComponent(name)}&field=${encodeURIComponent(field.path)}`,
            { system: system.key },
          ),
        ),
      ),
    ),
    ...wholeTables.flatMap(({ name, columns, rows }) => {
      const cells = (row: (typeof rows)[number], keys: boolean) =>
        columns.flatMap(({ key, label }, at) =>
          key === keys ? [keys ? scalarText(row[at]) : `${label} ${scalarText(row[at])}`] : [],
        );
      return rows.map((row) => {
        const [first = '', ...others] = cells(row, true);
        return entry(
          'Rows of tables',
          [first, ...others].join(', '),
          `${name}: ${cells(row, false).join(', ')}`,
          `/tables/${encodeURIComponent(name)}?search=${encodeURIComponent(first)}`,
        );
      });
    }),
    ...places.map(([title, path, more = '']) => entry('Places', title, more, path)),
  ];
}

const isPublishable = ({ draft, published }: RuleView): boolean =>
  published === null || !sameRule(published.body, draft);

function fieldsIn(fields: readonly Field[]): readonly { readonly path: string; readonly label: string }[] {
  return fields.flatMap(({ name, label, type, fields: inner = [] }) => [
    { path: name, label },
    ...(type === 'object'
      ? inner.map((each) => ({ path: `${name}.${each.name}`, label: `${label} › ${each.label}` }))
      : []),
  ]);
}

/** Of each kind so many are shown. */
const mostOfKind = 6;

/** How well an entry fits: the smaller the better; undefined where it does not. */
function fit({ title, words }: SearchedEntry, wanted: readonly string[]): number | undefined {
  if (!wanted.every((word) => words.includes(word))) return undefined;
  const name = title.toLowerCase();
  const whole = wanted.join(' ');
  if (name === whole) return 0;
  if (name.startsWith(whole)) return 1;
  if (wanted.every((word) => name.startsWith(word) || name.includes(` ${word}`))) return 2;
  return wanted.every((word) => name.includes(word)) ? 3 : 4;
}

/** Returns what fits a text, kind by kind, the best of each first. A blank text fits nothing. */
export function found(
  entries: readonly SearchedEntry[],
  text: string,
): readonly { readonly kind: EntryKind; readonly entries: readonly SearchedEntry[] }[] {
  const wanted = text
    .toLowerCase()
    .split(/\s+/)
    .filter((word) => word !== '');
  if (wanted.length === 0) return [];
  const fitting = new Map<EntryKind, { readonly entry: SearchedEntry; readonly rank: number }[]>();
  for (const entry of entries) {
    const rank = fit(entry, wanted);
    if (rank === undefined) continue;
    const known = fitting.get(entry.kind);
    if (known) known.push({ entry, rank });
    else fitting.set(entry.kind, [{ entry, rank }]);
  }
  return entryKinds.flatMap((kind) => {
    const of = fitting.get(kind);
    if (!of) return [];
    const best = of.sort((a, b) => a.rank - b.rank).slice(0, mostOfKind);
    return [{ kind, entries: best.map(({ entry }) => entry) }];
  });
}
