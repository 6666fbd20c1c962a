import Joi from 'joi';
import {
  fileFormat,
  fileSettingsSchema,
  knownPlaces,
  layoutSchema,
  readLayoutText,
  type FileSettings,
  type Layout,
} from '@vast-knot/core';
import { alone } from '../arrivals/alone';
import { headOf, inletType, type TypeNamed } from '../arrivals/receive';
import { keepLayout, keepUsualLayout } from '../arrivals/repository';
import { viewOf } from '../arrivals/views';
import { HttpProblem, notFound, parsed, requiredRevision } from '../http/problem';
import { keptArrival } from './params';
import { personOf, post, put, type Handle, type Route } from './route';

/** How a file is read and tidied can be said before it is said what its records become. */
interface LayoutAsked {
  readonly system: string | null;
  readonly recordType: string | null;
  readonly layout: Layout;
  readonly usual: boolean;
}

const layoutBody = Joi.object<LayoutAsked>({
  system: Joi.string().max(40).allow(null).required(),
  recordType: Joi.string()
    .max(120)
    .when('system', { is: null, then: Joi.valid(null) })
    .required(),
  layout: layoutSchema.required(),
  usual: Joi.boolean().default(false),
});

/** Says how a file is laid out, from now on; with `usual` also those of its kind that come later. */
const layOut: Handle<'/arrivals/:id/layout'> = async (request, response, parts) => {
  const seen = requiredRevision(request.get('if-match'));
  const { system, recordType, layout, usual } = parsed(layoutBody, request.body);
  const arrival = await keptArrival(request.params.id, parts);
  const registry = await parts.registry.get();
  const named = system !== null && recordType !== null ? { system, recordType } : undefined;
  if (named && !inletType(registry, named)) throw notFound(`inlet ${system} for ${recordType}`);
  if (usual && !named)
    throw new HttpProblem(422, 'Not ready', 'Say first what the records of such files become.');
  const same = JSON.stringify(arrival.head.file) === JSON.stringify(layout.file);
  const head = same ? arrival.head : await headOf(parts, registry, arrival, layout.file);
  await alone(parts.pool, arrival.id, async (client) => {
    if (!(await keepLayout(client, arrival.id, seen, { system, recordType, layout, head })))
      throw new HttpProblem(
        412,
        'Changed in between',
        'Somebody else changed how this file is laid out. Load it again.',
      );
    if (usual && named) await keepUsualLayout(client, { ...named, layout, by: personOf(request) });
  });
  response.json(await viewOf(parts.pool, await keptArrival(arrival.id, parts)));
};

const headBody = Joi.object<{ file: FileSettings }>({ file: fileSettingsSchema.required() });

/** The beginning of a file as it would be read otherwise; nothing is kept. */
const tryHead: Handle<'/arrivals/:id/head'> = async (request, response, parts) => {
  const { file } = parsed(headBody, request.body);
  const arrival = await keptArrival(request.params.id, parts);
  response.json(await headOf(parts, await parts.registry.get(), arrival, file));
};

const textBody = Joi.object<TypeNamed & { file: FileSettings; text: string }>({
  system: Joi.string().max(40).required(),
  recordType: Joi.string().max(120).required(),
  file: fileSettingsSchema.required(),
  text: Joi.string().allow('').max(1_000_000).required(),
});

/** Reads lines from two columns; a name that nobody has is refused with its line. */
const readText: Handle<'/arrivals/:id/layout/text'> = async (request, response, parts) => {
  const { text, file, ...named } = parsed(textBody, request.body);
  const arrival = await keptArrival(request.params.id, parts);
  const type = inletType(await parts.registry.get(), named);
  if (!type) throw notFound(`inlet ${named.system} for ${named.recordType}`);
  const isTable = file.kind === 'csv' || file.kind === 'xlsx';
  const places = knownPlaces(
    fileFormat(file),
    arrival.head.rows.flatMap((row) => (row.ok ? [row.value] : [])),
  );
  const known = isTable ? { known: new Set(places.map(({ address }) => address)) } : {};
  const lines = readLayoutText(text, type, { file, ...known });
  if (!lines.ok) {
    const [first = 'It cannot be read.'] = lines.problems;
    throw new HttpProblem(
      422,
      'Not valid',
      first,
      lines.problems.map((message) => ({ at: 'text', message })),
    );
  }
  response.json({ lines: lines.lines });
};

/** What fills which field of the records that a file becomes. */
export const arrivalLayoutRoutes: readonly Route[] = [
  put('/arrivals/:id/layout', 'files.send', layOut, { body: layoutBody, revision: true }),
  post('/arrivals/:id/layout/text', 'files.read', readText, { body: textBody }),
  post('/arrivals/:id/head', 'files.read', tryHead, { body: headBody }),
];
