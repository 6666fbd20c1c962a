import Joi from 'joi';
import { readEnvironment } from '../people/environment';
import { asItRuns } from '../reconcile/begin';
import { HttpProblem, notFound, parsed } from '../http/problem';
import { checkRight } from '../people/session';
import { listRules } from '../rules/repository';
import { readSamples } from '../samples/repository';
import { computed } from './computed';
import { get, type Handle, type Route } from './route';

const query = Joi.object<{ rules?: string; as: 'html' | 'xlsx' }>({
  rules: Joi.string()
    .pattern(/^[0-9a-f-]{36}(,[0-9a-f-]{36})*$/, 'ids of rules parted by commas')
    .max(40_000),
  as: Joi.valid('html', 'xlsx').default('html'),
});

/** What chosen rules do, as one document that people read who write no rules: as they run, or as edited where they do not run. */
const give: Handle<'/specification'> = async (request, response, parts) => {
  checkRight(request, 'samples.read');
  checkRight(request, 'tables.read');
  const { rules: chosen, as } = parsed(query, request.query);
  const wanted = chosen?.split(',');
  const all = await listRules(parts.pool);
  const views = wanted ? all.filter(({ id }) => wanted.includes(id)) : all;
  if (wanted && views.length < new Set(wanted).size) throw notFound('such rule');
  if (views.length === 0) throw new HttpProblem(422, 'Nothing chosen', 'There is no rule to be told of.');
  const bodies = all.map((view) => asItRuns(view) ?? { ...view.draft, id: view.id, version: 0 });
  const rules = bodies.filter(({ id }) => views.some((view) => view.id === id));
  const { name } = await readEnvironment(parts.pool);
  const document = await computed(
    parts,
    'specification',
    {
      rules,
      known: bodies,
      samples: (await readSamples(parts.pool)).filter(({ event: { ref } }) =>
        rules.some(({ trigger }) => trigger.system === ref.system && trigger.recordType === ref.recordType),
      ),
      environment: name || 'this environment',
      at: new Date().toISOString(),
      as,
    },
    await parts.registry.get(),
  );
  if (as === 'xlsx')
    response
      .type('application/vnd.openxmlformats-officedocument.spreadsheetml.sheet')
      .attachment('specification.xlsx');
  // It needs nothing from elsewhere, and runs nothing.
  else response.type('html').set('content-security-policy', "default-src 'none'; style-src 'unsafe-inline'");
  response.send(Buffer.from(document));
};

/** Rules as a document. */
export const specificationRoutes: readonly Route[] = [get('/specification', 'rules.read', give, { query })];
