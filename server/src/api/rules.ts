import Joi from 'joi';
import { ruleBodySchema, type Rule, type RuleFindings, type RuleView } from '@vast-knot/core';
import { HttpProblem, notFound, parsed, requiredRevision } from '../http/problem';
import {
  createRule,
  earlierVersions,
  listRules,
  orderRules,
  publishRule,
  readRule,
  saveDraft,
  withdrawRule,
} from '../rules/repository';
import { findingsOf } from './computed';
import { uuidOf } from './params';
import { get, personOf, post, put, remove, type AppParts, type Handle, type Route } from './route';

async function existing(id: string, { pool }: AppParts): Promise<RuleView> {
  const rule = await readRule(pool, uuidOf(id, 'rule'));
  if (!rule) throw notFound('such rule');
  return rule;
}

const moved = () =>
  new HttpProblem(412, 'Changed in between', 'Somebody else changed the rule in between; load it again.');

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

const orderBody = Joi.object<{ ids: string[] }>({
  ids: Joi.array().items(Joi.string().guid()).unique().max(10_000).required(),
});

const order: Handle<'/rules/order'> = async (request, response, { pool }) => {
  const { ids } = parsed(orderBody, request.body);
  await orderRules(pool, ids);
  response.json(await listRules(pool));
};

const create: Handle<'/rules'> = async (request, response, parts) => {
  const id = await createRule(parts.pool, parsed(ruleBodySchema, request.body));
  response.status(201).json(await existing(id, parts));
};

const save: Handle<'/rules/:id/draft'> = async (request, response, parts) => {
  const body = parsed(ruleBodySchema, request.body);
  const revision = requiredRevision(request.get('If-Match'));
  const { id } = await existing(request.params.id, parts);
  if (!(await saveDraft(parts.pool, id, revision, body))) throw moved();
  response.json(await existing(id, parts));
};

const publish: Handle<'/rules/:id/publish'> = async (request, response, parts) => {
  const revision = requiredRevision(request.get('If-Match'));
  const { draft, id } = await existing(request.params.id, parts);
  const current = await parts.registry.get();
  const rule: Rule = { ...draft, id, version: 0 };
  const published = current.rules.map((each) => each.rule);
  const [found = []] = await findingsOf([rule], published, current, parts);
  const errors = found
    .filter(({ severity }) => severity === 'error')
    .map(({ at, message }) => ({ at, message }));
  const [first] = errors;
  if (first) throw new HttpProblem(422, 'Not fit to publish', first.message, errors);
  if ((await publishRule(parts.pool, id, revision, personOf(request))) === undefined) throw moved();
  response.json(await existing(id, parts));
};

const withdraw: Handle<'/rules/:id/published'> = async (request, response, parts) => {
  const { id } = await existing(request.params.id, parts);
  await withdrawRule(parts.pool, id);
  response.json(await existing(id, parts));
};

/** Rules: drafts that anyone may leave half done, and versions that run. */
export const ruleRoutes: readonly Route[] = [
  get('/rules', 'rules.read', list),
  get('/rules/versions', 'rules.read', versions),
  get('/rules/findings', 'rules.read', findings),
  get('/rules/:id', 'rules.read', read),
  put('/rules/order', 'rules.publish', order),
  post('/rules', 'rules.edit', create),
  put('/rules/:id/draft', 'rules.edit', save),
  post('/rules/:id/publish', 'rules.publish', publish),
  remove('/rules/:id/published', 'rules.publish', withdraw),
];
