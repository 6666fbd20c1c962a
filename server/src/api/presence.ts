import Joi from 'joi';
import type { PresenceAsked, PresenceKind, Right } from '@vast-knot/core';
import { parsed } from '../http/problem';
import { noteClosed, noteOpen } from '../people/presence';
import { checkRight } from '../people/session';
import { uuidOf } from './params';
import { personOf, put, remove, type Handle, type Route } from './route';

/** What somebody must be let see to be told who else has it open. */
const seeing: Readonly<Record<PresenceKind, Right>> = {
  rule: 'rules.read',
  table: 'tables.read',
  sample: 'samples.read',
  system: 'systems.read',
  address: 'endpoints.read',
};

const body = Joi.object<PresenceAsked>({
  tab: Joi.string().guid().required(),
  kind: Joi.valid(...Object.keys(seeing)).required(),
  key: Joi.string().max(200).required(),
});

/** Says what somebody has open, and tells who else has. */
const open: Handle<'/presence'> = async (request, response, { pool }) => {
  const asked = parsed(body, request.body);
  checkRight(request, seeing[asked.kind]);
  response.json(await noteOpen(pool, personOf(request), asked));
};

const close: Handle<'/presence/:tab'> = async (request, response, { pool }) => {
  await noteClosed(pool, personOf(request), uuidOf(request.params.tab, 'tab'));
  response.status(204).end();
};

/** Who has what open at this moment. */
export const presenceRoutes: readonly Route[] = [
  put('/presence', 'systems.read', open, { body }),
  remove('/presence/:tab', 'systems.read', close),
];
