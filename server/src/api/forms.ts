import Joi from 'joi';
import {
  answerStandings,
  formSchema,
  recordTypeSchema,
  typeProblem,
  type AnswerFilter,
  type FormChange,
  type FormSummary,
  type FormView,
  type RecordType,
} from '@vast-knot/core';
import { countAllAnswers, listAnswers, refusedAnswers, type FormNamed } from '../forms/answers';
import { addFormType, changeFormType, removeFormType, type Changed } from '../forms/change';
import { takeAgain, takeAnswer } from '../forms/take';
import { formOf, formViews, closedBecause } from '../forms/types';
import { formBody } from '../http/formBody';
import { HttpProblem, notFound, parsed } from '../http/problem';
import { listRules } from '../rules/repository';
import { systemKey } from './params';
import { get, personOf, post, put, remove, type AppParts, type Handle, type Route } from './route';

/** A form with its record type may be so long as JSON, and answers of other forms so long. */
const [longestForm, longestAnswer] = ['2mb', '200kb'];
/** Answers that are listed at a time, and refused ones that are tried again with one press. */
const [pageSize, mostAgain] = [100, 500];

const list: Handle<'/forms'> = async (_request, response, { registry, pool }) => {
  const countsOf = await countAllAnswers(pool);
  response.json(
    formViews(await registry.get()).map((view): FormSummary => ({
      ...view,
      counts: countsOf({ system: view.system, recordType: view.type.name }),
    })),
  );
};

async function viewOf({ system, recordType }: FormNamed, { registry }: AppParts): Promise<FormView> {
  const view = formViews(await registry.get()).find(
    (each) => each.system === system && each.type.name === recordType,
  );
  if (!view) throw notFound(`inlet ${system} for ${recordType}`);
  return view;
}

const both = { type: recordTypeSchema.required(), form: formSchema.allow(null).required() };
const addBody = Joi.object<Pick<FormView, 'type' | 'form'>>(both);

/** Throws a 422 where fields make no record type. */
function checkType(type: RecordType): void {
  const because = typeProblem(type);
  if (because !== undefined)
    throw new HttpProblem(422, 'Not valid', because, [{ at: 'type', message: because }]);
}

const add: Handle<'/forms/:system'> = async (request, response, parts) => {
  const wanted = parsed(addBody, request.body);
  checkType(wanted.type);
  const system = systemKey(request.params.system);
  const { catalog } = await parts.registry.get();
  answer(await addFormType(parts.pool, parts.seal, catalog.systems, system, wanted), system);
  response.status(201).json(await viewOf({ system, recordType: wanted.type.name }, parts));
};

const changeBody = Joi.object<FormChange>({ ...both, seen: Joi.object(both).required() });

const change: Handle<'/forms/:system/:recordType'> = async (request, response, parts) => {
  const wanted = parsed(changeBody, request.body);
  checkType(wanted.type);
  const { system, recordType } = request.params;
  if (wanted.type.name !== recordType)
    throw new HttpProblem(
      422,
      'Not valid',
      `The record type is called “${recordType}” by rules, and keeps that name.`,
    );
  answer(await changeFormType(parts.pool, parts.seal, request.params, wanted), system);
  response.json(await viewOf(request.params, parts));
};

/** Throws what keeps a change from being made. */
function answer(changed: Changed, system: string): void {
  switch (changed.is) {
    case 'changed':
      return;
    case 'no inlet':
      throw notFound(`system ${system} that only tells`);
    case 'taken':
      throw new HttpProblem(409, 'Taken', 'Another record type has this name, or another page this address.');
    case 'moved':
      throw changed.theirs
        ? new HttpProblem(
            412,
            'Changed in between',
            'Somebody else changed this form in between; load it again.',
          )
        : notFound('such form any more');
  }
}

const takeOut: Handle<'/forms/:system/:recordType'> = async (request, response, parts) => {
  const { system, recordType } = request.params;
  const starting = (await listRules(parts.pool)).filter(({ draft, published }) =>
    [draft, published?.body].some(
      (body) => body?.trigger.system === system && body.trigger.recordType === recordType,
    ),
  );
  const names = starting.map(({ draft }) => `“${draft.name}”`);
  if (names.length > 0)
    throw new HttpProblem(409, 'In use', `It starts ${names.join(', ')}. Remove these rules first.`);
  const was = await removeFormType(parts.pool, parts.seal, request.params);
  if (!was) throw notFound(`inlet ${system} for ${recordType}`);
  response.json({ system, ...was } satisfies FormView);
};

/** Takes an answer of another form. One that cannot be taken is kept all the same, and answered with why. */
const send: Handle<'/forms/:system/:recordType/answers'> = async (request, response, parts) => {
  const given = parsed(answerBody, request.body);
  const registry = await parts.registry.get();
  const ready = formOf(registry, request.params);
  const closed = closedBecause(ready);
  if (closed !== undefined) throw new HttpProblem(409, 'Not taken', closed);
  const { id = '', problems } = await takeAnswer(parts.pool, registry, ready, {
    way: 'address',
    by: personOf(request),
    pass: null,
    given,
  });
  if (problems.length > 0)
    throw new HttpProblem(
      422,
      'Not taken',
      `${problems.map(({ because }) => because).join(' ')} The answer is kept as number ${id}.`,
      problems.map(({ field, because }) => ({ at: field ?? '', message: because })),
    );
  response.status(202).json({ id });
};

/** Names and values as other forms send them. */
export const answerBody = Joi.object().pattern(Joi.string().max(500), Joi.any()).max(2000);

const answersQuery = Joi.object<AnswerFilter & { before?: string }>({
  standing: Joi.valid(...answerStandings),
  search: Joi.string().allow('').max(200),
  before: Joi.string().pattern(/^\d{1,18}$/, 'an id'),
});

const answers: Handle<'/forms/:system/:recordType/answers'> = async (request, response, parts) => {
  const { before = null, ...filter } = parsed(answersQuery, request.query);
  const { system, type } = await viewOf(request.params, parts);
  response.json(
    await listAnswers(parts.pool, { system, recordType: type.name }, filter, { before, limit: pageSize }),
  );
};

/** Reads an answer that could not be taken as the form is now. */
const again: Handle<'/answers/:id/again'> = async (request, response, parts) => {
  const { id } = request.params;
  if (!/^\d{1,18}$/.test(id)) throw notFound('such answer');
  const result = await takeAgain(parts.pool, await parts.registry.get(), id);
  if (result.is === 'gone') throw notFound('such answer');
  if (result.is === 'taken before')
    throw new HttpProblem(409, 'Taken already', 'This answer was taken; its run is what can be tried again.');
  response.json({ problems: result.problems });
};

/** The same for all of a form that could not be taken. */
const allAgain: Handle<'/forms/:system/:recordType/again'> = async (request, response, parts) => {
  const { system, type } = await viewOf(request.params, parts);
  const registry = await parts.registry.get();
  let [taken, refused] = [0, 0];
  for (const id of await refusedAnswers(parts.pool, { system, recordType: type.name }, mostAgain)) {
    const result = await takeAgain(parts.pool, registry, id);
    if (result.is !== 'taken') continue;
    if (result.problems.length === 0) taken++;
    else refused++;
  }
  response.json({ taken, refused });
};

/** Record types that come in by files and forms, their pages, and the answers. */
export const formRoutes: readonly Route[] = [
  get('/forms', 'systems.read', list),
  post('/forms/:system', 'systems.change', add, { body: addBody, reads: formBody(longestForm) }),
  put('/forms/:system/:recordType', 'systems.change', change, {
    body: changeBody,
    reads: formBody(longestForm),
  }),
  remove('/forms/:system/:recordType', 'systems.change', takeOut),
  get('/forms/:system/:recordType/answers', 'files.read', answers, { query: answersQuery }),
  post('/forms/:system/:recordType/answers', 'files.send', send, {
    body: answerBody,
    reads: formBody(longestAnswer),
  }),
  post('/forms/:system/:recordType/again', 'files.apply', allAgain),
  post('/answers/:id/again', 'files.apply', again),
];
