import Joi from 'joi';
import {
  documentSchema,
  type ChangeEvent,
  type RunDetail,
  type RunPage,
  type RunTimes,
} from '@vast-knot/core';
import { tell } from '../db/notices';
import { inTransaction } from '../db/pool';
import { HttpProblem, notFound, parsed } from '../http/problem';
import { queueRecords } from '../inbox/lanes';
import { doneSoFar } from '../runs/plan';
import type { Registry, RegistrySource } from '../registry/registry';
import { readOutcome, readProgress } from '../runs/outcome';
import { listRuns, readRun, type RunDetailRow, type RunFilter, type RunRow } from '../runs/list';
import { timesOfRuns } from '../runs/times';
import { askToStop, readPayload, retryRuns } from '../runs/repository';
import { runAgain, type EditedPayload } from '../runs/runAgain';
import { verifyRun } from '../runs/verifyRun';
import { instant, runId } from './params';
import { computed } from './computed';
import { get, personOf, post, type Handle, type Route } from './route';

const pageSize = 100;

/** What a list of runs may be narrowed by. */
export const runFilterMembers = {
  before: Joi.string().pattern(/^\d{1,18}$/),
  state: Joi.valid('waiting', 'done', 'failed', 'malformed', 'refused'),
  result: Joi.valid('wrote', 'nothing', 'own write', 'late', 'dropped', 'partly failed', 'failed'),
  system: Joi.string().max(80),
  rule: Joi.string().guid(),
  own: Joi.valid('shown', 'hidden'),
  kind: Joi.string().max(40),
  record: Joi.string().custom((text: string) => {
    const [system, recordType, ...id] = text.split('/');
    if (!system || !recordType || id.length === 0) throw new Error('is system/type/id');
    return { system, recordType, id: id.join('/') };
  }),
  field: Joi.string().max(200),
  from: instant,
  to: instant,
  search: Joi.string().allow('').max(200),
};
const runFilter = Joi.object<RunFilter>(runFilterMembers);

/** Runs with the name of each record, as its type says which field that is. */
async function named<T extends RunRow>(rows: readonly T[], registry: RegistrySource) {
  const { catalog } = await registry.get();
  return rows.map(({ record, ...row }) => {
    const type = row.ref && catalog.recordType(row.ref.system, row.ref.recordType);
    const name = type ? record?.[type.nameField] : undefined;
    return { ...row, recordName: typeof name === 'string' ? name : row.recordName };
  });
}

const list: Handle<'/runs'> = async (request, response, { pool, registry }) => {
  const rows = await listRuns(pool, parsed(runFilter, request.query), pageSize + 1);
  const runs = await named(rows.slice(0, pageSize), registry);
  const next = rows.length > pageSize ? (runs.at(-1)?.id ?? null) : null;
  response.json({ runs, next } satisfies RunPage);
};

const times: Handle<'/runs/times'> = async (request, response, { pool }) => {
  response.json((await timesOfRuns(pool, parsed(runFilter, request.query))) satisfies RunTimes);
};

const read: Handle<'/runs/:id'> = async (request, response, { pool, registry }) => {
  const row = await readRun(pool, runId(request.params.id));
  if (!row) throw notFound('such run');
  const [run] = await named<RunDetailRow>([row], registry);
  if (!run) throw notFound('such run');
  const progress = run.state === 'waiting' ? await readProgress(pool, run.id) : null;
  response.json({ ...run, outcome: await readOutcome(pool, run.id), progress } satisfies RunDetail);
};

const verify: Handle<'/runs/:id/verify'> = async (request, response, { pool, registry }) => {
  response.json(await verifyRun(pool, await registry.get(), runId(request.params.id)));
};

const retry: Handle<'/runs/:id/retry'> = async (request, response, { pool }) => {
  const id = runId(request.params.id);
  await inTransaction(pool, async (client) => {
    const refs = [...(await retryRuns(client, [id])).values()];
    if (refs.length === 0) {
      throw new HttpProblem(
        409,
        'Nothing to try again',
        'Only a run that failed or waits can be tried again.',
      );
    }
    await queueRecords(client, refs);
    await tell(client, { kind: 'run', id, state: 'waiting', result: null });
  });
  response.status(202).json({});
};

/** What a run would still write if it were tried again now: with the record as it is, and without what is there already. */
const left: Handle<'/runs/:id/left'> = async (request, response, parts) => {
  const { pool, registry } = parts;
  const id = runId(request.params.id);
  const current = await registry.get();
  const run = await readPayload(pool, id);
  if (!run) throw notFound('such run with a payload');
  const { ref } = run.event;
  const store = current.connectors.get(ref.system)?.records;
  const now = store ? await store.get(ref.recordType, ref.id) : undefined;
  if (store && !now) throw notFound(`${ref.recordType} ${ref.id} any more`);
  const event = now ? { ...run.event, record: now.record } : run.event;
  response.json(await computed(parts, 'left', { event, done: await doneSoFar(pool, id) }, current));
};

const againBody = Joi.object<{ edited?: EditedPayload }>({
  edited: Joi.object<EditedPayload>({ record: documentSchema.required(), before: documentSchema }),
});

const again: Handle<'/runs/:id/again'> = async (request, response, { pool, registry }) => {
  const id = runId(request.params.id);
  const { edited } = parsed(againBody, request.body ?? {});
  const current = await registry.get();
  if (edited) refuseOtherRecord(edited, (await readPayload(pool, id))?.event, current);
  const runs = await runAgain(pool, current, id, { by: personOf(request), edited });
  if (!runs) throw notFound('such run with a payload');
  if (runs.length === 0) {
    throw new HttpProblem(409, 'Nothing to run', 'None of the rules that this payload started is published.');
  }
  response.status(202).json({ runs });
};

/** A payload of another record is no edited one: its writes would go elsewhere. */
function refuseOtherRecord(
  { record, before }: EditedPayload,
  event: ChangeEvent | undefined,
  { catalog }: Registry,
): void {
  const idField = event && catalog.recordType(event.ref.system, event.ref.recordType)?.idField;
  if (!event || idField === undefined) return;
  for (const [at, part] of [
    ['record', record],
    ['before', before],
  ] as const) {
    const id = part?.[idField];
    if (id === undefined || id === event.record[idField]) continue;
    const message = `The payload is about ${event.ref.recordType} ${event.ref.id}; its “${idField}” cannot be another.`;
    throw new HttpProblem(422, 'Not valid', message, [{ at: `edited.${at}.${idField}`, message }]);
  }
}

const stop: Handle<'/runs/:id/stop'> = async (request, response, { pool }) => {
  const ref = await askToStop(pool, runId(request.params.id), personOf(request));
  if (!ref)
    throw new HttpProblem(409, 'Nothing to stop', 'Only a run that is at work or waits can be stopped.');
  // One that waits for its next try ends at once; one at work ends after the writes that are on their way.
  await queueRecords(pool, [ref]);
  response.status(202).json({});
};

/** Runs: everything that came in, what it did, and why. */
export const runRoutes: readonly Route[] = [
  get('/runs', 'runs.read', list, { query: runFilter }),
  get('/runs/times', 'runs.read', times, { query: runFilter }),
  get('/runs/:id', 'runs.read', read),
  get('/runs/:id/left', 'runs.read', left),
  get('/runs/:id/verify', 'runs.read', verify),
  post('/runs/:id/retry', 'runs.retry', retry),
  post('/runs/:id/again', 'runs.retry', again, { body: againBody }),
  post('/runs/:id/stop', 'runs.stop', stop),
];
