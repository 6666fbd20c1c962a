import Joi from 'joi';
import { ruleBodySchema, type Rule, type RuleFindings, type RuleView } from '@vast-knot/core';
import { inTransaction, type Pool } from '../db/pool';
import { HttpProblem, notFound, parsed, requiredRevision } from '../http/problem';
import {
  askToPublish,
  createRule,
  earlierVersions,
  fileRules,
  listRemoved,
  listRules,
  orderRules,
  publishRule,
  readHistory,
  readRule,
  removeRule,
  restoreRule,
  saveDraft,
  withdrawRule,
} from '../rules/repository';
import { readDeeds } from '../runs/deeds';
import { countHeld } from '../waits/held';
import { readEnvironment } from '../people/environment';
import { checkRight } from '../people/session';
import { findingsOf } from './computed';
import { uuidOf } from './params';
import { get, personOf, post, put, remove, type AppParts, type Handle, type Route } from './route';

async function existing(id: string, { pool }: AppParts): Promise<RuleView> {
  const rule = await readRule(pool, uuidOf(id, 'rule'));
  if (!rule) throw notFound('such rule');
  return rule;
}

/** Says who changed a rule since it was seen. */
async function moved(id: string, parts: AppParts): Promise<HttpProblem> {
  const { changedBy } = await existing(id, parts);
  return new HttpProblem(
    412,
    'Changed in between',
    `${changedBy ?? 'Somebody else'} changed the rule meanwhile.`,
  );
}

const list: Handle<'/rules'> = async (_request, response, { pool }) => {
  response.json(await listRules(pool));
};

const versions: Handle<'/rules/versions'> = async (_request, response, { pool }) => {
  response.json(await earlierVersions(pool));
};

/** Every rule as edited, each held against those that run. */
const findings: Handle<'/rules/findings'> = async (_request, response, { pool, registry, computer }) => {
  const [rules, current] = await Promise.all([listRules(pool), registry.get()]);
  const drafts = rules.map(({ id, draft }): Rule => ({ ...draft, id, version: 0 }));
  const found = await findingsOf(drafts, drafts, current, { computer });
  response.json(drafts.map(({ id }, at): RuleFindings => ({ id, findings: found[at] ?? [] })));
};

const read: Handle<'/rules/:id'> = async (request, response, parts) => {
  const rule = await existing(request.params.id, parts);
  response.set('ETag', `"${rule.revision}"`).json(rule);
};

const idList = Joi.array().items(Joi.string().guid()).unique().max(10_000);
const orderBody = Joi.object<{ ids: string[]; was: string[] }>({
  ids: idList.required(),
  was: idList.required(),
});

const order: Handle<'/rules/order'> = async (request, response, { pool }) => {
  const { ids, was } = parsed(orderBody, request.body);
  if (!(await orderRules(pool, ids, was)))
    throw new HttpProblem(
      412,
      'Changed in between',
      'Somebody else put rules in another order, or made or removed one, meanwhile. Look at the list as it is now.',
    );
  response.json(await listRules(pool));
};

/** Folders have one level; a blank name is none. */
const fileBody = Joi.object<{ ids: string[]; folder: string }>({
  ids: idList.required(),
  folder: Joi.string().trim().max(80).allow('').required(),
});

const file: Handle<'/rules/folders'> = async (request, response, { pool }) => {
  const { ids, folder } = parsed(fileBody, request.body);
  await fileRules(pool, ids, folder);
  response.json(await listRules(pool));
};

const removed: Handle<'/rules/removed'> = async (_request, response, { pool }) => {
  response.json(await listRemoved(pool));
};

const deeds: Handle<'/rules/deeds'> = async (_request, response, { pool }) => {
  const rules = await listRules(pool);
  response.json(
    await readDeeds(
      pool,
      rules.map(({ id }) => id),
      new Date(),
    ),
  );
};

const history: Handle<'/rules/:id/versions'> = async (request, response, parts) => {
  const { id } = await existing(request.params.id, parts);
  response.json(await readHistory(parts.pool, id));
};

/** A copy that does not run, beside the rule in its folder. */
const copy: Handle<'/rules/:id/copy'> = async (request, response, parts) => {
  const { draft, folder } = await existing(request.params.id, parts);
  const rules = await listRules(parts.pool);
  const name = freeName(draft.name, new Set(rules.map((each) => each.draft.name)));
  const id = await createRule(parts.pool, { ...draft, name }, { by: personOf(request), folder });
  response.status(201).json(await existing(id, parts));
};

const longestName = 120;

/** Returns the name of a copy that no other rule has. */
function freeName(name: string, taken: ReadonlySet<string>): string {
  for (let at = 1; ; at++) {
    const ending = at === 1 ? ' (copy)' : ` (copy ${at})`;
    const free = name.slice(0, longestName - ending.length) + ending;
    if (!taken.has(free)) return free;
  }
}

/** What waits for a rule has to be dealt with first: nobody would ask for it afterwards. */
const takeAway: Handle<'/rules/:id'> = async (request, response, parts) => {
  const { id, published, draft } = await existing(request.params.id, parts);
  checkRight(request, published ? 'rules.publish' : 'rules.edit');
  await inTransaction(parts.pool, async (client) => {
    await removeRule(client, id, personOf(request));
    const held = await countHeld(client, id);
    if (held > 0)
      throw new HttpProblem(
        409,
        'Changes wait for it',
        `${held} ${held === 1 ? 'change waits' : 'changes wait'} for “${draft.name}”, which is paused. Let it go on, or drop them, before you remove it.`,
      );
  });
  response.json(await listRemoved(parts.pool));
};

const restore: Handle<'/rules/:id/restore'> = async (request, response, parts) => {
  const id = uuidOf(request.params.id, 'rule');
  const gone = (await listRemoved(parts.pool)).find((each) => each.id === id);
  if (!gone) throw notFound('such removed rule');
  if (gone.version !== null) checkRight(request, 'rules.publish');
  await restoreRule(parts.pool, id);
  response.json(await existing(id, parts));
};

const create: Handle<'/rules'> = async (request, response, parts) => {
  const by = personOf(request);
  const id = await createRule(parts.pool, parsed(ruleBodySchema, request.body), { by, folder: '' });
  response.status(201).json(await existing(id, parts));
};

const save: Handle<'/rules/:id/draft'> = async (request, response, parts) => {
  const body = parsed(ruleBodySchema, request.body);
  const revision = requiredRevision(request.get('If-Match'));
  const { id } = await existing(request.params.id, parts);
  if (!(await saveDraft(parts.pool, id, revision, body, personOf(request)))) throw await moved(id, parts);
  response.json(await existing(id, parts));
};

/** What is said of a publication, or of stopping; may be blank. */
const said = Joi.string().trim().max(2000).allow('').default('');
const publishBody = Joi.object<{ note: string }>({ note: said });
const stopQuery = Joi.object<{ why: string }>({ why: said });

const publish: Handle<'/rules/:id/publish'> = async (request, response, parts) => {
  const { note } = parsed(publishBody, request.body ?? {});
  const revision = requiredRevision(request.get('If-Match'));
  const { draft, id, asked } = await existing(request.params.id, parts);
  const current = await parts.registry.get();
  const rule: Rule = { ...draft, id, version: 0 };
  const running = current.rules.map((each) => each.rule);
  const [found = []] = await findingsOf([rule], running, current, parts);
  const errors = found
    .filter(({ severity }) => severity === 'error')
    .map(({ at, message }) => ({ at, message }));
  const [first] = errors;
  if (first) throw new HttpProblem(422, 'Not fit to publish', first.message, errors);
  if (!(await putInForce(parts.pool, { id, revision, by: personOf(request), note, asked })))
    throw await moved(id, parts);
  response.json(await existing(id, parts));
};

/**
 * Publishes a draft; where that wants two people, only what somebody else asked for, and otherwise it is noted that this one asks. Returns
 * false where the draft has moved on.
 */
async function putInForce(pool: Pool, { id, revision, by, note, asked }: Publishing): Promise<boolean> {
  const { secondPerson } = await readEnvironment(pool);
  if (!secondPerson) return (await publishRule(pool, id, revision, { by, note })) !== undefined;
  if (!asked || asked.by === by) return askToPublish(pool, id, revision, { by, note });
  const both = {
    by: `${asked.by} and ${by}`,
    note: [asked.note, note].filter((each) => each !== '').join(' — '),
  };
  return (await publishRule(pool, id, revision, both)) !== undefined;
}

interface Publishing extends Pick<RuleView, 'id' | 'revision' | 'asked'> {
  readonly by: string;
  readonly note: string;
}

const withdraw: Handle<'/rules/:id/published'> = async (request, response, parts) => {
  const { id } = await existing(request.params.id, parts);
  const { why } = parsed(stopQuery, request.query);
  await withdrawRule(parts.pool, id, { by: personOf(request), why });
  response.json(await existing(id, parts));
};

/** Rules: drafts that anyone may leave half done, and versions that run. */
export const ruleRoutes: readonly Route[] = [
  get('/rules', 'rules.read', list),
  get('/rules/versions', 'rules.read', versions),
  get('/rules/findings', 'rules.read', findings),
  get('/rules/removed', 'rules.read', removed),
  get('/rules/deeds', 'rules.read', deeds),
  get('/rules/:id', 'rules.read', read),
  get('/rules/:id/versions', 'rules.read', history),
  put('/rules/order', 'rules.publish', order, { body: orderBody }),
  put('/rules/folders', 'rules.edit', file, { body: fileBody }),
  post('/rules', 'rules.edit', create, { body: ruleBodySchema }),
  put('/rules/:id/draft', 'rules.edit', save, { body: ruleBodySchema, revision: true }),
  post('/rules/:id/copy', 'rules.edit', copy),
  remove('/rules/:id', 'rules.edit', takeAway),
  post('/rules/:id/restore', 'rules.edit', restore),
  post('/rules/:id/publish', 'rules.publish', publish, { body: publishBody, revision: true }),
  remove('/rules/:id/published', 'rules.publish', withdraw, { query: stopQuery }),
];
