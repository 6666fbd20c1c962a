import {
  databaseConnectionSchema,
  emptyDatabase,
  proposeFromCatalogue,
  WorkspaceError,
  type DatabaseProposal,
  type LearntType,
  type Proposal,
} from '@vast-knot/core';
import { BeyondLimits, type Computer } from '../compute/computer';
import type { LearnAsked, Learnt } from '../compute/learn';
import type { Connector, SelfDescription } from '../connector/connector';
import { fetchText, type FetchParts } from '../connector/http/fetchText';
import { HttpProblem } from '../http/problem';
import type { RegistrySource } from '../registry/registry';
import type { DatabaseGiven } from './begin';
import { triedConnector } from './triedConnector';

/** What is learnt with: threads that compute, and the way to outside addresses. */
export interface LearningParts {
  readonly computer: Computer;
  readonly registry: RegistrySource;
  readonly outside: FetchParts;
}

/** Documents that one refers to are fetched, so many and so often. */
const mostElsewhere = 40;
const mostRounds = 6;

/** A text, and where it was read; blank for what was given. */
export interface GivenText {
  readonly text: string;
  readonly address: string;
  readonly headers: Readonly<Record<string, string>>;
}

/** Returns the text that was given, or that is found at the address that was given. Throws a 422 that says why there is none. */
export async function givenText(
  { text, address = '' }: { readonly text?: string; readonly address?: string },
  { outside }: LearningParts,
  headers: Readonly<Record<string, string>> = {},
): Promise<GivenText> {
  if (text !== undefined) return { text, address: '', headers: {} };
  const fetched = await fetchText(address, { ...outside, headers });
  if (!fetched.ok)
    throw new HttpProblem(422, 'Not read', fetched.because, [{ at: 'address', message: fetched.because }]);
  return fetched;
}

/** Learns from records. Throws a 422 that says why nothing was learnt. */
export async function learnFromRecords(
  asked: Extract<LearnAsked, { from: 'records' }>,
  parts: LearningParts,
): Promise<Proposal> {
  const learnt = await learnOnce(asked, parts);
  if (learnt.is === 'learnt') return learnt.proposal;
  throw notLearnt(learnt.is === 'nothing' ? learnt.because : 'Nothing was learnt.');
}

/** Learns from a document and all that it refers to elsewhere. Throws a 422 that says why nothing was learnt. */
export async function learnFromDocument(
  { from, text, address }: { readonly from: 'openapi' | 'schema' } & Pick<GivenText, 'text' | 'address'>,
  parts: LearningParts,
): Promise<Proposal> {
  const elsewhere: Record<string, string> = {};
  for (let round = 0; round < mostRounds; round++) {
    const learnt = await learnOnce({ from, text, address, elsewhere }, parts);
    if (learnt.is === 'learnt') return learnt.proposal;
    if (learnt.is === 'nothing') throw notLearnt(learnt.because);
    for (const wanted of learnt.addresses) {
      if (Object.keys(elsewhere).length >= mostElsewhere)
        throw notLearnt(`It refers to more than ${mostElsewhere} other documents.`);
      if (address === '')
        throw notLearnt(
          'It refers to other documents beside it, which cannot be found for one that is pasted: give its address.',
        );
      const fetched = await fetchText(wanted, parts.outside);
      if (!fetched.ok) throw notLearnt(`It refers to ${wanted}. ${fetched.because}`);
      elsewhere[wanted] = fetched.text;
    }
  }
  throw notLearnt('It refers to documents that refer to others, more deeply than is followed.');
}

/**
 * Returns what a system says of the record types of its connection by now, by the paths of their lists; of those of which its document says
 * nothing, nothing. Throws a WorkspaceError where it does not describe itself, and a 422 where nothing can be learnt from that.
 */
export async function learnTypes(connector: Connector, parts: LearningParts): Promise<readonly LearntType[]> {
  const said = await connector.document();
  if (said.kind === 'catalogue') return learnFromTables(said);
  const { text, address, recordTypes } = said;
  const { types } = await learnFromDocument({ from: 'openapi', text, address }, parts);
  const known = Object.entries(recordTypes);
  const learnt = known.flatMap(([name, { path }]) => {
    const found = types.find(({ style }) => style?.path === path);
    return found ? [{ name, fields: found.said ?? found.type.fields }] : [];
  });
  const [first] = known;
  if (learnt.length === 0)
    throw notLearnt(
      `Its document says nothing about one ${first?.[0] ?? 'record'} below ${first?.[1].path ?? '/'}.`,
    );
  return learnt;
}

/** Learns from the catalogue of a database. Throws a 422 that says why it could not be read, or that there is nothing in it. */
export async function learnTables(
  given: DatabaseGiven,
  secret: string,
  { outside: { dispatcher, allowedOutbound } }: LearningParts,
): Promise<DatabaseProposal> {
  const wrong = databaseConnectionSchema.validate({ ...emptyDatabase, ...given }).error;
  if (wrong) throw notLearnt(`${wrong.message}.`);
  const connector = triedConnector(
    { ...emptyDatabase, ...given },
    { key: 'draft', tag: 'DB', name: 'The database', hue: 0, recordTypes: [] },
    { dispatcher, allowedOutbound, token: secret },
  );
  try {
    const said = await connector.document();
    const proposal = proposeFromCatalogue(said.kind === 'catalogue' ? said.tables : []);
    if (proposal.types.length > 0) return proposal;
    const [first] = proposal.leftOut;
    throw notLearnt(
      first === undefined
        ? `${given.user} may read no table and no view in it.`
        : `None of its tables can be a record type. ${first}`,
    );
  } catch (thrown) {
    if (!(thrown instanceof WorkspaceError)) throw thrown;
    throw notLearnt(thrown.problem.message);
  }
}

/** Returns the record types of those tables of a database that are known. */
function learnFromTables({
  tables,
  recordTypes,
}: Extract<SelfDescription, { kind: 'catalogue' }>): readonly LearntType[] {
  const { types } = proposeFromCatalogue(tables);
  const learnt = Object.entries(recordTypes).flatMap(([name, { schema, table }]) => {
    const found = types.find(({ style }) => style.schema === schema && style.table === table);
    return found ? [{ name, fields: found.type.fields }] : [];
  });
  if (learnt.length === 0)
    throw notLearnt('Its catalogue has none of its tables any more, or shows none of them.');
  return learnt;
}

async function learnOnce(asked: LearnAsked, { computer, registry }: LearningParts): Promise<Learnt> {
  try {
    return await computer.run('learn', asked, await registry.get());
  } catch (thrown) {
    if (!(thrown instanceof BeyondLimits)) throw thrown;
    throw notLearnt(`It is too much to be read at once. ${thrown.message}`);
  }
}

const notLearnt = (because: string) =>
  new HttpProblem(422, 'Not learnt', because, [{ at: 'text', message: because }]);
