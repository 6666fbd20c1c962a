import Joi from 'joi';
import {
  archiveOf,
  bundledSystem,
  bundleFiles,
  bundleOf,
  bundleText,
  type BundledRule,
  type ExportAsked,
  type ImportAsked,
  type WholeBundle,
} from '@vast-knot/core';
import { doImport, planImport, undoImport, type CarryingParts } from '../carrying/carrying';
import { listImports } from '../carrying/imports';
import { refusedAddress } from '../connector/outbound';
import { jsonBody } from '../http/jsonBody';
import { HttpProblem, notFound, parsed } from '../http/problem';
import { checkRight } from '../people/session';
import { listRules } from '../rules/repository';
import { readSamples } from '../samples/repository';
import { readSystems } from '../systems/repository';
import { computed } from './computed';
import { uuidOf } from './params';
import { get, personOf, post, type AppParts, type Handle, type Route } from './route';

/** A file may hold a table with a hundred thousand rows. */
const longest = '50mb';

const exportBody = Joi.object<ExportAsked>({
  rules: Joi.array().items(Joi.string().guid()).max(10_000),
  folder: Joi.string().trim().max(80),
  form: Joi.valid('file', 'archive').default('file'),
  samples: Joi.boolean().default(true),
}).oxor('rules', 'folder');

/** Rules as they are edited, with all that they need, to be carried to another environment. Secrets and addresses are in none. */
const give: Handle<'/bundles'> = async (request, response, parts) => {
  const { rules, folder, form, samples } = parsed(exportBody, request.body ?? {});
  const whole = await everything(parts);
  const chosen = whole.rules.filter((each) =>
    rules ? rules.includes(each.id) : folder === undefined || each.folder === folder,
  );
  if (rules && chosen.length < new Set(rules).size) throw notFound('such rule');
  const bundle = bundleOf(
    chosen.map(({ id }) => id),
    samples ? whole : { ...whole, samples: [] },
  );
  if (form === 'archive')
    response
      .type('application/zip')
      .set('content-disposition', 'attachment; filename="vast-knot.zip"')
      .send(Buffer.from(archiveOf(bundleFiles(bundle))));
  else
    response
      .type('application/json')
      .set('content-disposition', 'attachment; filename="vast-knot.json"')
      .send(bundleText(bundle));
};

/** Returns all that this environment could give. */
async function everything({ pool, seal, registry }: AppParts): Promise<WholeBundle> {
  const { catalog, tables, endpoints } = await registry.get();
  const [rules, samples, systems] = [
    await listRules(pool),
    await readSamples(pool),
    await readSystems(
      pool,
      seal,
      catalog.systems.map(({ key }) => key),
    ),
  ];
  return {
    rules: rules.map(({ id, draft, folder, published }): BundledRule => ({
      id,
      published: published !== null,
      ...(folder !== '' && { folder }),
      rule: draft,
    })),
    samples,
    systems: systems.map(({ definition, connection }) => bundledSystem(definition, { ...connection })),
    addresses: [...endpoints.values()].map(({ key, name }) => ({ key, name })),
    tables: [...tables.values()].map(({ table }) => table),
  };
}

const key = Joi.string().max(80);
const asked = {
  files: Joi.array()
    .items(Joi.object({ name: Joi.string().max(400).required(), text: Joi.string().allow('').required() }))
    .min(1)
    .max(20_000)
    .required(),
  systems: Joi.object()
    .pattern(
      key,
      Joi.alternatives().try(
        Joi.object({ is: Joi.valid('bound').required(), to: key.required() }),
        Joi.object({
          is: Joi.valid('new').required(),
          baseUrl: Joi.string().allow('').max(500).required(),
          token: Joi.string().allow('').max(4000),
        }),
      ),
    )
    .default({}),
  addresses: Joi.object()
    .pattern(
      key,
      Joi.alternatives().try(
        Joi.object({ is: Joi.valid('bound').required(), to: key.required() }),
        Joi.object({ is: Joi.valid('new').required(), url: Joi.string().allow('').max(500).required() }),
      ),
    )
    .default({}),
  take: Joi.object().pattern(Joi.string().max(400), Joi.valid('theirs', 'ours')).default({}),
  known: Joi.object().pattern(Joi.string().max(400), Joi.string().hex().length(64)).default({}),
  running: Joi.boolean().default(false),
};
const planBody = Joi.object<ImportAsked>(asked);
const importBody = Joi.object<ImportAsked & { stamp: string }>({
  ...asked,
  stamp: Joi.string().hex().length(64).required(),
});

async function carrying(parts: AppParts): Promise<CarryingParts> {
  return {
    pool: parts.pool,
    seal: parts.seal,
    registry: await parts.registry.get(),
    computer: { run: (kind, given, registry) => computed(parts, kind, given, registry) },
  };
}

/** What files from another environment would do here, beside what is here. */
const plan: Handle<'/imports/plan'> = async (request, response, parts) => {
  response.json(await planImport(parsed(planBody, request.body), await carrying(parts)));
};

/** Imports files as it was shown, all or nothing; whoever does it may do each part of it. */
const take: Handle<'/imports'> = async (request, response, parts) => {
  const given = parsed(importBody, request.body);
  checkRight(request, 'tables.change');
  checkRight(request, 'samples.change');
  if (given.running) checkRight(request, 'rules.publish');
  if (Object.values(given.systems).some(({ is }) => is === 'new')) checkRight(request, 'systems.change');
  for (const [at, slot] of Object.entries(given.addresses)) {
    if (slot.is !== 'new') continue;
    checkRight(request, 'endpoints.change');
    const refused = URL.canParse(slot.url)
      ? await refusedAddress(new URL(slot.url), parts.config.allowedOutbound)
      : 'it is no address.';
    if (refused === undefined) continue;
    const message = `“${slot.url}” cannot be reached: ${refused}`;
    throw new HttpProblem(422, 'Not valid', message, [{ at: `addresses/${at}/url`, message }]);
  }
  response.status(201).json(await doImport(given, personOf(request), await carrying(parts)));
};

const list: Handle<'/imports'> = async (_request, response, { pool }) => {
  response.json(await listImports(pool));
};

/** Takes an import back. What it put in force stops, so it wants the same rights. */
const undo: Handle<'/imports/:id/undo'> = async (request, response, parts) => {
  const id = uuidOf(request.params.id, 'import');
  const [found] = await listImports(parts.pool, id);
  if (!found) throw notFound('such import');
  checkRight(request, 'tables.change');
  checkRight(request, 'samples.change');
  if (found.running) checkRight(request, 'rules.publish');
  if (found.took.some(({ kind }) => kind === 'system')) checkRight(request, 'systems.change');
  if (found.took.some(({ kind }) => kind === 'address')) checkRight(request, 'endpoints.change');
  const done = await undoImport(id, personOf(request), parts);
  if (!done) throw new HttpProblem(409, 'Taken back already', 'This import was taken back before.');
  response.json(done);
};

/** Work that is carried from one environment to another. */
export const importRoutes: readonly Route[] = [
  post('/bundles', 'rules.read', give, { body: exportBody }),
  get('/imports', 'rules.read', list),
  post('/imports/plan', 'rules.edit', plan, { body: planBody, reads: jsonBody(longest) }),
  post('/imports', 'rules.edit', take, { body: importBody, reads: jsonBody(longest) }),
  post('/imports/:id/undo', 'rules.edit', undo),
];
