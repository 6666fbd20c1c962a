import {
  bundleProblemText,
  connectionDraftSchema,
  decoded,
  parseJson,
  readBundles,
  refreshed,
  type ConnectionDraft,
  type DraftBeginning,
  type HttpConnection,
  type System,
} from '@vast-knot/core';
import { connectionFrom } from '../connector/connection';
import { inTransaction, type Pool } from '../db/pool';
import type { Seal } from '../db/seal';
import { HttpProblem, notFound } from '../http/problem';
import { readSystems } from '../systems/repository';
import { draftOf, draftOfDatabase, draftOfSystem, emptyDraft, identityFor } from './begin';
import {
  givenText,
  learnFromDocument,
  learnFromRecords,
  learnTables,
  learnTypes,
  type LearningParts,
} from './learning';
import { insertDraft } from './repository';

/** What drafts are begun with. */
export interface BeginningParts extends LearningParts {
  readonly pool: Pool;
  readonly seal: Seal;
}

type NewDraft = Parameters<typeof insertDraft>[2];

/** Begins a draft in one of several ways. Returns its id. Throws a 422 that says why it could not be begun. */
export async function beginDraft(
  beginning: DraftBeginning,
  by: string,
  parts: BeginningParts,
): Promise<string> {
  const begun = await newDraft(beginning, by, parts);
  return inTransaction(parts.pool, (client) => insertDraft(client, parts.seal, begun));
}

async function newDraft(beginning: DraftBeginning, by: string, parts: BeginningParts): Promise<NewDraft> {
  const others = (await parts.registry.get()).catalog.systems;
  switch (beginning.from) {
    case 'hand':
      return { draft: emptyDraft(beginning.name, others), system: null, by };
    case 'system':
      return fromSystem(beginning, by, parts);
    case 'database':
      return fromDatabase(beginning, by, parts);
    case 'bundle':
      return { draft: fromBundle(beginning.text, others), system: null, by };
    case 'openapi':
    case 'schema': {
      const given = await givenText(beginning, parts);
      const proposal = await learnFromDocument({ from: beginning.from, ...given }, parts);
      const isAddress = given.address !== '';
      const draft = draftOf(proposal, {
        others,
        origin: `Learnt from ${isAddress ? given.address : 'a document that was given'}.`,
        fallbackName: isAddress ? new URL(given.address).hostname : 'New system',
        ...(beginning.from === 'openapi' && isAddress && { address: given.address }),
      });
      return { draft, system: null, by };
    }
    case 'records':
      return fromRecords(beginning, by, parts);
  }
}

async function fromSystem(
  { system, refresh }: Extract<DraftBeginning, { from: 'system' }>,
  by: string,
  parts: BeginningParts,
): Promise<NewDraft> {
  const [kept] = await readSystems(parts.pool, parts.seal, [system]);
  if (!kept) throw notFound(`system ${system}`);
  const { connection, definition } = kept;
  if (connection.kind === 'inlet')
    throw new HttpProblem(422, 'Not valid', `${definition.name} only tells, and is not reached.`);
  const connector = refresh ? (await parts.registry.get()).connectors.get(system) : undefined;
  const recordTypes = connector
    ? refreshed(definition.recordTypes, await learnTypes(connector, parts))
    : definition.recordTypes;
  const draft = draftOfSystem(
    { definition: { ...definition, recordTypes }, connection },
    `Changes ${definition.name}.`,
  );
  return { draft, system, by };
}

/** Returns the draft of the system that a bundle holds. Throws a 422 that says why there is none. */
function fromBundle(text: string, others: readonly System[]): ConnectionDraft {
  const refused = (because: string) =>
    new HttpProblem(422, 'Not read', because, [{ at: 'text', message: because }]);
  let json: unknown;
  try {
    json = parseJson(text);
  } catch {
    throw refused('It is no JSON.');
  }
  const read = readBundles([{ file: 'The bundle', json }]);
  if (!read.ok) throw refused(read.problems.slice(0, 3).map(bundleProblemText).join(' '));
  const { systems } = read.bundle;
  const [first, second] = systems;
  if (!first?.connection) throw refused('It holds no system with how it is reached.');
  if (second)
    throw refused(
      `It holds ${systems.length} systems (${systems.map(({ system }) => system.name).join(', ')}): one at a time becomes a draft.`,
    );
  const { recordTypes, ...identity } = first.system;
  const isTaken = others.some(({ key, tag }) => key === identity.key || tag === identity.tag);
  const { json: current } = connectionFrom({ ...first.connection, baseUrl: '' });
  const draft = draftOfSystem(
    {
      definition: { ...identity, ...(isTaken && identityFor(identity.name, others)), recordTypes },
      connection: current as unknown as ConnectionDraft['connection'],
    },
    `From a bundle: ${first.system.name}.`,
  );
  const checked = connectionDraftSchema.validate(draft);
  if (checked.error) throw refused(`${checked.error.message}.`);
  return checked.value;
}

async function fromDatabase(
  { secret, ...rest }: Extract<DraftBeginning, { from: 'database' }>,
  by: string,
  parts: BeginningParts,
): Promise<NewDraft> {
  const { address: baseUrl, user, protection } = rest;
  const given = { baseUrl, user, protection };
  const tables = await learnTables(given, secret, parts);
  const draft = draftOfDatabase(tables, given, (await parts.registry.get()).catalog.systems);
  return { draft, system: null, by, secrets: { token: secret } };
}

async function fromRecords(
  beginning: Extract<DraftBeginning, { from: 'records' }>,
  by: string,
  parts: BeginningParts,
): Promise<NewDraft> {
  const { header = '', secret = '' } = beginning;
  const isBearer = header === '' || header.toLowerCase() === 'authorization';
  const [signIn, headers]: [HttpConnection['signIn'], Record<string, string>] =
    secret === ''
      ? [{ kind: 'none' }, {}]
      : isBearer
        ? [{ kind: 'bearer' }, { authorization: `Bearer ${secret}` }]
        : [{ kind: 'header', header, value: '{token}' }, { [header]: secret }];
  const given = await givenText(beginning, parts, headers);
  const url = given.address === '' ? undefined : new URL(given.address);
  // The last step is the collection, what stands before it the address of the system.
  const steps = url?.pathname.split('/').filter((step) => step !== '') ?? [];
  const last = steps.at(-1) ?? 'records';
  const proposal = await learnFromRecords(
    {
      from: 'records',
      text: given.text,
      name: beginning.name ?? (decoded(last) ?? last).replace(/\.json$/, ''),
      path: url && `/${last}`,
      headers: given.headers,
    },
    parts,
  );
  const above = steps.slice(0, -1).map((step) => `/${step}`);
  const draft = draftOf(
    { ...proposal, baseUrl: url && url.origin + above.join(''), signIn },
    {
      others: (await parts.registry.get()).catalog.systems,
      origin: `Learnt from records${url ? ` at ${given.address}` : ' that were given'}.`,
      fallbackName: url?.hostname ?? 'New system',
    },
  );
  return { draft, system: null, by, ...(secret !== '' && { secrets: { token: secret } }) };
}
