import Joi from 'joi';
import { v7 as uuid } from 'uuid';
import {
  canonicalText,
  changeEventSchema,
  expectedSchema,
  maskExpected,
  maskRecords,
  maskSample,
  newSampleSchema,
  storedRecordSchema,
  type ChangeEvent,
  type Keyed,
  type Rule,
  type Sample,
  type SampleChange,
  type SampleSaid,
  type StoredRecord,
  type System,
} from '@vast-knot/core';
import { tell } from '../db/notices';
import { inTransaction, type Runner } from '../db/pool';
import { HttpProblem, notFound, parsed } from '../http/problem';
import {
  changeSample,
  insertSample,
  listSamples,
  lockSample,
  noteWhoChanged,
  readSamples,
  removeSample,
  replaceSample,
} from '../samples/repository';
import { listRules } from '../rules/repository';
import { metKept } from '../runs/repository';
import { maskingOf } from '../samples/maskKey';
import { lastStarting, listening, nextEvent, starting } from '../samples/listen';
import { takeFromRun } from '../samples/takeFromRun';
import { computed } from './computed';
import { uuidOf } from './params';
import { get, patch, personOf, post, remove, type AppParts, type Handle, type Route } from './route';

const taking = Joi.object<{ run: string; name: string; masked?: true }>({
  run: Joi.string()
    .pattern(/^\d{1,18}$/)
    .required(),
  name: Joi.string().max(120).required(),
  masked: Joi.valid(true),
});

const said = {
  name: Joi.string().trim().min(1).max(120),
  note: Joi.string().allow('').max(2000),
  tags: Joi.array().items(Joi.string().trim().min(1).max(40)).unique().max(20),
  expected: expectedSchema.allow(null),
};
const change = Joi.object<SampleChange>({
  ...said,
  was: Joi.object<SampleSaid>(said),
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

/** The run of the newest event that would start a rule. */
const last: Handle<'/samples/last'> = async (request, response, { pool }) => {
  response.json(await lastStarting(pool, parsed(starting, request.query)));
};

const read: Handle<'/samples/:id'> = async (request, response, { pool }) => {
  const [sample] = await readSamples(pool, uuidOf(request.params.id, 'sample'));
  if (!sample) throw notFound('such sample');
  response.json(sample);
};

const makingQuery = Joi.object<{ mask?: 'yes' }>({ mask: Joi.valid('yes') });

/** With `?mask=yes` its personal values are masked before anything of it is kept. */
const create: Handle<'/samples'> = async (request, response, parts) => {
  const id = uuid();
  const { mask } = parsed(makingQuery, request.query);
  const given = await sampleFrom(request.body, parts);
  const kept = mask === 'yes' ? await masked(given, parts) : given;
  await insertSample(parts.pool, { id, ...kept });
  await tell(parts.pool, { kind: 'sample', id });
  response.status(201).json({ id });
};

/** Returns a sample as it is given, or what is taken from a run. */
async function sampleFrom(body: unknown, parts: AppParts): Promise<Omit<Sample, 'id'>> {
  if (typeof body !== 'object' || body === null || !('run' in body)) return parsed(newSampleSchema, body);
  const { run, name, masked: masks } = parsed(taking, body);
  const taken = await takeFromRun(parts.pool, run);
  if (!taken) throw notFound('such run');
  const sample = { name, note: `Taken from run ${run}.`, ...taken };
  return masks ? masked(sample, parts) : sample;
}

async function masked<S extends Omit<Sample, 'id'>>(sample: S, parts: AppParts): Promise<S> {
  return maskSample(sample, await systemsOf(parts), await maskingOf(parts.pool, parts.seal));
}

/** The records that the event of a sample meets by now, masked as the sample is. */
const fresh: Handle<'/samples/:id/fresh'> = async (request, response, parts) => {
  const [sample] = await readSamples(parts.pool, uuidOf(request.params.id, 'sample'));
  if (!sample) throw notFound('such sample');
  const records = await recordsMet(sample.event, parts);
  const shown = sample.masked
    ? maskRecords(records, sample, await systemsOf(parts), await maskingOf(parts.pool, parts.seal))
    : records;
  response.json(shown);
};

const meet: Handle<'/samples/meet'> = async (request, response, parts) => {
  response.json(await recordsMet(parsed(changeEventSchema, request.body), parts));
};

async function recordsMet(
  event: ChangeEvent,
  { pool, registry, computer }: AppParts,
): Promise<readonly StoredRecord[]> {
  const current = await registry.get();
  if (!current.catalog.recordType(event.ref.system, event.ref.recordType))
    throw notFound(`record type ${event.ref.recordType} in ${event.ref.system}`);
  const rules = (await listRules(pool)).map(({ id, draft }): Rule => ({ ...draft, id, version: 0 }));
  return computed({ computer }, 'meet', { event, rules, most: metKept }, current);
}

const edit: Handle<'/samples/:id'> = async (request, response, parts) => {
  const id = uuidOf(request.params.id, 'sample');
  const { records, masked: masks, was = {}, ...given } = parsed(change, request.body);
  const systems = await systemsOf(parts);
  const keyed = await maskingOf(parts.pool, parts.seal);
  await inTransaction(parts.pool, async (client) => {
    const sample = await lockSample(client, id);
    if (!sample) throw notFound('such sample');
    refuseOvertaken(sample, given, was);
    const { expected } = given;
    // What is expected of a masked sample later is masked as it is.
    const wanted = expected && sample.masked ? maskExpected(expected, sample, systems, keyed) : expected;
    await changeSample(client, id, { ...given, ...(wanted !== undefined && { expected: wanted }) });
    await noteWhoChanged(client, id, personOf(request));
    if (records || masks) await changeContents(client, id, { systems, keyed }, { records, masks });
    await tell(client, { kind: 'sample', id });
  });
  response.status(204).end();
};

/** Throws a problem where something that is changed is not as whoever changes it saw it, or they do not say how they saw it. */
function refuseOvertaken(
  sample: Sample & { readonly changedBy: string | null },
  given: SampleSaid,
  was: SampleSaid,
): void {
  const { changedBy, name, note, tags = [], expected = null } = sample;
  const is: Required<SampleSaid> = { name, note, tags, expected };
  for (const member of Object.keys(is) as (keyof SampleSaid)[]) {
    if (given[member] === undefined) continue;
    if (was[member] === undefined)
      throw new HttpProblem(
        428,
        'Say what it was',
        `Say in “was” what ${words[member]} was when you saw it.`,
      );
    if (canonicalText(was[member]) !== canonicalText(is[member]))
      throw new HttpProblem(
        412,
        'Changed in between',
        `${changedBy ?? 'Somebody else'} changed ${words[member]} of this sample meanwhile.`,
      );
  }
}

const words: Readonly<Record<keyof SampleSaid, string>> = {
  name: 'the name',
  note: 'the note',
  tags: 'the tags',
  expected: 'what is expected',
};

const removeOne: Handle<'/samples/:id'> = async (request, response, { pool }) => {
  const id = uuidOf(request.params.id, 'sample');
  if (!(await removeSample(pool, id))) throw notFound('such sample');
  await tell(pool, { kind: 'sample', id });
  response.status(204).end();
};

interface Masks {
  readonly systems: readonly System[];
  readonly keyed: Keyed;
}

interface Contents {
  readonly records: readonly StoredRecord[] | undefined;
  readonly masks: true | undefined;
}

/** Takes other records into a sample, or masks it. What a masked sample takes is masked, whoever sends it. */
async function changeContents(
  client: Runner,
  id: string,
  { systems, keyed }: Masks,
  { records, masks }: Contents,
): Promise<void> {
  const [sample] = await readSamples(client, id);
  if (!sample) return;
  const taken = records && sample.masked ? maskRecords(records, sample, systems, keyed) : records;
  const changed = { ...sample, ...(taken && { records: taken }) };
  if (!masks) {
    await replaceSample(client, changed);
    return;
  }
  const hidden = maskSample(changed, systems, keyed);
  await replaceSample(client, hidden);
  await changeSample(client, id, { name: hidden.name, note: hidden.note });
}

/** Samples: kept events with the records they met, and what is expected of them. */
export const sampleRoutes: readonly Route[] = [
  get('/samples', 'samples.read', list),
  get('/samples/whole', 'samples.read', whole),
  get('/samples/heard', 'runs.read', heard, { query: listening }),
  get('/samples/last', 'runs.read', last, { query: starting }),
  get('/samples/:id', 'samples.read', read),
  post('/samples', 'samples.change', create, {
    query: makingQuery,
    body: Joi.alternatives().try(newSampleSchema, taking),
  }),
  post('/samples/meet', 'records.read', meet, { body: changeEventSchema }),
  post('/samples/:id/fresh', 'samples.change', fresh),
  patch('/samples/:id', 'samples.change', edit, { body: change }),
  remove('/samples/:id', 'samples.change', removeOne),
];
