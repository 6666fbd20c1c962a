import { jsonDifferences, type Differences, type JsonChange } from '../change/jsonDifferences';
import type { RuleBody } from '../engine/rule';
import { keyText } from '../table/key';
import type { LookupTable } from '../table/table';
import { differencesOfRules } from '../versions';
import type { Sample } from '../model/sample';
import type { BundledRule, WholeBundle } from './bundle';
import { canonicalText } from './canonical';

/** What a bundle brings that an environment keeps as its own: whole, by a key that is the same everywhere. */
export type BundleItem =
  | { readonly kind: 'table'; readonly key: string; readonly content: LookupTable }
  | { readonly kind: 'rule'; readonly key: string; readonly content: CarriedRule }
  | { readonly kind: 'sample'; readonly key: string; readonly content: Sample };

export type BundleItemKind = BundleItem['kind'];

/** A rule without whether it runs: that each environment decides. */
export interface CarriedRule {
  readonly folder: string;
  readonly rule: RuleBody;
}

/**
 * What became of an item since it was last the same in both environments: it is new here, the same, or was changed there, here, or in both.
 * Where it is not known how it last was in both, one that differs counts as changed in both.
 */
export type ItemState = 'new' | 'same' | 'changed there' | 'changed here' | 'changed in both';

/** Returns the tables, rules and samples of a bundle, in this order, in which each needs none after it. */
export function itemsOf({
  tables,
  rules,
  samples,
}: Pick<WholeBundle, 'tables' | 'rules' | 'samples'>): readonly BundleItem[] {
  return [
    ...tables.map((table): BundleItem => ({ kind: 'table', key: table.name, content: plainTable(table) })),
    ...rules.map((rule): BundleItem => ({ kind: 'rule', key: rule.id, content: carried(rule) })),
    ...samples.map((sample): BundleItem => ({
      kind: 'sample',
      key: sample.id,
      content: plainSample(sample),
    })),
  ];
}

/** Returns a table with nothing but its content, its rows in the order of their keys: in which they were typed makes no difference. */
export function plainTable({
  name,
  columns,
  rows,
  matching,
  onMiss,
  defaultRow,
  validity,
}: LookupTable): LookupTable {
  const ordered = rows.map((row) => ({ row, at: `${keyText({ columns }, row)}\n${JSON.stringify(row)}` }));
  return {
    name,
    columns,
    rows: ordered.sort((a, b) => (a.at < b.at ? -1 : 1)).map(({ row }) => row),
    matching,
    onMiss,
    ...(defaultRow && { defaultRow }),
    ...(validity && { validity }),
  };
}

/** Returns a sample with nothing that says nothing. */
export function plainSample({ tags, ...sample }: Sample): Sample {
  return { ...sample, ...(tags && tags.length > 0 && { tags }) };
}

const carried = ({ folder = '', rule }: Pick<BundledRule, 'folder' | 'rule'>): CarriedRule => ({
  folder,
  rule,
});

/** Returns how a person calls an item. */
export function nameOfItem(item: BundleItem): string {
  return item.kind === 'rule' ? item.content.rule.name : item.content.name;
}

/** Returns what an item holds as text, the same for the same content. */
export function textOfItem({ content }: Pick<BundleItem, 'content'>): string {
  return canonicalText(content);
}

/** Returns what became of an item, by the texts of how it is here, how it comes, and how it last was in both; undefined where there is none. */
export function stateOfItem(here: string | undefined, there: string, base: string | undefined): ItemState {
  if (here === there) return 'same';
  if (base === undefined) return here === undefined ? 'new' : 'changed in both';
  if (here === base) return 'changed there';
  return there === base ? 'changed here' : 'changed in both';
}

/** Returns what an item says otherwise than the one that is here, in the words of a person where there are some. */
export function differencesOfItems(here: BundleItem | undefined, there: BundleItem): Differences {
  if (!here) return { changes: [], more: 0 };
  if (here.kind === 'rule' && there.kind === 'rule') {
    const changes = differencesOfRules(here.content.rule, there.content.rule).map(
      ({ of, field, what, before, after }): JsonChange => ({
        at: [of, field, what].filter((word) => word !== undefined).join(', '),
        ...(before !== undefined && { before }),
        ...(after !== undefined && { after }),
      }),
    );
    const folder =
      here.content.folder === there.content.folder
        ? []
        : [{ at: 'folder', before: here.content.folder, after: there.content.folder }];
    return { changes: [...changes, ...folder], more: 0 };
  }
  if (here.kind === 'table' && there.kind === 'table')
    return inWords(jsonDifferences(byRow(here.content), byRow(there.content)));
  return inWords(jsonDifferences(here.content, there.content));
}

/** The places of differences as people read them: `rows, Skarvøy, zone`. */
function inWords({ changes, more }: Differences): Differences {
  const words = (pointer: string) =>
    pointer
      .slice(1)
      .split('/')
      .map((name) => name.replaceAll('~1', '/').replaceAll('~0', '~'))
      .join(', ');
  return { changes: changes.map((change) => ({ ...change, at: words(change.at) })), more };
}

/** The rows of a table by their keys, so that one more does not move all after it; a key with several times of validity is counted. */
function byRow({ rows, ...settings }: LookupTable): object {
  const seen = new Map<string, number>();
  const named = rows.map((row) => {
    const key = keyText(settings, row);
    const count = (seen.get(key) ?? 0) + 1;
    seen.set(key, count);
    const cells = settings.columns.map(({ name }, at) => [name, row[at]]);
    return [count === 1 ? key : `${key} (${count})`, Object.fromEntries(cells)];
  });
  return { ...settings, rows: Object.fromEntries(named) };
}
