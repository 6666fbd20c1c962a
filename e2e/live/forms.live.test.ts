import { setTimeout } from 'node:timers/promises';
import type { AnswerPage, AnswerView, FormView, RunSummary } from '@vast-knot/core';
import { until, World } from './harness';

jest.setTimeout(60_000);
let world: World;
beforeAll(async () => {
  world = await World.start({ ANSWERS_PER_MINUTE: '40' });
});
afterAll(() => world.stop());

const path = '/forms/inlets/cargo%20questionnaire';
/** As a browser outside, which is signed in nowhere. */
const outside = (
  address: string,
  answers?: readonly (readonly [name: string, value: string])[],
): Promise<Response> =>
  fetch(`${world.url}/forms/${address}`, {
    ...(answers && {
      method: 'POST',
      body: new URLSearchParams(answers.map(([name, value]): [string, string] => [name, value])),
    }),
  });
const hidden = (html: string, name: string) =>
  new RegExp(`name="${name.replace('.', '\\.')}" value="([^"]*)"`).exec(html)?.[1] ?? '';
/** Opens the page, waits as somebody who reads it does, and sends answers. */
async function answerPage(
  answers: readonly (readonly [string, string])[],
  { asked }: { readonly asked?: string } = {},
) {
  const page = await (await outside('cargo-questionnaire')).text();
  await setTimeout(1600);
  const own = [
    ['.pass', hidden(page, '.pass')],
    ['.asked', asked ?? hidden(page, '.asked')],
    ['.website', ''],
  ] as const;
  const send = async () => {
    const response = await outside('cargo-questionnaire', [...own, ...answers]);
    return { status: response.status, html: await response.text() };
  };
  return { send };
}
const log = async (filter = '') => (await world.api<AnswerPage>('GET', `${path}/answers?${filter}`)).body;
const ended = (id: string) =>
  until<AnswerView>('the run of the answer', async () => {
    const answer = (await log()).answers.find((each) => each.id === id);
    return answer && answer.standing !== 'under way' && answer;
  });
const form = async () => {
  const { body } = await world.api<FormView[]>('GET', '/forms');
  const found = body.find(({ type }) => type.name === 'cargo questionnaire');
  if (!found?.form) throw new Error('The demo has no form.');
  return { ...found, form: found.form };
};

test('what somebody outside answers on the page of a form is written by its rule, and once only', async () => {
  const page = await outside('cargo-questionnaire');
  expect(page.status).toBe(200);
  expect(page.headers.get('set-cookie')).toBeNull();
  expect(page.headers.get('content-security-policy')).toContain("default-src 'none'");
  expect(await page.text()).toContain('How shall we handle your cargo?');
  const { send } = await answerPage([
    ['booking', 'BK70004'],
    ['care', 'Keep upright'],
    ['care', 'Fragile'],
    ['instructions', 'Ring 01632 960 133 – “twice”'],
  ]);
  const first = await send();
  expect([first.status, first.html.includes('with the people who load your cargo')]).toEqual([200, true]);
  const again = await send();
  expect(again.status).toBe(200);
  const { answers } = await log();
  expect(answers).toHaveLength(1);
  const done = await ended(answers[0]?.id ?? '');
  expect(done).toMatchObject({ standing: 'done', way: 'page', sentBy: '', problems: [], leftOut: [] });
  expect(done.record).toMatchObject({
    care: ['Keep upright', 'Fragile'],
    instructions: 'Ring 01632 960 133 – “twice”',
  });
  expect((await world.booking('BK70004'))['handlingCodes']).toBe('UP-FR');
});

test('a page that is not answered as it has to be comes back with the reasons and what was typed, and is kept nowhere', async () => {
  const before = (await log()).answers.length;
  const missing = await (await answerPage([['weight', 'heavy']])).send();
  expect(missing.status).toBe(422);
  expect(missing.html).toContain('Please answer “Booking”.');
  expect(missing.html).toContain('takes a number, such as 250.');
  expect(missing.html).toContain('value="heavy"');
  // Without a script the question that follows was not seen.
  const further = await (
    await answerPage([
      ['booking', 'BK70004'],
      ['care', 'Keep chilled'],
    ])
  ).send();
  expect(further.status).toBe(422);
  expect(further.html).toContain('Your answers lead to further questions.');
  const stopped = await (
    await answerPage([
      ['booking', 'BK70004'],
      ['weight', '24001'],
    ])
  ).send();
  expect(stopped.html).toContain('We cannot take more than 24 tonnes in one piece.');
  expect((await log()).answers).toHaveLength(before);
});

test('what is shown follows the answers, and nothing of them is kept', async () => {
  const shown = async (answers: Record<string, string>) =>
    (await (
      await fetch(`${world.url}/forms/cargo-questionnaire/shown`, {
        method: 'POST',
        body: new URLSearchParams(answers),
      })
    ).json()) as unknown;
  expect(await shown({})).toEqual([0, 1, 4, 7]);
  expect(await shown({ care: 'Keep chilled', weight: '6000' })).toEqual([0, 1, 2, 4, 5, 7]);
  expect(await shown({ weight: '1e9' })).toEqual([0, 1, 4, 7]);
});

test('programs that fill in everything, pages that were not made here, and answers at once are not taken', async () => {
  const before = (await log()).answers.length;
  const page = await (await outside('cargo-questionnaire')).text();
  const pass = hidden(page, '.pass');
  const quick = await outside('cargo-questionnaire', [
    ['.pass', pass],
    ['.asked', '0,1,4,7'],
    ['booking', 'BK70004'],
  ]);
  expect(quick.status).toBe(422);
  expect(await quick.text()).toContain('That was very quick.');
  const foreign = await outside('cargo-questionnaire', [
    ['.pass', 'AAAA'],
    ['.asked', '0,1,4,7'],
    ['booking', 'BK70004'],
  ]);
  expect(await foreign.text()).toContain('The page is not one of ours any more.');
  const filled = await outside('cargo-questionnaire', [
    ['.pass', pass],
    ['.website', 'http://spam.example'],
    ['booking', 'BK70004'],
  ]);
  expect(filled.status).toBe(200);
  expect((await log()).answers).toHaveLength(before);
});

test('another form sends its answers as JSON or as a form does; one that cannot be taken waits until that is mended', async () => {
  const json = await world.api<{ id: string }>('POST', `${path}/answers`, {
    Booking: 'BK70005',
    'What needs care': ['live animals'],
    campaign: 'spring',
  });
  expect(json.status).toBe(202);
  const taken = await ended(json.body.id);
  expect(taken).toMatchObject({
    standing: 'done',
    way: 'address',
    record: { booking: 'BK70005', care: ['Live animals'] },
    leftOut: ['campaign'],
  });
  expect(taken.sentBy).not.toBe('');
  const encoded = await world.send<{ detail: string; errors: unknown }>(
    'POST',
    `${path}/answers`,
    'booking=BK70005&care=Keep+upright&care=Keep+frozen',
    'application/x-www-form-urlencoded',
  );
  expect(encoded.status).toBe(422);
  expect(encoded.body.detail).toContain('“Keep frozen” is none of the choices of “What needs care”.');
  expect(encoded.body.errors).toEqual([
    { at: 'care', message: '“Keep frozen” is none of the choices of “What needs care”.' },
  ]);
  const { answers, counts } = await log('standing=refused');
  expect(answers).toHaveLength(1);
  expect(counts).toMatchObject({ refused: 1, failed: 0, 'under way': 0 });
  const id = answers[0]?.id ?? '';
  const still = await world.api<{ problems: unknown[] }>('POST', `/answers/${id}/again`, {});
  expect(still.body.problems).toHaveLength(1);
  // A choice more, and a row for it: the answer can be taken.
  const { type, form: page } = await form();
  const fields = type.fields.map((field) =>
    field.name === 'care'
      ? { ...field, options: [...(field.options ?? []), { value: 'Keep frozen', label: 'Keep frozen' }] }
      : field,
  );
  const changed = await world.api<FormView>('PUT', path, {
    type: { ...type, fields },
    form: page,
    seen: { type, form: page },
  });
  expect(changed.status).toBe(200);
  // Before anybody answers, the rule tells that its table has no code for it.
  const { body: findings } = await world.api<{ findings: { kind: string; message: string }[] }[]>(
    'GET',
    '/rules/findings',
  );
  expect(
    findings.flatMap((each) => each.findings).filter(({ message }) => message.includes('Keep frozen')),
  ).toMatchObject([{ kind: 'option without row' }]);
  const again = await world.api<{ taken: number; refused: number }>('POST', `${path}/again`, {});
  expect(again.body).toEqual({ taken: 1, refused: 0 });
  // The answer can be taken; what its rule needs is missing still.
  const failed = await ended(id);
  expect(failed).toMatchObject({ standing: 'failed', record: { care: ['Keep upright', 'Keep frozen'] } });
  expect(failed.run?.because).toContain('Keep frozen');
  const row = {
    what: 'A label more',
    changes: [{ id: null, before: null, after: ['Keep frozen', 'FZ', 'reefer'] }],
  };
  expect((await world.api('POST', '/tables/Handling%20labels%20to%20codes/rows', row)).status).toBe(200);
  expect((await world.api('POST', `/runs/${failed.run?.id}/retry`, {})).status).toBe(202);
  expect(await ended(id)).toMatchObject({ standing: 'done' });
  expect((await world.booking('BK70005'))['handlingCodes']).toBe('UP-FZ');
  expect((await world.api('POST', `/answers/${id}/again`, {})).status).toBe(409);
});

test('an answer whose rule fails says so in the log, and its run is tried again after a mend', async () => {
  const { body } = await world.api<{ id: string }>('POST', `${path}/answers`, { booking: 'BK79999' });
  const failed = await ended(body.id);
  expect(failed.standing).toBe('failed');
  expect(failed.run?.because).toContain('No booking was found');
  expect((await log('standing=failed')).answers.map(({ id }) => id)).toEqual([body.id]);
  expect((await log('search=BK79999')).answers).toHaveLength(1);
  const tried = await world.api<RunSummary>('POST', `/runs/${failed.run?.id}/retry`, {});
  expect(tried.status).toBeLessThan(300);
});

test('a form is changed only as it was seen, keeps its address for itself, and is not taken out while it starts rules', async () => {
  const { type, form: page } = await form();
  const seen = { type, form: page };
  const moved = await world.api('PUT', path, {
    ...seen,
    seen: { type, form: { ...page, title: 'Earlier' } },
  });
  expect(moved.status).toBe(412);
  const renamed = await world.api<{ detail: string }>('PUT', path, {
    ...seen,
    type: { ...type, name: 'other' },
    seen,
  });
  expect([renamed.status, renamed.body.detail]).toEqual([422, expect.stringContaining('keeps that name')]);
  const inUse = await world.api<{ detail: string }>('DELETE', path);
  expect([inUse.status, inUse.body.detail]).toEqual([
    409,
    expect.stringContaining('Cargo questionnaire gives'),
  ]);
  const feedback = {
    name: 'feedback',
    label: 'Feedback',
    plural: 'Feedback',
    idField: 'number',
    nameField: 'number',
    fields: [
      { name: 'number', label: 'Number', type: 'text', readOnly: true },
      { name: 'said', label: 'What shall we do better?', type: 'text', required: true },
    ],
  };
  const taken = await world.api('POST', '/forms/inlets', { type: feedback, form: page });
  expect(taken.status).toBe(409);
  const own = {
    ...page,
    address: 'feedback',
    items: [{ kind: 'question', field: 'said', hint: '', shown: '' }],
  };
  expect(
    (await world.api('POST', '/forms/inlets', { type: feedback, form: { ...own, open: false } })).status,
  ).toBe(201);
  expect((await outside('feedback')).status).toBe(503);
  await world.api('PUT', '/forms/inlets/feedback', {
    type: feedback,
    form: own,
    seen: { type: feedback, form: { ...own, open: false } },
  });
  expect((await outside('feedback')).status).toBe(200);
  const gone = await world.api<FormView>('DELETE', '/forms/inlets/feedback');
  expect(gone.body).toEqual({ system: 'inlets', type: feedback, form: own });
  expect((await outside('feedback')).status).toBe(404);
  // What was taken out comes back as it was.
  expect(
    (await world.api('POST', '/forms/inlets', gone.body && { type: gone.body.type, form: gone.body.form }))
      .status,
  ).toBe(201);
});

test.each<[string, string, RequestInit]>([
  ['a NUL', '', { body: 'booking=a%00b', headers: { 'content-type': 'application/x-www-form-urlencoded' } }],
  [
    'bytes that are no text',
    '',
    { body: 'booking=%FF%FE&%C3=1', headers: { 'content-type': 'application/x-www-form-urlencoded' } },
  ],
  [
    'names of a prototype',
    '/shown',
    {
      body: '__proto__=1&constructor=2&toString=3',
      headers: { 'content-type': 'application/x-www-form-urlencoded' },
    },
  ],
  ['a list', '/shown', { body: '[1,2]', headers: { 'content-type': 'application/json' } }],
  [
    'nested JSON',
    '/shown',
    {
      body: `{"booking":${'['.repeat(500)}${']'.repeat(500)}}`,
      headers: { 'content-type': 'application/json' },
    },
  ],
  ['half of JSON', '/shown', { body: '{"booking":', headers: { 'content-type': 'application/json' } }],
  ['a file', '', { body: new FormData() }],
  ['nothing', '', {}],
])('%s is answered with a reason, and not with an error of ours', async (_what, more, init) => {
  const response = await fetch(`${world.url}/forms/cargo-questionnaire${more}`, { method: 'POST', ...init });
  expect(response.status).toBeLessThan(500);
  const nowhere = await fetch(`${world.url}/forms/%00`);
  expect(nowhere.status).toBe(400);
});

test('a flood from one address is stopped with a page that says so, and others are answered', async () => {
  const answers = await Promise.all(
    Array.from({ length: 45 }, async () => outside('cargo-questionnaire', [['booking', 'BK70004']])),
  );
  const floods = answers.filter(({ status }) => status === 429);
  expect(floods.length).toBeGreaterThanOrEqual(5);
  expect(floods[0]?.headers.get('content-type')).toContain('text/html');
  expect(await floods[0]?.text()).toContain('Many answers come at the moment.');
  expect((await outside('cargo-questionnaire')).status).toBe(200);
  const tooLong = await outside('cargo-questionnaire', [['instructions', 'x'.repeat(300_000)]]);
  expect([413, 429]).toContain(tooLong.status);
});
