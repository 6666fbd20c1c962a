import { expect, test } from '@playwright/test';
import { api, inWindow, openRule, signIn, stack } from './stack';

test.beforeEach(({ page }) => signIn(page));

const other = 'reader';
const sampleId = '0192f3b0-0012-7000-8000-000000000012';

test('who has the same rule open is shown to both, and gone once the other leaves', async ({
  page,
  browser,
}) => {
  await openRule(page, 'Poor inspection puts the vessel on hold');
  await inWindow(browser, async (second) => {
    await signIn(second, other);
    await second.goto(page.url());
    await expect(second.getByText('admin has this open too')).toBeVisible();
    await expect(page.getByText(`${other} has this open too`)).toBeVisible();
    await second.goto(`${stack().url}/today`);
  });
  await expect(page.getByText(`${other} has this open too`)).toHaveCount(0);
});

test('of two who edit one rule the second is told who was first, is shown both, and loses nothing', async ({
  page,
}) => {
  const path = '/rules/0192f3a0-0013-7000-8000-000000000013';
  const { draft, revision } = (await api(page, 'GET', path)) as { draft: { note: string }; revision: number };
  await page.goto(stack().url + path);
  await expect(page.getByLabel('What the rule is for')).toHaveValue(draft.note);
  const put = (note: string, at: number) => api(page, 'PUT', `${path}/draft`, { ...draft, note }, at);
  await put('As the first said.', revision);
  await page.getByLabel('What the rule is for').fill('As the second saw it.');
  const both = page.getByRole('alert', { name: 'Changed by somebody else' });
  await expect(both).toContainText('admin changed this rule meanwhile.');
  await expect(both).toContainText('As the first said.');
  await expect(both).toContainText('As the second saw it.');
  await both.getByRole('button', { name: 'Take theirs' }).click();
  await expect(page.getByLabel('What the rule is for')).toHaveValue('As the first said.');
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await expect(page.getByLabel('What the rule is for')).toHaveValue('As the second saw it.');
  await expect
    .poll(async () => ((await api(page, 'GET', path)) as { draft: { note: string } }).draft.note)
    .toBe('As the second saw it.');
  const now = (await api(page, 'GET', path)) as { revision: number };
  await put(draft.note, now.revision);
});

test('of two who change one sample the second is shown both, and chooses', async ({ page }) => {
  const before = (await api(page, 'GET', `/samples/${sampleId}`)) as { note: string; name: string };
  await page.goto(`${stack().url}/bench/${sampleId}`);
  await page.getByRole('button', { name: 'Name and note' }).click();
  const form = page.getByRole('form', { name: 'About the sample' });
  await form.getByLabel('Note').fill('As the second saw it.');
  await api(page, 'PATCH', `/samples/${sampleId}`, {
    note: 'As the first said.',
    was: { note: before.note },
  });
  await form.getByRole('button', { name: 'Save' }).click();
  const both = page.getByRole('alert', { name: 'Changed by somebody else' });
  await expect(both).toContainText('admin changed the note of this sample meanwhile.');
  await expect(
    both.getByRole('row', { name: 'note As the first said. As the second saw it.' }),
  ).toBeVisible();
  await both.getByRole('button', { name: 'Save mine over it' }).click();
  // Until it is saved the text stands twice: as it is typed, and beside what the first said.
  await expect(form).toBeHidden();
  await expect(page.getByText('As the second saw it.', { exact: true })).toBeVisible();
  expect(await api(page, 'GET', `/samples/${sampleId}`)).toMatchObject({ note: 'As the second saw it.' });
  await api(page, 'PATCH', `/samples/${sampleId}`, {
    note: before.note,
    was: { note: 'As the second saw it.' },
  });
});

test('of two who change the settings of one table the second is shown what the first did, and nothing is lost', async ({
  page,
}) => {
  const name = 'Countries to regions';
  await page.goto(`${stack().url}/tables/${encodeURIComponent(name)}?tab=settings`);
  const path = `/tables/${encodeURIComponent(name)}`;
  const table = (await api(page, 'GET', path)) as {
    revision: number;
    columns: { name: string; label: string }[];
    matching: string;
    onMiss: string;
    defaultRow?: unknown;
  };
  const { columns, matching, onMiss, defaultRow } = table;
  const settings = { name, matching, onMiss, ...(defaultRow !== undefined && { defaultRow }) };
  await page
    .getByRole('textbox', { name: /^Label of/ })
    .last()
    .fill('Region, as the second calls it');
  const first = columns.map((column, at) =>
    at === 0 ? { ...column, label: 'Country, as the first calls it' } : column,
  );
  await api(page, 'PUT', path, { ...settings, columns: first }, table.revision);
  await page.getByRole('button', { name: /^Save/ }).click();
  await expect(page.getByRole('alert').filter({ hasText: 'changed the settings' })).toBeVisible();
  await expect(page.getByText('Country, as the first calls it').first()).toBeVisible();
  await expect(page.getByRole('textbox', { name: /^Label of/ }).last()).toHaveValue(
    'Region, as the second calls it',
  );
  const now = (await api(page, 'GET', path)) as { revision: number };
  await api(page, 'PUT', path, { ...settings, columns }, now.revision);
});
