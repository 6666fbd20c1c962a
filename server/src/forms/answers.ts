import {
  answerStandings,
  type AnswerFilter,
  type AnswerPage,
  type AnswerProblem,
  type AnswerStanding,
  type AnswerView,
  type JsonObject,
} from '@vast-knot/core';
import type { Client, Runner } from '../db/pool';

/** A record type that is answered, by its names. */
export interface FormNamed {
  readonly system: string;
  readonly recordType: string;
}

/** An answer as it came. */
export interface NewAnswer extends FormNamed {
  readonly way: AnswerView['way'];
  readonly by: string;
  /** What tells a page that is sent twice from two pages; null where nothing does. */
  readonly pass: string | null;
  readonly given: JsonObject;
}

/** What an answer came to. */
export interface AnswerRead {
  readonly record: JsonObject | null;
  readonly problems: readonly AnswerProblem[];
  readonly leftOut: readonly string[];
}

/** Keeps an answer. Returns its id; undefined where the page was sent before. */
export async function keepAnswer(
  runner: Runner,
  { system, recordType, way, by, pass, given }: NewAnswer,
): Promise<string | undefined> {
  const { rows } = await runner.query<{ id: string }>(
    `INSERT INTO form_answers (system, record_type, way, sent_by, pass, given) VALUES ($1, $2, $3, $4, $5, $6)
     ON CONFLICT (pass) WHERE pass IS NOT NULL DO NOTHING RETURNING id::text AS id`,
    [system, recordType, way, by, pass, JSON.stringify(given)],
  );
  return rows[0]?.id;
}

/** Notes what an answer came to, and the run that it began. */
export async function noteRead(
  runner: Runner,
  id: string,
  { record, problems, leftOut }: AnswerRead,
  run: string | null,
): Promise<void> {
  await runner.query(
    'UPDATE form_answers SET record = $2, problems = $3, left_out = $4, run_id = $5 WHERE id = $1',
    [id, record && JSON.stringify(record), JSON.stringify(problems), JSON.stringify(leftOut), run],
  );
}

/** An answer as it is kept, with all that it needs to be read anew. */
export interface KeptAnswer extends FormNamed {
  readonly id: string;
  readonly cameAt: Date;
  readonly given: JsonObject;
  readonly run: string | null;
}

/** Returns an answer, which nobody else changes until the end of the transaction; undefined where there is none. */
export async function lockAnswer(client: Client, id: string): Promise<KeptAnswer | undefined> {
  const { rows } = await client.query<KeptAnswer>(
    `SELECT id::text AS id, system, record_type AS "recordType", came_at AS "cameAt", given, run_id::text AS run
     FROM form_answers WHERE id = $1 FOR UPDATE`,
    [id],
  );
  return rows[0];
}

const withRun = 'LEFT JOIN inbox AS run ON run.id = answer.run_id';
/** A run that is forgotten by now ended, and failures are kept for longer than any other. */
const standing = `CASE WHEN answer.run_id IS NULL THEN 'refused' WHEN run.state = 'waiting' THEN 'under way'
  WHEN run.state = 'failed' THEN 'failed' ELSE 'done' END`;

const answerColumns = `answer.id::text AS id, to_json(answer.came_at) #>> '{}' AS "cameAt", answer.way,
  answer.sent_by AS "sentBy", answer.given, answer.record, answer.problems, answer.left_out AS "leftOut", ${standing} AS standing,
  CASE WHEN run.id IS NOT NULL THEN json_build_object(
    'id', run.id::text, 'state', run.state, 'result', run.result, 'because', coalesce(run.because, '')) END AS run`;

/** The answers of a form that a filter lets through, as a part of a statement with its values. */
function fitting({ system, recordType }: FormNamed, { standing: wanted, search = '' }: AnswerFilter) {
  const values: unknown[] = [system, recordType];
  const bound = (value: unknown) => `$${values.push(value)}`;
  const conditions = ['answer.system = $1', 'answer.record_type = $2'];
  if (wanted !== undefined) conditions.push(`${standing} = ${bound(wanted)}`);
  if (search !== '')
    conditions.push(`answer.given::text ILIKE ${bound(`%${search.replaceAll(/[\\%_]/g, '\\$&')}%`)}`);
  return { from: `form_answers AS answer ${withRun} WHERE ${conditions.join(' AND ')}`, values, bound };
}

/** Returns answers of a form, newest first, from before one of them. */
export async function listAnswers(
  runner: Runner,
  form: FormNamed,
  filter: AnswerFilter,
  { before, limit }: { readonly before: string | null; readonly limit: number },
): Promise<AnswerPage> {
  const { from, values, bound } = fitting(form, filter);
  const earlier = before === null ? '' : ` AND answer.id < ${bound(before)}`;
  const { rows } = await runner.query<AnswerView>(
    `SELECT ${answerColumns} FROM ${from}${earlier} ORDER BY answer.id DESC LIMIT ${bound(limit + 1)}`,
    values,
  );
  const answers = rows.slice(0, limit);
  return {
    answers,
    counts: await countAnswers(runner, form),
    next: rows.length > limit ? (answers.at(-1)?.id ?? null) : null,
  };
}

async function countAnswers(runner: Runner, form: FormNamed): Promise<AnswerPage['counts']> {
  return (await countAllAnswers(runner, form))(form);
}

/** Returns what tells of each form, or of one alone, how many of its answers stand how. */
export async function countAllAnswers(
  runner: Runner,
  only?: FormNamed,
): Promise<(form: FormNamed) => AnswerPage['counts']> {
  const { rows } = await runner.query<FormNamed & { standing: AnswerStanding; count: number }>(
    `SELECT answer.system, answer.record_type AS "recordType", ${standing} AS standing, count(*)::float8 AS count
     FROM form_answers AS answer ${withRun}
     WHERE $1::text IS NULL OR (answer.system = $1 AND answer.record_type = $2) GROUP BY 1, 2, 3`,
    [only?.system ?? null, only?.recordType ?? null],
  );
  return ({ system, recordType }) => {
    const own = rows.filter((row) => row.system === system && row.recordType === recordType);
    const of = new Map(own.map((row) => [row.standing, row.count]));
    return Object.fromEntries(
      answerStandings.map((each) => [each, of.get(each) ?? 0]),
    ) as AnswerPage['counts'];
  };
}

/** Returns the ids of answers of a form that cannot be taken as it was when they came, oldest first. */
export async function refusedAnswers(
  runner: Runner,
  { system, recordType }: FormNamed,
  limit: number,
): Promise<readonly string[]> {
  const { rows } = await runner.query<{ id: string }>(
    'SELECT id::text AS id FROM form_answers WHERE system = $1 AND record_type = $2 AND run_id IS NULL ORDER BY form_answers.id LIMIT $3',
    [system, recordType, limit],
  );
  return rows.map(({ id }) => id);
}

/** How long answers are kept: as long as failed runs. */
const keptFor = '400 days';

/** Forgets answers that are very old. */
export async function clearAnswers(runner: Runner): Promise<void> {
  await runner.query(`DELETE FROM form_answers WHERE came_at < now() - interval '${keptFor}'`);
}
