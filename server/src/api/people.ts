import Joi from 'joi';
import {
  allRights,
  environmentColours,
  type EnvironmentView,
  type InvitationMade,
  type PeopleView,
  type Right,
} from '@vast-knot/core';
import type { Pool } from '../db/pool';
import { HttpProblem, notFound, parsed, requiredRevision } from '../http/problem';
import { keepEnvironment } from '../people/environment';
import { invite, readInvitations, withdrawInvitation, type Invited } from '../people/invitations';
import { changePerson, keepCodes, readPeople, signOutEverywhere, type PersonChange } from '../people/people';
import { keepRole, readRoles, removeRole, type RoleSaid } from '../people/roles';
import { askingOf, type Asking } from '../people/session';
import { sendMail } from '../telling/mail';
import { uuidOf } from './params';
import { get, patch, post, put, remove, type AppParts, type Route } from './route';

/** What people are known by: as it is typed to sign in. */
const personName = Joi.string()
  .pattern(/^[\p{L}\p{N}][\p{L}\p{N}._@+-]{0,79}$/u, 'letters, digits and ._@+-')
  .normalize('NFC');
const roleKey = /^[a-z][a-z0-9-]{0,39}$/;
const mail = Joi.string().allow('').email({ tlds: false }).max(200);

const invitationBody = Joi.object<{ name: string; role: string; mail: string }>({
  name: personName.required(),
  role: Joi.string().max(40).required(),
  mail: mail.default(''),
});
const changeBody = Joi.object<PersonChange>({
  role: Joi.string().max(40),
  fullName: Joi.string().allow('').max(120),
  mail,
  stopped: Joi.boolean(),
}).min(1);
const roleBody = Joi.object<RoleSaid>({
  name: Joi.string().trim().max(60).required(),
  says: Joi.string().allow('').max(200).required(),
  rights: Joi.array()
    .items(Joi.valid(...allRights))
    .unique()
    .required(),
  secondFactor: Joi.boolean().required(),
});
const environmentBody = Joi.object<Omit<EnvironmentView, 'revision'>>({
  name: Joi.string().allow('').trim().max(40).required(),
  colour: Joi.valid(...environmentColours).required(),
  secondPerson: Joi.boolean().required(),
});

/** Throws a problem where somebody would give what they do not have: nobody makes another more than they are. */
function requireOwn(person: Asking, rights: readonly Right[]): void {
  if (rights.some((right) => !person.rights.has(right)))
    throw new HttpProblem(403, 'Not allowed', 'Nobody can give rights that they do not have.');
}

async function requireRoleToGive(pool: Pool, person: Asking, key: string): Promise<void> {
  const role = (await readRoles(pool)).find((each) => each.key === key);
  if (!role)
    throw new HttpProblem(422, 'Not valid', `There is no role ${key}.`, [
      { at: 'role', message: 'There is no such role' },
    ]);
  requireOwn(person, role.rights);
}

/** Throws a problem unless a person may do to another what changes what that one may, or with what they sign in. */
async function requireOver(pool: Pool, person: Asking, name: string): Promise<{ readonly mail: string }> {
  const [people, roles] = await Promise.all([readPeople(pool), readRoles(pool)]);
  const other = people.find((each) => each.name === name);
  if (!other) throw notFound(`person ${name}`);
  requireOwn(person, roles.find(({ key }) => key === other.role)?.rights ?? []);
  return other;
}

async function viewOf(pool: Pool): Promise<PeopleView> {
  const [people, invitations, roles] = await Promise.all([
    readPeople(pool),
    readInvitations(pool),
    readRoles(pool),
  ]);
  return { people, invitations, roles };
}

/** Makes an invitation, and mails it where there is an address and a mail server. */
async function made({ pool, config, log }: AppParts, invited: Invited): Promise<InvitationMade> {
  const { invitation, secret } = await invite(pool, invited);
  // Behind a hash it is sent to no server, and stands in no log on the way.
  const link = `${config.publicUrl}/join#${secret}`;
  const { id, kind, name, mail: to, madeBy } = invitation;
  if (config.mail === undefined || to === '') return { ...invitation, link, mailed: false };
  const subject = kind === 'join' ? `${madeBy} invites you to Vast Knot` : 'Another password for Vast Knot';
  const text = `${subject}, as ${name}.\n\nThe link works once, within two days:\n${link}\n`;
  const because = await sendMail(config.mail, { to: [to], subject, text, id });
  if (because !== null) log.warn({ because }, 'an invitation was not mailed');
  return { ...invitation, link, mailed: because === null };
}

export const peopleRoutes: readonly Route[] = [
  get('/people', 'people.read', async (_request, response, { pool }) => {
    response.json(await viewOf(pool));
  }),
  post(
    '/people/invitations',
    'people.change',
    async (request, response, parts) => {
      const { name, role, mail: to } = parsed(invitationBody, request.body);
      const person = askingOf(request);
      await requireRoleToGive(parts.pool, person, role);
      if ((await readPeople(parts.pool)).some((each) => each.name === name))
        throw new HttpProblem(409, 'Taken', `There is somebody called ${name} already.`);
      response
        .status(201)
        .json(await made(parts, { kind: 'join', name, mail: to, role, madeBy: person.name }));
    },
    { body: invitationBody },
  ),
  remove('/people/invitations/:id', 'people.change', async (request, response, { pool }) => {
    await withdrawInvitation(pool, uuidOf(request.params.id, 'invitation'));
    response.status(204).end();
  }),
  patch(
    '/people/:name',
    'people.change',
    async (request, response, { pool }) => {
      const { name } = request.params;
      const change = parsed(changeBody, request.body);
      const person = askingOf(request);
      await requireOver(pool, person, name);
      if (change.role !== undefined) await requireRoleToGive(pool, person, change.role);
      await changePerson(pool, name, change);
      response.json(await viewOf(pool));
    },
    { body: changeBody },
  ),
  post('/people/:name/sign-out', 'people.change', async (request, response, { pool }) => {
    await requireOver(pool, askingOf(request), request.params.name);
    await signOutEverywhere(pool, request.params.name);
    response.status(204).end();
  }),
  post('/people/:name/password', 'people.change', async (request, response, parts) => {
    const { name } = request.params;
    const person = askingOf(request);
    const { mail: to } = await requireOver(parts.pool, person, name);
    response
      .status(201)
      .json(await made(parts, { kind: 'password', name, mail: to, role: null, madeBy: person.name }));
  }),
  remove('/people/:name/second-factor', 'people.change', async (request, response, { pool }) => {
    const { name } = request.params;
    await requireOver(pool, askingOf(request), name);
    await keepCodes(pool, { name, secret: null });
    await signOutEverywhere(pool, name);
    response.json(await viewOf(pool));
  }),
  put(
    '/roles/:key',
    'people.change',
    async (request, response, { pool }) => {
      const { key } = request.params;
      if (!roleKey.test(key))
        throw new HttpProblem(422, 'Not valid', 'A role is known by letters, digits and “-”.');
      const revision = requiredRevision(request.get('if-match'));
      const said = parsed(roleBody, request.body);
      requireOwn(askingOf(request), said.rights);
      await keepRole(pool, { key, revision, said });
      response.json(await viewOf(pool));
    },
    { body: roleBody, revision: true },
  ),
  remove('/roles/:key', 'people.change', async (request, response, { pool }) => {
    await removeRole(pool, request.params.key);
    response.json(await viewOf(pool));
  }),
  put(
    '/environment',
    'environment.change',
    async (request, response, { pool }) => {
      const revision = requiredRevision(request.get('if-match'));
      response.json(await keepEnvironment(pool, { ...parsed(environmentBody, request.body), revision }));
    },
    { body: environmentBody, revision: true },
  ),
];
