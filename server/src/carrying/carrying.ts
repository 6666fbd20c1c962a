import { randomUUID } from 'node:crypto';
import {
  canonicalText,
  draftFindings,
  endpointsOf,
  nameOfItem,
  systemsIn,
  type BundledSystem,
  type ImportAsked,
  type ImportPlan,
  type ImportUndone,
  type Rule,
  type SheetConnection,
  type SystemSlot,
} from '@vast-knot/core';
import type { Computer } from '../compute/computer';
import { newSigningSecret } from '../connector/signing';
import { inTransaction, type Client, type Pool } from '../db/pool';
import type { Seal } from '../db/seal';
import { draftOfSystem } from '../drafts/begin';
import { takeOut } from '../drafts/start';
import { insertEndpoint, removeEndpoint } from '../endpoints/repository';
import { HttpProblem } from '../http/problem';
import { readEnvironment } from '../people/environment';
import type { Registry } from '../registry/registry';
import { askToPublish, freezeDraft, listRules, revisionOf } from '../rules/repository';
import { addSystem, keepSecret, pauseSystem, readConnection } from '../systems/repository';
import { endImport, insertImport, lockImports, type ImportedItem } from './imports';
import { prepare, viewOfItem, type Prepared } from './prepare';
import { putBack, standingOf, takeItem, type Standing } from './standing';

/** What carrying works with. */
export interface CarryingParts {
  readonly pool: Pool;
  readonly seal: Seal;
  readonly computer: Pick<Computer, 'run'>;
  readonly registry: Registry;
}

/** Returns what an import would do here, computed beside what is here; nothing is changed. */
export async function planImport(asked: ImportAsked, parts: CarryingParts): Promise<ImportPlan> {
  return planned(asked, await readIn(asked, parts), parts);
}

/** Reads the files of an import, away from the thread that answers. Throws a 422 that names the file, the place and what is wrong there. */
async function readIn({ files }: ImportAsked, { computer, registry }: CarryingParts) {
  const read = await computer.run('bundle', { files }, registry);
  if (read.ok) return read;
  const detail = read.problems[0]?.message ?? 'It cannot be read.';
  throw new HttpProblem(422, 'Not a bundle', detail, read.problems);
}

async function planned(
  asked: ImportAsked,
  read: Pick<Prepared, 'bundle' | 'upgraded'>,
  { pool, computer, registry }: CarryingParts,
): Promise<ImportPlan> {
  const prepared = await inTransaction(pool, (client) => prepare(client, asked, read, registry));
  const coming = prepared.items.filter(({ state, taken }) => state === 'same' || taken === 'theirs');
  const rules = coming.flatMap(({ item }): Rule[] =>
    item.kind === 'rule' ? [{ ...item.content.rule, id: item.key, version: 0 }] : [],
  );
  const samples = coming.flatMap(({ item }) => (item.kind === 'sample' ? [item.content] : []));
  const known = (await listRules(pool)).map(({ id, draft }): Rule => ({ ...draft, id, version: 0 }));
  const fresh = newSystems(prepared);
  const found = await computer.run(
    'carried',
    {
      systems: fresh.map(({ system }) => system),
      addresses: prepared.bundle.addresses.map(({ key }) => key),
      tables: coming.flatMap(({ item }) => (item.kind === 'table' ? [item.content] : [])),
      rules,
      running: prepared.bundle.rules.flatMap(({ id, published }) => (published ? [id] : [])),
      known,
      samples,
    },
    registry,
  );
  const findings = rules.map(({ id, name }, at) => ({ rule: id, name, findings: found.findings[at] ?? [] }));
  const running = new Set(prepared.items.filter(({ runs }) => runs).map(({ item }) => item.key));
  return {
    upgraded: read.upgraded,
    slots: prepared.slots,
    items: prepared.items.map(viewOfItem),
    findings: findings.filter((each) => each.findings.length > 0),
    samples: samples.map(({ id, name }, at) => ({
      id,
      name,
      ...(found.samples[at] ?? { verdict: 'nothing expected', differences: [] }),
    })),
    problems: [
      ...prepared.problems,
      ...fresh.flatMap((each) => systemProblems(each, asked, registry)),
      ...found.broken.map(({ rule, because }) => `“${rule}”, which runs here, would run no more: ${because}`),
      ...findings.flatMap(({ rule, name, findings: all }) => {
        const error = running.has(rule) ? all.find(({ severity }) => severity === 'error') : undefined;
        return error ? [`“${name}” cannot run here: ${error.message}`] : [];
      }),
    ],
    stamp: prepared.stamp,
  };
}

const newSystems = ({ bundle, slots }: Prepared): readonly BundledSystem[] =>
  bundle.systems.filter(({ system }) =>
    slots.some((slot) => slot.kind === 'system' && slot.isNew && slot.to === system.key),
  );

function systemProblems(
  { system, connection = {} }: BundledSystem,
  asked: ImportAsked,
  { catalog }: Registry,
): readonly string[] {
  const baseUrl = addressOf(asked.systems[system.key]);
  if (baseUrl === '') return [];
  const full = { ...connection, baseUrl };
  const draft = draftOfSystem({ definition: system, connection: full as unknown as SheetConnection }, '');
  return draftFindings(draft, catalog.systems).map(
    ({ message }) => `“${system.name}” cannot be connected: ${message}`,
  );
}

const addressOf = (slot: SystemSlot | undefined) => (slot?.is === 'new' ? slot.baseUrl : '');

/**
 * Does an import as it was shown: all of it or nothing. Throws a 422 that says what is in its way, and a 412 where something that it rests on
 * is other by now. Returns its id, and the rules that wait for a second person to be published.
 */
export async function doImport(
  asked: ImportAsked & { readonly stamp: string },
  by: string,
  parts: CarryingParts,
): Promise<{ readonly id: string; readonly asked: readonly string[] }> {
  const read = await readIn(asked, parts);
  const plan = await planned(asked, read, parts);
  const moved = () =>
    new HttpProblem(
      412,
      'Changed in between',
      'Something here was changed since this was shown. Look at it again before you import it.',
    );
  if (plan.stamp !== asked.stamp) throw moved();
  const [first] = plan.problems;
  if (first !== undefined) {
    const errors = plan.problems.map((message) => ({ at: '', message }));
    throw new HttpProblem(422, 'Not imported', first, errors);
  }
  const { secondPerson } = await readEnvironment(parts.pool);
  return inTransaction(parts.pool, async (client) => {
    await lockImports(client);
    const prepared = await prepare(client, asked, read, parts.registry);
    if (prepared.stamp !== asked.stamp) throw moved();
    const items = [...(await takeSlots(client, prepared, asked, by, parts))];
    const files = asked.files.map(({ name }) => name);
    const note = `From another environment: ${files.join(', ')}`.slice(0, 500);
    const waiting: string[] = [];
    for (const { item, taken, runs, standing, text } of prepared.items) {
      const { kind, key } = item;
      let { published } = standing;
      if (taken === 'theirs') await takeItem(client, item, standing, by);
      if (runs) {
        const revision = await revisionOf(client, key);
        if (!secondPerson) published = (await freezeDraft(client, key, revision, { by, note })) ?? null;
        else if (await askToPublish(client, key, revision, { by, note })) waiting.push(nameOfItem(item));
      }
      const took = taken === 'theirs' || runs;
      items.push({
        kind,
        key,
        name: nameOfItem(item),
        took,
        before: standing.before,
        content: text,
        published,
      });
    }
    const id = randomUUID();
    await insertImport(client, { id, by, files, running: asked.running, items });
    return { id, asked: waiting };
  });
}

/** Makes the systems and addresses that are new. A system is paused: nothing is asked of it before somebody looked at its connection. */
async function takeSlots(
  client: Client,
  { bundle, slots }: Prepared,
  asked: ImportAsked,
  by: string,
  { seal }: CarryingParts,
): Promise<readonly ImportedItem[]> {
  const made: ImportedItem[] = [];
  const taken = (what: string) =>
    new HttpProblem(409, 'Not imported', `Somebody else made “${what}” meanwhile.`);
  for (const { key, name, kind, isNew } of slots) {
    if (!isNew) continue;
    if (kind === 'address') {
      const slot = asked.addresses[key];
      const url = slot?.is === 'new' ? slot.url : '';
      if (!(await insertEndpoint(client, seal, { key, name, url, secret: newSigningSecret(), by })))
        throw taken(name);
    } else {
      const slot = asked.systems[key];
      const found = bundle.systems.find(({ system }) => system.key === key);
      if (!found || slot?.is !== 'new') continue;
      const connection = readConnection({ ...found.connection, baseUrl: slot.baseUrl });
      if (!(await addSystem(client, { definition: found.system, connection }))) throw taken(name);
      await pauseSystem(client, key, true);
      if (slot.token !== undefined && slot.token !== '')
        await keepSecret(client, seal, { system: key, name: 'token', value: slot.token });
    }
    made.push({
      kind,
      key,
      name,
      took: true,
      before: null,
      content: canonicalText({ key }),
      published: null,
    });
  }
  return made;
}

/**
 * Takes an import back: what it took over goes back to how it stood before, where it still is as it came. What was changed since stays, and so
 * do systems that rules still name. Undefined where there is no such import, or it was taken back before.
 */
export async function undoImport(
  id: string,
  by: string,
  { pool, seal }: Pick<CarryingParts, 'pool' | 'seal'>,
): Promise<ImportUndone | undefined> {
  return inTransaction(pool, async (client) => {
    await lockImports(client);
    const items = await endImport(client, id, by);
    if (!items) return undefined;
    const keys = items.flatMap(({ kind, key }) =>
      kind === 'table' || kind === 'rule' || kind === 'sample' ? [{ kind, key }] : [],
    );
    const standing = await standingOf(client, keys);
    const stays: ImportedItem[] = [];
    for (const item of items) {
      const { kind, key } = item;
      const isBack =
        kind === 'system' || kind === 'address'
          ? await takeSlotBack(client, item, by, seal)
          : isAsItCame(standing({ kind, key }), item) && (await putBack(client, item, by));
      if (!isBack) stays.push(item);
    }
    return {
      back: items.length - stays.length,
      stays: stays.map(({ kind, key, name }) => ({ kind, key, name })),
    };
  });
}

/** Whether nobody changed a thing since it came: neither what it says nor, of a rule, which version runs. */
function isAsItCame({ text, published }: Standing, { content, published: since }: ImportedItem): boolean {
  return text === content && published === since;
}

async function takeSlotBack(
  client: Client,
  { kind, key }: ImportedItem,
  by: string,
  seal: Seal,
): Promise<boolean> {
  const rules = (await listRules(client)).flatMap(({ draft, published }) => [
    draft,
    ...(published ? [published.body] : []),
  ]);
  if (kind === 'system') {
    if (rules.some((rule) => systemsIn(rule).includes(key))) return false;
    return (await takeOut(client, seal, { key, by })) !== undefined;
  }
  if (rules.some(({ actions }) => endpointsOf(actions).includes(key))) return false;
  await removeEndpoint(client, key);
  return true;
}
