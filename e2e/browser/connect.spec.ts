import { expect, test, type Page } from '@playwright/test';
import { findingsIn } from './axe';
import type { DraftView, RuleView } from '@vast-knot/core';
import { signIn, stack } from './stack';

/** Systems are connected in the interface alone: from a document, from records, by hand. */
test.beforeEach(async ({ page }) => signIn(page));

const exchange = (page: Page) => page.getByRole('complementary', { name: 'The exchange with the system' });
const begin = async (page: Page, from: string) => page.goto(`${stack().url}/systems/connect?from=${from}`);

test('from an OpenAPI document: proposed with reasons, tried with its secret, started, paused, and taken out', async ({
  page,
}) => {
  const { baseUrl = '', token = '' } = stack().connections['customer-book'] ?? {};
  await begin(page, 'openapi');
  await page.getByLabel('Address').fill(`${baseUrl}/openapi.json`);
  await page.getByRole('button', { name: 'Read it' }).click();
  await expect(page.getByText('said: a change takes the header “If-Match”')).toBeVisible();
  await expect(exchange(page).locator('b').getByText('401')).toBeVisible();

  await page.getByLabel('Secret', { exact: true }).fill(token);
  await page.getByRole('button', { name: 'Keep it' }).click();
  await expect(exchange(page).getByText(/25 records, and more pages; ids are text/)).toBeVisible();
  await expect(page.getByText(token)).toHaveCount(0);
  await exchange(page).getByRole('button', { name: 'Read it' }).click();
  await expect(exchange(page).getByText(/The record C-\d+ is there\./)).toBeVisible();
  await exchange(page).getByRole('button', { name: 'Write its name back as it is' }).click();
  await expect(exchange(page).getByText(/name of C-\d+ was written back as it is\./)).toBeVisible();
  expect(await findingsIn(page, 'the connection sheet')).toEqual([]);

  await page.getByRole('link', { name: '17 fields' }).click();
  await expect(page.getByText('2 fields look personal or secret, and are not marked')).toBeVisible();
  const suggested = page.getByRole('listitem').filter({ hasText: 'is called as a name of somebody' });
  await suggested.getByRole('button', { name: 'It is personal' }).click();
  await expect(page.getByLabel('Sensitivity of main_contact')).toHaveValue('personal');
  await page.getByRole('button', { name: 'Undo' }).click();
  await suggested.getByRole('button', { name: 'It is not' }).click();
  await expect(page.getByText('1 field looks personal or secret, and is not marked')).toBeVisible();
  await page.getByLabel('Choose phone').check();
  await page.getByRole('button', { name: 'Personal', exact: true }).click();
  await expect(page.getByLabel('Sensitivity of phone')).toHaveValue('personal');
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByLabel('Sensitivity of phone')).toHaveValue('');
  await page.getByRole('button', { name: 'Redo' }).click();
  expect(await findingsIn(page, 'the fields')).toEqual([]);
  await page.getByRole('link', { name: 'Customer Book' }).click();

  await page.getByLabel('Name of the system').fill('Customer Copy');
  await page.getByRole('button', { name: 'Start listening' }).click();
  await expect(page).toHaveURL(/\/systems\/customer-book-2$/);
  await expect(page.getByRole('heading', { name: 'Customer Copy' })).toBeVisible();
  await expect(page.getByText(/Companies: .*compared at/)).toBeAttached({ timeout: 20_000 });

  await page.getByRole('link', { name: 'Exchanges' }).click();
  // The first page is too long to be kept; a later one, with the place where it begins, is not.
  const people = page.getByRole('button', { name: /GET .*\/api\/companies\?.*&/ });
  await expect(async () => {
    await page.getByRole('button', { name: 'Look again' }).click();
    await expect(people.first()).toBeVisible({ timeout: 1000 });
  }).toPass();
  await people.first().click();
  await expect(page.getByRole('tree').getByText('"•••"').first()).toBeVisible();
  expect(await findingsIn(page, 'the exchanges')).toEqual([]);

  await page.getByRole('button', { name: 'Pause' }).click();
  await expect(page.getByText('Nothing is asked of it, and what is for it waits, in order.')).toBeVisible();
  await page.getByRole('button', { name: 'Go on' }).click();
  await expect(page.getByRole('button', { name: 'Pause' })).toBeVisible();

  await page.getByRole('button', { name: 'Take out' }).click();
  await expect(page.getByText('No rule that runs uses it.')).toBeVisible();
  await page.getByRole('button', { name: 'Take Customer Copy out' }).click();
  await expect(page.getByText('Customer Copy as it was when it was taken out.')).toBeVisible();
  await expect(exchange(page).getByText(/25 records/)).toBeVisible();
});

test('from records, and by pressing what stands in the answer', async ({ page }) => {
  const { baseUrl = '', token = '' } = stack().connections['freight-desk'] ?? {};
  await begin(page, 'hand');
  await page.getByLabel('What the system is called').fill('Desk by Hand');
  await page.getByRole('button', { name: 'Begin' }).click();
  await expect(page.getByText(/2 things to do before it can start/)).toBeVisible();
  await page.getByLabel('Address of the system').fill(`${baseUrl}/v2`);
  await page.getByRole('button', { name: 'How one signs in' }).click();
  await page.getByRole('combobox', { name: 'Signed in' }).selectOption({ label: 'with a key in a header' });
  await page.getByRole('textbox', { name: 'Header' }).fill('X-Desk-Key');
  await page.keyboard.press('Escape');
  await page.getByLabel('Secret', { exact: true }).fill(token);
  await page.getByRole('button', { name: 'Keep it' }).click();
  await page.getByLabel('Name of a further record type').fill('party');
  await page.getByRole('button', { name: 'Add it' }).click();
  await page.getByLabel('Path of Parties').fill('/parties');

  await expect(
    exchange(page).getByText('The list has an object at its root, where its records should be.'),
  ).toBeVisible();
  await exchange(page).getByRole('button', { name: 'data', exact: true }).click();
  await exchange(page).getByRole('button', { name: 'These are the records' }).click();
  await expect(exchange(page).getByText(/\d+ records; ids are text/)).toBeVisible();
  await exchange(page).getByRole('button', { name: 'next', exact: true }).click();
  await exchange(page).getByRole('button', { name: 'The next page is asked for with this' }).click();
  await page.getByRole('button', { name: 'How the list is paged' }).click();
  await page.getByLabel('Parameter of the cursor').fill('pageToken');
  await page.keyboard.press('Escape');
  await expect(exchange(page).getByText(/and more pages/)).toBeVisible();
  await exchange(page).getByRole('button', { name: 'Next page' }).click();
  await expect(exchange(page).getByText(/pageToken=/)).toBeVisible();
  await page.getByRole('button', { name: 'Learn them from these records' }).click();
  await expect(page.getByRole('link', { name: /1\d fields/ })).toBeVisible();
  await expect(page.getByRole('button', { name: 'Start listening' })).toBeEnabled();

  await page.reload();
  await expect(page.getByRole('link', { name: /1\d fields/ })).toBeVisible();
  await page.getByRole('link', { name: 'Connect a system' }).click();
  await page
    .getByRole('row', { name: /Desk by Hand/ })
    .getByRole('button', { name: 'Discard' })
    .click();
  await expect(page.getByRole('row', { name: /Desk by Hand/ })).toHaveCount(0);
  await page.getByRole('button', { name: 'Put it back' }).click();
  await expect(page.getByRole('row', { name: /Desk by Hand/ })).toHaveCount(1);
  await page
    .getByRole('row', { name: /Desk by Hand/ })
    .getByRole('button', { name: 'Discard' })
    .click();
  await expect(page.getByRole('row', { name: /Desk by Hand/ })).toHaveCount(0);
});

test('records that are pasted give fields with evidence, and what cannot be read is told in a sentence', async ({
  page,
}) => {
  await begin(page, 'records');
  await page.getByLabel('or pasted').fill('{"id": 1}');
  await page.getByRole('button', { name: 'Read it' }).click();
  await expect(page.getByText('There is no list of records in it: it is an object with id.')).toBeVisible();
  expect(await findingsIn(page, 'the beginning')).toEqual([]);
  const piers = Array.from({ length: 24 }, (_none, at) => ({
    id: `P-${at}`,
    state: ['open', 'shut'][at % 2],
    name: `Pier ${at}`,
  }));
  await page.getByLabel('or pasted').fill(JSON.stringify({ piers }));
  await page.getByRole('button', { name: 'Read it' }).click();
  await page.getByRole('link', { name: '3 fields' }).click();
  await expect(page.getByLabel('Type of state')).toHaveValue('choice');
  await expect(page.getByText('only 2 different in 24 values, never blank')).toBeVisible();
});

test('a record is created with the form that its type gives, and stands in its system', async ({ page }) => {
  await page.goto(`${stack().url}/records?left=customer-book/company&right=freight-desk/booking`);
  const left = page.getByRole('region', { name: 'Left side' });
  await left.getByRole('button', { name: 'New company' }).click();
  await left.getByLabel('Phone', { exact: true }).fill('01632 960 455');
  await left.getByRole('button', { name: 'Create it' }).click();
  await expect(left.getByText('“Name” is required, and is blank.')).toBeVisible();
  await left.getByLabel('Name', { exact: true }).fill('Ness Point Ropeworks');
  await left.getByLabel('Status', { exact: true }).click();
  await page.getByRole('option', { name: 'Prospect' }).click();
  await left.getByRole('button', { name: 'Create it' }).click();
  await expect(left.getByRole('heading', { name: 'Ness Point Ropeworks' })).toBeVisible();
  const shown = left.getByText(/Company C-\d+/);
  await expect(shown).toBeVisible();
  // Other stories count the companies.
  const id = /C-\d+/.exec((await shown.textContent()) ?? '')?.[0] ?? '';
  // A rule may be about to write to it.
  const remove = async () =>
    (await page.request.delete(`${stack().url}/api/records/customer-book/company/${id}`)).status();
  await expect.poll(remove).toBe(204);
});

test('what a system says of its fields by now is shown with the rules that it breaks, and nothing changes before it is taken', async ({
  page,
}) => {
  const api = async <T>(method: string, path: string, data?: unknown, revision?: number): Promise<T> => {
    const response = await page.request.fetch(`${stack().url}/api${path}`, {
      method,
      ...(data !== undefined && { data }),
      ...(revision !== undefined && { headers: { 'if-match': `"${revision}"` } }),
    });
    expect(response.ok(), `${method} ${path}: ${await response.text()}`).toBe(true);
    return (await response.json()) as T;
  };
  // As if the desk had told of a field that it does not have any more.
  const view = await api<DraftView>('POST', '/connections/drafts', {
    from: 'system',
    system: 'freight-desk',
  });
  const recordTypes = view.draft.recordTypes.map((type) =>
    type.name === 'party'
      ? { ...type, fields: [...type.fields, { name: 'pager', label: 'Pager', type: 'text' as const }] }
      : type,
  );
  const saved = await api<DraftView>(
    'PUT',
    `/connections/drafts/${view.id}`,
    { draft: { ...view.draft, recordTypes } },
    view.revision,
  );
  await api('POST', `/connections/drafts/${view.id}/start`, undefined, saved.revision);
  const rule = await api<RuleView>('POST', '/rules', {
    name: 'Pager of the party',
    note: '',
    trigger: { system: 'freight-desk', recordType: 'party', kinds: ['updated'], watched: ['phone'] },
    guard: '',
    finds: [],
    actions: [
      { kind: 'write', target: 'record', lines: [{ field: 'pager', formula: 'phone', policy: 'always' }] },
    ],
  });
  const published = await page.request.post(`${stack().url}/api/rules/${rule.id}/publish`, {
    headers: { 'if-match': `"${rule.revision}"` },
  });
  expect(published.status(), await published.text()).toBe(200);

  await page.goto(`${stack().url}/systems/freight-desk`);
  await page.getByRole('button', { name: 'See whether its fields changed' }).click();
  await expect(page.getByRole('row', { name: 'went Party pager Pager' })).toBeVisible();
  await expect(page.getByText('1 rule at work would have mistakes with it')).toBeVisible();
  await expect(page.getByRole('link', { name: 'Pager of the party' })).toBeVisible();
  expect(await findingsIn(page, 'what changed')).toEqual([]);
  await page.getByRole('button', { name: 'Take them into a draft' }).click();
  await page.getByRole('button', { name: 'Put it to work' }).click();
  await expect(page).toHaveURL(/\/systems\/freight-desk$/);
  await page.getByRole('button', { name: 'See whether its fields changed' }).click();
  await expect(page.getByText('It says of its fields what is known here.')).toBeVisible();
  await page.request.delete(`${stack().url}/api/rules/${rule.id}/published`);
});

test('from a PostgreSQL database: its tables with reasons, its rows with the SQL, written back, started, and taken out', async ({
  page,
}) => {
  const { baseUrl = '', user = '', token = '' } = stack().connections['berth-register'] ?? {};
  await begin(page, 'database');
  await page.getByLabel('Address').fill(baseUrl);
  await page.getByLabel('User').fill(user);
  await page.getByLabel('Password', { exact: true }).fill('not this one');
  await page.getByLabel('The line is').selectOption('none');
  await page.getByRole('button', { name: 'Read its catalogue' }).click();
  await expect(page.getByText(/cannot be signed in to: password authentication failed/)).toBeVisible();
  await page.getByLabel('Password', { exact: true }).fill(token);
  await page.getByRole('button', { name: 'Read its catalogue' }).click();

  await page.getByRole('button', { name: 'Calls call' }).click();
  await expect(page.getByText('said: the user may create, change, remove rows')).toBeVisible();
  await expect(page.getByText('said: voyage_no is unique')).toBeVisible();
  await expect(exchange(page).getByText(/FROM "public"."call" AS t/)).toBeVisible();
  await expect(exchange(page).getByText(/8 records/)).toBeVisible();
  await exchange(page).getByRole('button', { name: 'Read it' }).click();
  await expect(exchange(page).getByText('The record 1 is there.')).toBeVisible();
  await exchange(page).getByRole('button', { name: 'Write its voyage_no back as it is' }).click();
  await expect(exchange(page).getByText('voyage_no of 1 was written back as it is.')).toBeVisible();
  await expect(exchange(page).getByText(/UPDATE "public"."call" AS t/)).toBeVisible();
  await expect(page.getByText(token)).toHaveCount(0);

  await page.getByRole('button', { name: 'How changes are learnt' }).click();
  await page.getByLabel('Noted by a trigger').check();
  await page.keyboard.press('Escape');
  await expect(page.getByText(/CREATE TRIGGER note_change AFTER INSERT/)).toBeVisible();
  await page.getByRole('button', { name: 'Put the trigger in' }).click();
  await expect(exchange(page).getByText(/its user may not do that: permission denied/)).toBeVisible();
  expect(await findingsIn(page, 'the sheet of a database')).toEqual([]);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByText(/CREATE TRIGGER/)).toHaveCount(0);

  await page.getByRole('button', { name: 'Berths berth' }).click();
  await expect(page.getByText('said: the user may only read it')).toBeVisible();
  await expect(page.getByRole('button', { name: /Write its/ })).toHaveCount(0);

  await page.getByLabel('Name of the system').fill('Berth Copy');
  await page.getByRole('button', { name: 'Start listening' }).click();
  await expect(page.getByRole('heading', { name: 'Berth Copy' })).toBeVisible();
  await expect(page.getByText(/Calls: .*compared at/)).toBeAttached({ timeout: 20_000 });
  await page.getByRole('link', { name: 'Exchanges' }).click();
  const asked = page.getByRole('button', { name: /SQL SELECT .*"public"."call"/ });
  await expect(asked.first()).toBeVisible();
  await asked.first().click();
  await expect(page.getByRole('tree').getByText('voyage_no').first()).toBeVisible();
  expect(await findingsIn(page, 'the statements')).toEqual([]);
  await page.getByRole('button', { name: 'Take out' }).click();
  await page.getByRole('button', { name: 'Take Berth Copy out' }).click();
  await expect(page.getByText('Berth Copy as it was when it was taken out.')).toBeVisible();
});
