import Joi from 'joi';
import { v7 as uuid } from 'uuid';
import {
  isZone,
  scheduleSchema,
  standings,
  type Existing,
  type Json,
  type ReconcileFilter,
  type ReconcileGrouping,
  type ReconcileRecord,
  type ReconcileRecordPage,
  type Rule,
} from '@vast-knot/core';
import { givenAs, paged as pages, type GivenAs } from '../http/giveList';
import { HttpProblem, notFound, parsed } from '../http/problem';
import { beginJob, readJob } from '../jobs/repository';
import { countChosen, type Choice } from '../reconcile/choosing';
import { asItRuns, beginLook } from '../reconcile/begin';
import { endDrift, readDrift, watchDrift } from '../reconcile/drift';
import {
  countRecords,
  groupRecords,
  listRecords,
  listReconciles,
  readReconcile,
  viewsOf,
  type KeptReconcile,
} from '../reconcile/repository';
import { writeKind, type WriteAsked } from '../reconcile/write';
import { readRule } from '../rules/repository';
import { giveList } from './giving';
import { uuidOf } from './params';
import { get, personOf, post, put, remove, type AppParts, type Handle, type Route } from './route';

interface Asked {
  readonly rule: string;
  readonly edited?: true;
  readonly existing: Existing;
}

const asked = Joi.object<Asked>({
  rule: Joi.string().guid().required(),
  edited: Joi.valid(true),
  existing: Joi.valid('as its lines say', 'only blanks').default('as its lines say'),
});

const filterMembers = {
  standing: Joi.valid(...standings),
  about: Joi.string().max(300),
  path: Joi.string().allow('').max(300),
  before: Joi.string().max(20_000),
  after: Joi.string().max(20_000),
  cause: Joi.string().max(4000),
  search: Joi.string().allow('').max(200),
  outcome: Joi.valid('written', 'failed', 'skipped', 'under way'),
};
const filterSchema = Joi.object<ReconcileFilter>(filterMembers);
const paged = Joi.object<ReconcileFilter & { from: string }>({
  ...filterMembers,
  from: Joi.string()
    .pattern(/^\d{1,18}$/)
    .default('0'),
});
const grouped = Joi.object<ReconcileFilter & { by: ReconcileGrouping }>({
  ...filterMembers,
  by: Joi.valid('field', 'values', 'cause').required(),
});
const chosen = Joi.object<Choice>({
  filter: filterSchema,
  ids: Joi.array().items(Joi.string().max(500)).max(10_000),
  without: Joi.array().items(Joi.string().max(500)).max(10_000),
}).or('filter', 'ids');

const pageSize = 200;
/** Looks that are listed. */
const mostListed = 50;

async function kept(id: string, { pool }: AppParts): Promise<KeptReconcile> {
  const found = await readReconcile(pool, uuidOf(id, 'look'));
  if (!found) throw notFound('such look at what exists');
  return found;
}

/** Returns the value of a filter as JSON, checked, so that no statement sees what is none. */
function valuesChecked<F extends ReconcileFilter>(filter: F): F {
  for (const [name, text] of [
    ['before', filter.before],
    ['after', filter.after],
  ] as const) {
    if (text === undefined) continue;
    try {
      JSON.parse(text);
    } catch {
      throw new HttpProblem(422, 'Not valid', `“${name}” is not JSON: ${text.slice(0, 80)}`);
    }
  }
  return filter;
}

const start: Handle<'/reconciles'> = async (request, response, parts) => {
  const { rule: ruleId, edited, existing } = parsed(asked, request.body);
  const view = await readRule(parts.pool, ruleId);
  if (!view) throw notFound('such rule');
  const { draft } = view;
  const rule: Rule | undefined = edited ? { ...draft, id: ruleId, version: 0 } : asItRuns(view);
  if (!rule) throw new HttpProblem(422, 'Not published', `“${draft.name}” is not published.`);
  const id = uuid();
  const not = await beginLook(parts.pool, await parts.registry.get(), {
    id,
    rule,
    existing,
    by: personOf(request),
  });
  if (not) throw new HttpProblem(422, not.title, not.because);
  response.status(202).json({ id });
};

const ofRule = Joi.object<{ rule?: string }>({ rule: Joi.string().guid() });

const list: Handle<'/reconciles'> = async (request, response, { pool }) => {
  const { rule = null } = parsed(ofRule, request.query);
  response.json(await viewsOf(pool, await listReconciles(pool, rule, mostListed)));
};

const read: Handle<'/reconciles/:id'> = async (request, response, parts) => {
  const [view] = await viewsOf(parts.pool, [await kept(request.params.id, parts)]);
  response.json(view);
};

const records: Handle<'/reconciles/:id/records'> = async (request, response, parts) => {
  const { id } = await kept(request.params.id, parts);
  const { from, ...filter } = valuesChecked(parsed(paged, request.query));
  const found = await listRecords(parts.pool, id, filter, { after: from, limit: pageSize + 1 });
  const shown = found.slice(0, pageSize);
  response.json({
    records: shown,
    ...(await countRecords(parts.pool, id, filter)),
    next: found.length > pageSize ? (shown.at(-1)?.seq ?? null) : null,
  } satisfies ReconcileRecordPage);
};

const groups: Handle<'/reconciles/:id/groups'> = async (request, response, parts) => {
  const { id } = await kept(request.params.id, parts);
  const { by, ...filter } = valuesChecked(parsed(grouped, request.query));
  response.json(await groupRecords(parts.pool, id, filter, by));
};

const write: Handle<'/reconciles/:id/writes'> = async (request, response, parts) => {
  const look = await kept(request.params.id, parts);
  const choice = parsed(chosen, request.body);
  if (choice.filter) valuesChecked(choice.filter);
  const { rule, id } = look;
  if (rule.version === 0)
    throw new HttpProblem(
      409,
      'Not published',
      `What was looked at is “${rule.name}” as edited. Publish it and look again.`,
    );
  const runs = (await parts.registry.get()).rules.find((each) => each.rule.id === rule.id);
  if (runs?.rule.version !== rule.version)
    throw new HttpProblem(
      409,
      'Published anew',
      `“${rule.name}” is not what it was when it was looked at: version ${rule.version} was, and ${runs ? `version ${runs.rule.version} runs` : 'none runs'} now. Look again.`,
    );
  const looking = await readJob(parts.pool, id);
  if (looking?.state === 'waiting' || looking?.state === 'at work')
    throw new HttpProblem(
      409,
      'Still looking',
      'Not all records were looked at yet. Wait for it, or stop it.',
    );
  const count = await countChosen(parts.pool, id, choice);
  if (count === 0)
    throw new HttpProblem(
      409,
      'Nothing to write',
      'None of these records would change, or all of them are written.',
    );
  const job = uuid();
  const asked = { reconcile: id, job, choice } satisfies WriteAsked;
  const by = personOf(request);
  if (
    !(await beginJob(parts.pool, {
      id: job,
      kind: writeKind.kind,
      asked: asked as unknown as Json,
      by,
      alone: true,
    }))
  )
    throw new HttpProblem(
      409,
      'At work',
      'Records that exist are being written already. Wait for it, or stop it.',
    );
  response.status(202).json({ job, count });
};

const reportQuery = Joi.object<GivenAs>(givenAs);

/** Every record of a look, a line for each field that would be other than it is. */
const report: Handle<'/reconciles/:id/report'> = async (request, response, parts) => {
  const as = parsed(reportQuery, request.query);
  const { id, rule } = await kept(request.params.id, parts);
  await giveList(response, parts, as, {
    name: rule.name,
    columns: reportHead.map((label) => ({ label, name: label })),
    rows: pages<string>('0', async (after = '0') => {
      const some = await listRecords(parts.pool, id, {}, { after, limit: 1000 });
      return { rows: some.flatMap(linesOf), next: some.length < 1000 ? undefined : some.at(-1)?.seq };
    }),
  });
};

const reportHead = [
  'Record',
  'Name',
  'Stands',
  'Why',
  'Writes to',
  'What',
  'Field',
  'Before',
  'After',
  'Outcome',
  'Run',
];

/** A line for each field that would be other than it is; one for a record without any. */
function linesOf({
  recordId,
  name,
  standing,
  because,
  differences,
  run,
  skipped,
}: ReconcileRecord): string[][] {
  const outcome = skipped ?? (run ? run.because || run.state : '');
  const head = [recordId, name ?? '', standing, because];
  const tail = [outcome, run?.id ?? ''];
  if (differences.length === 0) return [[...head, '', '', '', '', '', ...tail]];
  return differences.map(({ key, deed, path, before, after }) => [
    ...head,
    key,
    deed,
    path,
    cell(before),
    cell(after),
    ...tail,
  ]);
}

const cell = (json: unknown) =>
  json === null || json === undefined ? '' : typeof json === 'string' ? json : JSON.stringify(json);

const driftOf: Handle<'/rules/:id/drift'> = async (request, response, { pool }) => {
  response.json((await readDrift(pool, uuidOf(request.params.id, 'rule'))) ?? null);
};

/** Has a rule looked at by the clock. */
const watch: Handle<'/rules/:id/drift'> = async (request, response, { pool }) => {
  const id = uuidOf(request.params.id, 'rule');
  const schedule = parsed(scheduleSchema, request.body);
  if (!isZone(schedule.zone)) {
    const message = `“${schedule.zone}” is no zone of the IANA database, such as Europe/London.`;
    throw new HttpProblem(422, 'Not valid', message, [{ at: 'zone', message }]);
  }
  if (!(await readRule(pool, id))) throw notFound('such rule');
  await watchDrift(pool, { rule: id, schedule, by: personOf(request) });
  response.json((await readDrift(pool, id)) ?? null);
};

const unwatch: Handle<'/rules/:id/drift'> = async (request, response, { pool }) => {
  await endDrift(pool, uuidOf(request.params.id, 'rule'));
  response.json(null);
};

/** Rules beside the records that exist: how each stands, and writing what was chosen. */
export const reconcileRoutes: readonly Route[] = [
  post('/reconciles', 'reconciles.look', start, { body: asked }),
  get('/reconciles', 'reconciles.read', list, { query: ofRule }),
  get('/reconciles/:id', 'reconciles.read', read),
  get('/reconciles/:id/records', 'reconciles.read', records, { query: paged }),
  get('/reconciles/:id/groups', 'reconciles.read', groups, { query: grouped }),
  get('/reconciles/:id/report', 'reconciles.read', report, { query: reportQuery }),
  post('/reconciles/:id/writes', 'reconciles.write', write, { body: chosen }),
  get('/rules/:id/drift', 'reconciles.read', driftOf),
  put('/rules/:id/drift', 'reconciles.look', watch, { body: scheduleSchema }),
  remove('/rules/:id/drift', 'reconciles.look', unwatch),
];
