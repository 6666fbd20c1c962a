import { Router } from 'express';
import Joi from 'joi';
import {
  checkRule,
  checkRules,
  ruleBodySchema,
  type Rule,
  type RuleFindings,
  type RuleView,
  type Surroundings,
} from '@vast-knot/core';
import type { Pool } from '../db/pool';
import { HttpProblem, notFound, parsed, requiredRevision } from '../http/problem';
import type { Registry, RegistryCache } from '../registry/registry';
import {
  createRule,
  listRules,
  orderRules,
  publishRule,
  earlierVersions,
  readRule,
  saveDraft,
  withdrawRule,
} from '../rules/repository';

/** Rules: drafts that anyone may leave half done, and versions that run. */
export function ruleRoutes(pool: Pool, registry: RegistryCache): Router {
  const router = Router();
  router.param('id', (_request, _response, next, id: string) => {
    next(/^[0-9a-f-]{36}$/.test(id) ? undefined : notFound('such rule'));
  });
  const existing = async (id: string): Promise<RuleView> => {
    const rule = await readRule(pool, id);
    if (!rule) throw notFound('such rule');
    return rule;
  };
  const moved = () =>
    new HttpProblem(412, 'Changed in between', 'Somebody else changed the rule in between; load it again.');

  router.get('/', async (_request, response) => void response.json(await listRules(pool)));

  router.get('/versions', async (_request, response) => void response.json(await earlierVersions(pool)));

  // Every rule as edited, each held against all others.
  router.get('/findings', async (_request, response) => {
    const [rules, current] = await Promise.all([listRules(pool), registry.get()]);
    const drafts = rules.map(({ id, draft }): Rule => ({ ...draft, id, version: 0 }));
    const answers = checkRules(drafts, surroundingsOf(current, drafts)).map(
      ({ rule, findings }): RuleFindings => ({
        id: rule.id,
        findings,
      }),
    );
    response.json(answers);
  });

  router.get('/:id', async (request, response) => {
    const rule = await existing(request.params.id);
    response.set('ETag', `"${rule.revision}"`).json(rule);
  });

  router.put('/order', async (request, response) => {
    const { ids } = parsed(orderBody, request.body);
    await orderRules(pool, ids);
    response.json(await listRules(pool));
  });

  router.post('/', async (request, response) => {
    const id = await createRule(pool, parsed(ruleBodySchema, request.body));
    response.status(201).json(await existing(id));
  });

  router.put('/:id/draft', async (request, response) => {
    const body = parsed(ruleBodySchema, request.body);
    const revision = requiredRevision(request.get('If-Match'));
    await existing(request.params.id);
    if (!(await saveDraft(pool, request.params.id, revision, body))) throw moved();
    response.json(await existing(request.params.id));
  });

  router.post('/:id/publish', async (request, response) => {
    const revision = requiredRevision(request.get('If-Match'));
    const { draft, id } = await existing(request.params.id);
    const current = await registry.get();
    const rule: Rule = { ...draft, id, version: 0 };
    const published = current.rules.map((each) => each.rule);
    const errors = checkRule(rule, surroundingsOf(current, published), current.rules)
      .filter(({ severity }) => severity === 'error')
      .map(({ at, message }) => ({ at, message }));
    if (errors.length > 0) {
      throw new HttpProblem(
        422,
        'Not fit to publish',
        errors[0]?.message ?? 'The rule has mistakes.',
        errors,
      );
    }
    const version = await publishRule(pool, id, revision, request.session.user?.name ?? '');
    if (version === undefined) throw moved();
    response.json(await existing(id));
  });

  router.delete('/:id/published', async (request, response) => {
    await existing(request.params.id);
    await withdrawRule(pool, request.params.id);
    response.json(await existing(request.params.id));
  });
  return router;
}

const orderBody = Joi.object<{ ids: string[] }>({
  ids: Joi.array().items(Joi.string().guid()).unique().max(10_000).required(),
});

/** What a rule is checked against: the registry, with the rules that it may apply. */
function surroundingsOf({ catalog, tables, endpoints }: Registry, rules: readonly Rule[]): Surroundings {
  return {
    catalog,
    tables,
    rules: new Map(rules.map((rule) => [rule.id, rule])),
    endpoints: new Set(endpoints.keys()),
  };
}
