import {
  compareRows,
  itemsOf,
  tablesReadBy,
  textOfItem,
  type BundleItem,
  type CarriedRule,
  type KeptRow,
  type LookupTable,
  type RowChange,
  type Sample,
} from '@vast-knot/core';
import { tell } from '../db/notices';
import type { Client } from '../db/pool';
import {
  insertRule,
  lastPlace,
  listRules,
  lockRules,
  removeRule,
  replaceDraft,
  runVersion,
  type RuleStanding,
} from '../rules/repository';
import {
  insertSample,
  lockSamples,
  noteWhoChanged,
  removeSample,
  replaceSample,
} from '../samples/repository';
import { queueLookAtTable } from '../tables/gaps';
import {
  insertTable,
  keepDefinition,
  lockTable,
  readTable,
  removeTable,
  writeChanges,
} from '../tables/repository';
import { countHeld } from '../waits/held';

/** How an item stands here, so that it can be compared, and put back. */
export interface Standing {
  /** Absent where it is not here, or was removed. */
  readonly item: BundleItem | undefined;
  readonly text: string | undefined;
  /** As JSON; null where nothing is to be put back. */
  readonly before: unknown;
  /** The version of the rule that runs, and whether it says what its draft says. */
  readonly published: number | null;
  readonly runsAsEdited: boolean;
}

const notHere: Standing = {
  item: undefined,
  text: undefined,
  before: null,
  published: null,
  runsAsEdited: false,
};

/** Returns how items stand here, by `kind key`, and keeps them from changing until the transaction ends. */
export async function standingOf(
  client: Client,
  items: readonly Pick<BundleItem, 'kind' | 'key'>[],
): Promise<(item: Pick<BundleItem, 'kind' | 'key'>) => Standing> {
  const keys = (kind: BundleItem['kind']) =>
    items.flatMap((item) => (item.kind === kind ? [item.key] : [])).sort();
  const found = new Map<string, Standing>();
  const keep = (item: BundleItem | undefined, before: unknown, run?: RuleStanding) => {
    const runs = { published: run?.published ?? null, runsAsEdited: run?.runsAsEdited ?? false };
    if (item) found.set(`${item.kind} ${item.key}`, { item, text: textOfItem(item), before, ...runs });
  };
  for (const [id, standing] of await lockRules(client, keys('rule'))) {
    const { draft, folder, removed } = standing;
    const [item] = itemsOf({
      tables: [],
      rules: [{ id, published: false, folder, rule: draft }],
      samples: [],
    });
    if (removed) found.set(`rule ${id}`, { ...notHere, before: standing });
    else keep(item, standing, standing);
  }
  for (const name of keys('table')) {
    await lockTable(client, name);
    const table = await readTable(client, name);
    if (!table) continue;
    const content = { ...table.definition, rows: table.rows.map(({ cells }) => cells) };
    const [item] = itemsOf({ tables: [content], rules: [], samples: [] });
    keep(item, content);
  }
  for (const sample of await lockSamples(client, keys('sample'))) {
    const [item] = itemsOf({ tables: [], rules: [], samples: [sample] });
    keep(item, sample);
  }
  return ({ kind, key }) => found.get(`${kind} ${key}`) ?? notHere;
}

/** Puts an item in the place of what stands here. */
export async function takeItem(
  client: Client,
  item: BundleItem,
  { before }: Pick<Standing, 'before'>,
  by: string,
): Promise<void> {
  switch (item.kind) {
    case 'table':
      if (before === null) await insertTable(client, item.content);
      else await replaceTable(client, item.content, { by, what: 'Import' });
      return;
    case 'rule':
      await takeRule(client, item.key, item.content, { isThere: before !== null, by });
      return;
    case 'sample':
      if (before === null) await insertSample(client, item.content);
      else await replaceSample(client, item.content);
      await noteSample(client, item.key, by);
  }
}

/** Says who changed a sample, and tells the pages that show it. */
async function noteSample(client: Client, id: string, by: string): Promise<void> {
  await noteWhoChanged(client, id, by);
  await tell(client, { kind: 'sample', id });
}

async function takeRule(
  client: Client,
  id: string,
  { folder, rule }: CarriedRule,
  { isThere, by }: { readonly isThere: boolean; readonly by: string },
): Promise<void> {
  if (!isThere)
    await insertRule(client, {
      id,
      position: await lastPlace(client),
      body: rule,
      published: false,
    });
  await replaceDraft(client, id, { body: rule, folder, by });
}

/** Gives a table other settings and rows; its history tells which rows. */
async function replaceTable(
  client: Client,
  { rows, ...definition }: LookupTable,
  { by, what }: { readonly by: string; readonly what: string },
): Promise<void> {
  const table = await readTable(client, definition.name);
  if (!table) return;
  const names = (columns: LookupTable['columns']) => columns.map(({ name }) => name).join('\n');
  const isSame = names(definition.columns) === names(table.definition.columns);
  const changes = isSame
    ? changesBetween(definition, table.rows, rows)
    : [
        ...table.rows.map(({ id, cells }): RowChange => ({ id, before: cells, after: null })),
        ...rows.map((cells): RowChange => ({ id: 0, before: null, after: cells })),
      ];
  await keepDefinition(client, definition);
  await writeChanges(client, definition.name, { by, what, changes });
  await queueLookAtTable(client, definition.name);
}

function changesBetween(
  definition: Omit<LookupTable, 'rows'>,
  kept: readonly KeptRow[],
  coming: LookupTable['rows'],
): readonly RowChange[] {
  const { added, changed, removed } = compareRows(definition, kept, coming);
  return [
    ...added.map((cells): RowChange => ({ id: 0, before: null, after: cells })),
    ...changed.map(({ row, after }): RowChange => ({ id: row.id, before: row.cells, after })),
    ...removed.map(({ id, cells }): RowChange => ({ id, before: cells, after: null })),
  ];
}

/** Whether a rule reads a table, as it runs or as it is edited. */
async function isRead(client: Client, table: string): Promise<boolean> {
  const rules = await listRules(client);
  return rules.some(({ draft, published }) =>
    [draft, ...(published ? [published.body] : [])].some((body) => tablesReadBy(body).has(table)),
  );
}

/**
 * Puts an item back as it stood before an import. Returns false, and changes nothing, where changes wait for the rule, or another rule reads the
 * table.
 */
export async function putBack(
  client: Client,
  { kind, key, before }: { readonly kind: string; readonly key: string; readonly before: unknown },
  by: string,
): Promise<boolean> {
  // What is kept with an import is what was read from here.
  switch (kind) {
    case 'table':
      if (before !== null)
        await replaceTable(client, before as LookupTable, { by, what: 'Import taken back' });
      // Rules that came with it went before it; others read it since.
      else if (await isRead(client, key)) return false;
      else await removeTable(client, key);
      return true;
    case 'rule': {
      const standing = before as RuleStanding | null;
      const goes = standing === null || standing.removed;
      if (goes && (await countHeld(client, key)) > 0) return false;
      if (standing) await replaceDraft(client, key, { body: standing.draft, folder: standing.folder, by });
      await runVersion(client, key, standing && !standing.removed ? standing.published : null);
      if (goes) await removeRule(client, key, by);
      return true;
    }
    case 'sample':
      if (before === null) await removeSample(client, key);
      else await replaceSample(client, before as Sample);
      await noteSample(client, key, by);
      return true;
    default:
      return false;
  }
}
