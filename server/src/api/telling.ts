import Joi from 'joi';
import { isZone, type TellingSettings, type TellingWay } from '@vast-knot/core';
import { HttpProblem, parsed } from '../http/problem';
import { keepTelling, viewTelling } from '../telling/settings';
import { tellTest } from '../telling/tell';
import { get, personOf, post, put, type Handle, type Route } from './route';

const time = Joi.string()
  .pattern(/^([01]\d|2[0-3]):[0-5]\d$/, 'a time of day such as 22:00')
  .required();
const body = Joi.object<TellingSettings>({
  address: Joi.string().max(40).allow(null).required(),
  mail: Joi.array()
    .items(Joi.string().email({ tlds: false }).max(200))
    .max(20)
    .unique()
    .required(),
  kinds: Joi.array()
    .items(Joi.valid('failure', 'away', 'given up', 'drift', 'missing file'))
    .unique()
    .required(),
  quiet: Joi.object({ from: time, to: time, zone: Joi.string().max(60).required() })
    .allow(null)
    .required(),
});

const read: Handle<'/telling'> = async (_request, response, { pool, config }) => {
  response.json(await viewTelling(pool, config.mail !== undefined));
};

const change: Handle<'/telling'> = async (request, response, { pool, config, registry }) => {
  const settings = parsed(body, request.body);
  const wrong = (at: string, message: string) =>
    new HttpProblem(422, 'Not valid', message, [{ at, message }]);
  if (settings.address !== null && !(await registry.get()).endpoints.has(settings.address))
    throw wrong('address', `There is no outside address “${settings.address}”.`);
  if (settings.quiet && !isZone(settings.quiet.zone))
    throw wrong(
      'quiet.zone',
      `“${settings.quiet.zone}” is no zone of the IANA database, such as Europe/London.`,
    );
  await keepTelling(pool, settings, personOf(request));
  response.json(await viewTelling(pool, config.mail !== undefined));
};

const testBody = Joi.object<{ way: TellingWay }>({ way: Joi.valid('address', 'mail').required() });

/** Sends a message that is only a test to whoever is told. */
const test: Handle<'/telling/test'> = async (request, response, { pool, config, registry, outside }) => {
  const { way } = parsed(testBody, request.body);
  const problem = await tellTest(
    {
      pool,
      registry: await registry.get(),
      dispatcher: outside.dispatcher,
      allowedOutbound: config.allowedOutbound,
      mail: config.mail,
      publicUrl: config.publicUrl,
      now: new Date(),
    },
    way,
  );
  response.json({ problem });
};

/** Who is told when something needs a person. */
export const tellingRoutes: readonly Route[] = [
  get('/telling', 'telling.read', read),
  put('/telling', 'telling.change', change, { body }),
  post('/telling/test', 'telling.change', test, { body: testBody }),
];
