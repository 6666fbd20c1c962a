import Joi from 'joi';
import { v7 as uuid } from 'uuid';
import {
  changeEventSchema,
  expectedSchema,
  maskRecords,
  maskSample,
  newSampleSchema,
  storedRecordSchema,
  type Rule,
  type Sample,
  type SampleChange,
  type StoredRecord,
  type System,
} from '@vast-knot/core';
import { tell } from '../db/notices';
import { inTransaction, type Runner } from '../db/pool';
import { notFound, parsed } from '../http/problem';
import {
  changeSample,
  insertSample,
  listSamples,
  readSamples,
  removeSample,
  replaceSample,
} from '../samples/repository';
import { listRules } from '../rules/repository';
import { metKept } from '../runs/repository';
import { listening, nextEvent } from '../samples/listen';
import { takeFromRun } from '../samples/takeFromRun';
import { computed } from './computed';
import { uuidOf } from './params';
import { get, patch, post, remove, type AppParts, type Handle, type Route } from './route';

const taking = Joi.object<{ run: string; name: string; masked?: true }>({
  run: Joi.string()
    .pattern(/^\d{1,18}$/)
    .required(),
  name: Joi.string().max(120).required(),
  masked: Joi.valid(true),
});

const change = Joi.object<SampleChange>({
  name: Joi.string().trim().min(1).max(120),
  note: Joi.string().allow('').max(2000),
  tags: Joi.array().items(Joi.string().trim().min(1).max(40)).unique().max(20),
  expected: expectedSchema.allow(null),
  records: Joi.array().items(storedRecordSchema).max(10_000),
  masked: Joi.valid(true),
}).min(1);

async function systemsOf({ registry }: AppParts): Promise<readonly System[]> {
  return (await registry.get()).catalog.systems;
}

const list: Handle<'/samples'> = async (_request, response, { pool }) => {
  response.json(await listSamples(pool));
};

const whole: Handle<'/samples/whole'> = async (_request, response, { pool }) => {
  response.json(await readSamples(pool));
};

/** The run of the first event of a kind that came in after another one; without one, where the inbox stands now. */
const heard: Handle<'/samples/heard'> = async (request, response, { pool }) => {
  response.json(await nextEvent(pool, parsed(listening, request.query)));
};

const read: Handle<'/samples/:id'> = async (request, response, { pool }) => {
  const [sample] = await readSamples(pool, uuidOf(request.params.id, 'sample'));
  if (!sample) throw notFound('such sample');
  response.json(sample);
};

const create: Handle<'/samples'> = async (request, response, parts) => {
  const id = uuid();
  await insertSample(parts.pool, { id, ...(await sampleFrom(request.body, parts)) });
  await tell(parts.pool, { kind: 'sample', id });
  response.status(201).json({ id });
};

/** Returns a sample as it is given, or what is taken from a run. */
async function sampleFrom(body: unknown, parts: AppParts): Promise<Omit<Sample, 'id'>> {
  if (typeof body !== 'object' || body === null || !('run' in body)) return parsed(newSampleSchema, body);
  const { run, name, masked } = parsed(taking, body);
  const taken = await takeFromRun(parts.pool, run);
  if (!taken) throw notFound('such run');
  const sample = { name, note: `Taken from run ${run}.`, ...taken };
  return masked ? maskSample(sample, await systemsOf(parts)) : sample;
}

const meet: Handle<'/samples/meet'> = async (request, response, { pool, registry, computer }) => {
  const event = parsed(changeEventSchema, request.body);
  const current = await registry.get();
  if (!current.catalog.recordType(event.ref.system, event.ref.recordType))
    throw notFound(`record type ${event.ref.recordType} in ${event.ref.system}`);
  const rules = (await listRules(pool)).map(({ id, draft }): Rule => ({ ...draft, id, version: 0 }));
  response.json(await computed({ computer }, 'meet', { event, rules, most: metKept }, current));
};

const edit: Handle<'/samples/:id'> = async (request, response, parts) => {
  const id = uuidOf(request.params.id, 'sample');
  const { records, masked, ...said } = parsed(change, request.body);
  const known = await systemsOf(parts);
  await inTransaction(parts.pool, async (client) => {
    if (!(await changeSample(client, id, said))) throw notFound('such sample');
    if (records || masked) await changeContents(client, id, known, { records, masked });
    await tell(client, { kind: 'sample', id });
  });
  response.status(204).end();
};

const removeOne: Handle<'/samples/:id'> = async (request, response, { pool }) => {
  const id = uuidOf(request.params.id, 'sample');
  if (!(await removeSample(pool, id))) throw notFound('such sample');
  await tell(pool, { kind: 'sample', id });
  response.status(204).end();
};

/** Takes other records into a sample, or masks it. What a masked sample takes is masked, whoever sends it. */
async function changeContents(
  client: Runner,
  id: string,
  systems: readonly System[],
  {
    records,
    masked,
  }: { readonly records: readonly StoredRecord[] | undefined; readonly masked: true | undefined },
): Promise<void> {
  const [sample] = await readSamples(client, id);
  if (!sample) return;
  const taken = records && sample.masked ? maskRecords(records, sample, systems) : records;
  const changed = { ...sample, ...(taken && { records: taken }) };
  await replaceSample(client, masked ? maskSample(changed, systems) : changed);
}

/** Samples: kept events with the records they met, and what is expected of them. */
export const sampleRoutes: readonly Route[] = [
  get('/samples', 'samples.read', list),
  get('/samples/whole', 'samples.read', whole),
  get('/samples/heard', 'runs.read', heard),
  get('/samples/:id', 'samples.read', read),
  post('/samples', 'samples.change', create),
  post('/samples/meet', 'records.read', meet),
  patch('/samples/:id', 'samples.change', edit),
  remove('/samples/:id', 'samples.change', removeOne),
];
