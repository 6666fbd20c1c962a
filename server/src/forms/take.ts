import { answerOf, isBlankJson, scalarText, type AnswerProblem, type JsonObject } from '@vast-knot/core';
import { inTransaction, type Client, type Pool } from '../db/pool';
import type { ReceivedEvent } from '../inbox/inbox';
import { takeIn } from '../intake/takeAll';
import type { Registry } from '../registry/registry';
import { keepAnswer, lockAnswer, noteRead, type AnswerRead, type NewAnswer } from './answers';
import { formOf, type ReadyForm } from './types';

/** What became of an answer. */
export interface TakenAnswer {
  /** Its id; undefined where the same page was sent before. */
  readonly id: string | undefined;
  readonly problems: readonly AnswerProblem[];
}

/** Keeps an answer with all that it leads to: its event, or why it cannot be taken. In one transaction, so that no kill parts them. */
export async function takeAnswer(
  pool: Pool,
  registry: Registry,
  ready: ReadyForm,
  answer: Pick<NewAnswer, 'way' | 'by' | 'pass' | 'given'>,
): Promise<TakenAnswer> {
  return inTransaction(pool, async (client) => {
    const { system, recordType } = ready;
    const id = await keepAnswer(client, { system, recordType, ...answer });
    if (id === undefined) return { id, problems: [] };
    const cameAt = new Date();
    const read = readAnswer(ready, answer.given, cameAt);
    await noteRead(client, id, read, await begun(client, registry, ready, { id, cameAt }, read));
    return { id, problems: read.problems };
  });
}

/** What became of another try. */
export type AnswerAgain =
  | { readonly is: 'taken'; readonly problems: readonly AnswerProblem[] }
  /** It was taken before: its run is what can be tried again. */
  | { readonly is: 'taken before' }
  | { readonly is: 'gone' };

/** Reads an answer that could not be taken as the form is now, and takes it where it can be. */
export async function takeAgain(pool: Pool, registry: Registry, id: string): Promise<AnswerAgain> {
  return inTransaction(pool, async (client) => {
    const kept = await lockAnswer(client, id);
    if (!kept) return { is: 'gone' };
    if (kept.run !== null) return { is: 'taken before' };
    const ready = formOf(registry, kept);
    const read = readAnswer(ready, kept.given, kept.cameAt);
    await noteRead(client, id, read, await begun(client, registry, ready, kept, read));
    return { is: 'taken', problems: read.problems };
  });
}

function readAnswer({ compiled }: ReadyForm, given: JsonObject, cameAt: Date): AnswerRead {
  const { record, problems, leftOut } = answerOf(compiled, given, { time: cameAt.toISOString() });
  return { record: problems.length === 0 ? record : null, problems, leftOut };
}

/** Begins the run of an answer that can be taken. Returns its id. */
async function begun(
  client: Client,
  registry: Registry,
  { system, type }: ReadyForm,
  { id, cameAt }: { readonly id: string; readonly cameAt: Date },
  { record }: AnswerRead,
): Promise<string | null> {
  if (record === null) return null;
  const key = record[type.idField];
  const recordId = isBlankJson(key) ? id : scalarText(key).slice(0, 200);
  const event: ReceivedEvent = {
    id,
    source: `/forms/${system}/${type.name}`,
    kind: 'form answer',
    ref: { system, recordType: type.name, id: recordId },
    time: cameAt.toISOString(),
    record: { ...record, [type.idField]: recordId },
    claimed: [],
  };
  const [taken] = await takeIn(client, registry, [event]);
  return taken?.id ?? null;
}
