import { Router, type Request, type Response } from 'express';
import {
  answerOf,
  formPage,
  leadsFurther,
  pageNames,
  sayingPage,
  thanksPage,
  type AnswerProblem,
  type Json,
  type JsonObject,
} from '@vast-knot/core';
import { newPass, readPass } from '../forms/pass';
import { takeAnswer } from '../forms/take';
import { closedBecause, formAt, type ReadyForm } from '../forms/types';
import { formBody } from '../http/formBody';
import { addressOf, atMostInMinute, atMostInMinuteOfAll } from '../http/limits';
import { HttpProblem, parsed, TryLater } from '../http/problem';
import { wellFormedAddress } from '../http/wellFormed';
import { answerBody } from './forms';
import type { AppParts } from './route';

const longestAnswer = '200kb';
/** All answers of one form that are taken in a minute, whoever sends them. */
const mostOfForm = 600;
/** A page asks once for each change what is shown, and is looked at some times before it is sent. */
const looksForAnswer = 20;

/** Nothing from elsewhere is loaded, sent to or shown around it. */
const policy =
  "default-src 'none'; style-src 'unsafe-inline'; script-src 'self'; connect-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'";

/** The pages on which people outside answer forms: they need no signing in, no script, and no cookie. */
export function formPages(parts: AppParts): Router {
  const router = Router();
  const { pool, config } = parts;
  router.use(wellFormedAddress, (_request, response, next) => {
    response.set({
      'cache-control': 'no-store',
      'content-security-policy': policy,
      'x-robots-tag': 'noindex',
    });
    next();
  });
  const { answers } = config.mostInMinute;
  const looking = atMostInMinute(answers * looksForAnswer);
  const ofOne = atMostInMinuteOfAll(pool, { name: 'answers', most: answers, keyOf: addressOf });
  const ofAll = atMostInMinuteOfAll(pool, {
    name: 'answers of a form',
    most: mostOfForm,
    keyOf: ({ params }) => String(params['address']),
  });
  router.get('/:address', looking, (request, response) => show(request, response, parts));
  router.post('/:address/shown', looking, ...formBody(longestAnswer), (request, response) =>
    shown(request, response, parts),
  );
  router.post('/:address', looking, ofOne, ofAll, ...formBody(longestAnswer), (request, response) =>
    take(request, response, parts),
  );
  return router;
}

async function readyOf({ params }: Request, { registry }: AppParts): Promise<ReadyForm> {
  const ready = formAt(await registry.recent(), String(params['address']));
  if (!ready) throw new HttpProblem(404, 'Not found', 'There is no form at this address.');
  return ready;
}

async function show(request: Request, response: Response, parts: AppParts): Promise<void> {
  const ready = await readyOf(request, parts);
  const closed = closedBecause(ready);
  if (closed !== undefined) return giveHtml(response, 503, sayingPage(ready.form.title, closed));
  const { compiled } = ready;
  const now = new Date();
  const answered = answerOf(compiled, {}, { time: now.toISOString() });
  const pass = newPass(parts.seal, ready.form.address, now);
  giveHtml(response, 200, formPage({ compiled, given: {}, answered, problems: [], pass }));
}

/** Returns which questions are shown with the answers so far. Nothing of them is kept. */
async function shown(request: Request, response: Response, parts: AppParts): Promise<void> {
  const { given } = sentOf(request);
  const { compiled } = await readyOf(request, parts);
  response.json(answerOf(compiled, given, { time: new Date().toISOString() }).shown);
}

async function take(request: Request, response: Response, parts: AppParts): Promise<void> {
  const { given, pass, asked, bait } = sentOf(request);
  const registry = await parts.registry.recent();
  const ready = await readyOf(request, parts);
  const { form, compiled } = ready;
  const closed = closedBecause(ready);
  if (closed !== undefined) return giveHtml(response, 503, sayingPage(form.title, closed));
  // Whoever filled in what nobody sees is no person; it is not told so.
  if (bait !== '') return giveHtml(response, 200, thanksPage(form));
  const now = new Date();
  const answered = answerOf(compiled, given, { time: now.toISOString() });
  const read = readPass(parts.seal, form.address, pass, now);
  const problems: readonly AnswerProblem[] = [
    ...(read.ok ? [] : [{ because: read.because }]),
    ...(leadsFurther(compiled, answered, asked)
      ? [{ because: 'Your answers lead to further questions. Please look through them.' }]
      : []),
    ...answered.problems,
  ];
  if (!read.ok || problems.length > 0) {
    const again = newPass(parts.seal, form.address, now);
    return giveHtml(response, 422, formPage({ compiled, given, answered, problems, pass: again }));
  }
  await takeAnswer(parts.pool, registry, ready, { way: 'page', by: '', pass: read.id, given });
  giveHtml(response, 200, thanksPage(form));
}

function giveHtml(response: Response, status: number, html: string): void {
  response.status(status).type('html').send(html);
}

interface Sent {
  readonly given: JsonObject;
  readonly pass: string;
  /** The places of the questions that were shown. */
  readonly asked: ReadonlySet<number>;
  readonly bait: string;
}

/** Returns what a page sends: the answers, and what is its own. */
function sentOf(request: Request): Sent {
  const body = parsed(answerBody, (request.body as unknown) ?? {}) as JsonObject;
  const own = new Set<string>(Object.values(pageNames));
  const text = (json: Json | undefined) => (typeof json === 'string' ? json : '');
  return {
    given: Object.fromEntries(Object.entries(body).filter(([name]) => !own.has(name))),
    pass: text(body[pageNames.pass]),
    asked: new Set(
      text(body[pageNames.asked])
        .split(',')
        .filter((each) => /^\d{1,4}$/.test(each))
        .map(Number),
    ),
    bait: text(body[pageNames.bait]),
  };
}

/** Returns a failure as a page: people read it, and no program. */
export function failureAsPage(problem: HttpProblem): string {
  const says =
    problem instanceof TryLater
      ? 'Many answers come at the moment. Please try again in a minute.'
      : problem.detail;
  return sayingPage(problem.title, says);
}
