import { createHash } from 'node:crypto';
import {
  differencesOfItems,
  itemsOf,
  nameOfItem,
  ownSystem,
  rebound,
  schemaChanges,
  stateOfItem,
  textOfItem,
  type BundleItem,
  type ImportAsked,
  type ImportItemView,
  type ItemState,
  type SlotView,
  type Taken,
  type Upgraded,
  type WholeBundle,
} from '@vast-knot/core';
import type { Client } from '../db/pool';
import type { Registry } from '../registry/registry';
import { lastInBoth } from './imports';
import { standingOf, type Standing } from './standing';

/** One thing that comes, beside what is here, and what is done with it. */
export interface PreparedItem {
  readonly item: BundleItem;
  readonly text: string;
  readonly standing: Standing;
  readonly state: ItemState;
  readonly taken: Taken | null;
  /** Its draft is put in force. */
  readonly runs: boolean;
}

/** An import before it is done: everything in the names of this environment. */
export interface Prepared {
  readonly bundle: WholeBundle;
  readonly upgraded: readonly Upgraded[];
  readonly slots: readonly SlotView[];
  readonly items: readonly PreparedItem[];
  /** Why it cannot be done, as far as that is seen without computing. */
  readonly problems: readonly string[];
  /** The same as long as what it rests on is. */
  readonly stamp: string;
}

/** Holds what comes beside what is here, and says what is done with each thing. */
export async function prepare(
  client: Client,
  asked: ImportAsked,
  { bundle: given, upgraded }: Pick<Prepared, 'bundle' | 'upgraded'>,
  registry: Registry,
): Promise<Prepared> {
  const slots = slotsOf(given, asked, registry);
  const bound = (kind: SlotView['kind']) =>
    Object.fromEntries(
      slots.flatMap((slot) => (slot.kind === kind && slot.to !== null ? [[slot.key, slot.to]] : [])),
    );
  const bundle = rebound(given, { systems: bound('system'), addresses: bound('address') });
  const coming = itemsOf(bundle);
  const [standing, bases] = [await standingOf(client, coming), await lastInBoth(client, coming)];
  const runsThere = new Set(bundle.rules.flatMap(({ id, published }) => (published ? [id] : [])));
  const items = coming.map((item): PreparedItem => {
    const text = textOfItem(item);
    const here = standing(item);
    const name = `${item.kind} ${item.key}`;
    const base = lastKnown(asked.known[name], here.text, text) ?? bases.get(name);
    const state = stateOfItem(here.text, text, base);
    const taken = state === 'same' ? 'ours' : (asked.take[name] ?? usual[state]);
    const wants = taken === 'theirs' || (state === 'same' && !here.runsAsEdited);
    const runs = asked.running && item.kind === 'rule' && runsThere.has(item.key) && wants;
    return { item, text, standing: here, state, taken, runs };
  });
  const hash = createHash('sha256');
  for (const { item, standing: here, text } of items)
    hash.update(JSON.stringify([item.kind, item.key, here.text, here.published, text]));
  return {
    bundle,
    upgraded,
    slots,
    items,
    problems: [
      ...slots.filter(({ to }) => to === null).map(unbound),
      ...slots.filter(({ isNew }) => isNew).flatMap((slot) => newProblems(slot, asked, registry)),
      ...undecided(items.filter(({ taken }) => taken === null)),
    ],
    stamp: hash.update(JSON.stringify(slots)).digest('hex'),
  };
}

/** Returns which of two texts has a hash that somebody noted when both environments had it; undefined where neither has. */
function lastKnown(hash: string | undefined, here: string | undefined, there: string): string | undefined {
  if (hash === undefined) return undefined;
  return [here, there].find(
    (text) => text !== undefined && createHash('sha256').update(text).digest('hex') === hash,
  );
}

/** What is done with an item where nobody said anything else. */
const usual: Readonly<Record<Exclude<ItemState, 'same'>, Taken | null>> = {
  new: 'theirs',
  'changed there': 'theirs',
  'changed here': 'ours',
  'changed in both': null,
};

function undecided(items: readonly PreparedItem[]): readonly string[] {
  const [first, ...others] = items;
  if (!first) return [];
  const which = others.length === 0 ? `“${nameOfItem(first.item)}”` : `${items.length} things`;
  return [`Say which of the two is to stand for ${which}.`];
}

function unbound({ kind, name }: SlotView): string {
  return kind === 'system'
    ? `Say which system here stands for “${name}”.`
    : `Say which outside address here stands for “${name}”.`;
}

function newProblems(
  { kind, key, name }: SlotView,
  asked: ImportAsked,
  registry: Registry,
): readonly string[] {
  const isThere =
    kind === 'system' ? registry.catalog.system(key) !== undefined : registry.endpoints.has(key);
  const problems = isThere
    ? [`“${key}” is here already: let it stand for “${name}”, or take it out before.`]
    : [];
  const slot = kind === 'system' ? asked.systems[key] : asked.addresses[key];
  const address = slot?.is !== 'new' ? '' : 'url' in slot ? slot.url : slot.baseUrl;
  return address === '' ? [...problems, `Say at which address “${name}” is reached.`] : problems;
}

function slotsOf(
  { systems, addresses }: WholeBundle,
  asked: ImportAsked,
  { catalog, endpoints }: Registry,
): readonly SlotView[] {
  const here = catalog.systems.filter(({ key }) => key !== ownSystem);
  return [
    ...systems.map(({ system: { key, name, recordTypes } }): SlotView => {
      const said = Object.hasOwn(asked.systems, key) ? asked.systems[key] : undefined;
      const alike = here.find((each) => each.key === key) ?? here.find((each) => each.name === name);
      const to = said?.is === 'new' ? key : (said?.to ?? alike?.key ?? null);
      const found = said?.is === 'new' ? undefined : here.find((each) => each.key === to);
      const schema = found
        ? schemaChanges(recordTypes, found.recordTypes).filter(({ what }) => what !== 'came')
        : [];
      const isNew = said?.is === 'new';
      return { kind: 'system', key, name, to: found || isNew ? to : null, isNew, schema };
    }),
    ...addresses.map(({ key, name }): SlotView => {
      const said = Object.hasOwn(asked.addresses, key) ? asked.addresses[key] : undefined;
      const isNew = said?.is === 'new';
      const to = said?.is === 'bound' ? said.to : key;
      return { kind: 'address', key, name, to: isNew || endpoints.has(to) ? to : null, isNew, schema: [] };
    }),
  ];
}

/** Returns an item as people are shown it. */
export function viewOfItem({ item, standing, state, taken, runs }: PreparedItem): ImportItemView {
  const { changes, more } =
    state === 'same' ? { changes: [], more: 0 } : differencesOfItems(standing.item, item);
  return {
    kind: item.kind,
    key: item.key,
    name: nameOfItem(item),
    state,
    taken,
    changes,
    more,
    ...(item.kind === 'rule' && { runs: runs || standing.published !== null }),
  };
}
