import { readFile } from 'node:fs/promises';
import { expect, test, type Page } from '@playwright/test';
import type { Bundle } from '@vast-knot/core';
import { unzipSync } from 'fflate';
import { api, signIn, stack } from './stack';

test.beforeEach(({ page }) => signIn(page));

const zones = '0192f3a0-0002-7000-8000-000000000002';

async function bundleOf(page: Page, rules: readonly string[]): Promise<Bundle> {
  return (await api(page, 'POST', '/bundles', { rules, form: 'file', samples: false })) as Bundle;
}

/** Chooses a bundle as a file on the page. */
async function chooseFile(page: Page, bundle: unknown, name = 'trial.json'): Promise<void> {
  await page.locator('input[type=file]').setInputFiles({
    name,
    mimeType: 'application/json',
    buffer: Buffer.from(JSON.stringify(bundle)),
  });
}

const choice = (page: Page, name: string) =>
  page.getByRole('row', { name: new RegExp(name) }).getByRole('radiogroup');

test('work from another environment: a slot is bound, a conflict is decided, it is taken in and taken back as one', async ({
  page,
}) => {
  const bundle = await bundleOf(page, [zones]);
  // Both environments begin with the same.
  await page.goto(`${stack().url}/moving`);
  await chooseFile(page, bundle);
  await page.getByRole('button', { name: 'Take nothing over' }).click();
  await expect(page.getByText('It is taken in.')).toBeVisible();

  // There, the rule and its table are changed, under another name of the desk; here, the rule is changed as well.
  const text = JSON.stringify(bundle)
    .replaceAll('"freight-desk"', '"trial-desk"')
    .replaceAll('"Freight Desk"', '"Desk of the trial"');
  const there = JSON.parse(text) as {
    tables: { rows: string[][] }[];
    rules: { rule: { name: string } }[];
  };
  const [rule] = there.rules;
  const row = there.tables[0]?.rows[0];
  if (!rule || !row) throw new Error('the rule comes with its table');
  const name = rule.rule.name;
  rule.rule.name = `${name}, as on trial`;
  row[1] = 'Trial Bay';
  const { draft, revision } = (await api(page, 'GET', `/rules/${zones}`)) as {
    draft: object;
    revision: number;
  };
  await api(page, 'PUT', `/rules/${zones}/draft`, { ...draft, name: `${name}, as here` }, revision);

  await page.reload();
  await chooseFile(page, there);
  await expect(page.getByText('Say which system here stands for “Desk of the trial”.')).toBeVisible();
  await page.getByRole('combobox', { name: 'What stands for Desk of the trial' }).click();
  await page.getByRole('option', { name: 'Freight Desk' }).click();
  const conflict = page.getByRole('region', { name: 'Changed here and there' });
  await expect(page.getByText(`Say which of the two is to stand for “${name}, as on trial”.`)).toBeVisible();
  await conflict.getByText('1 difference').click();
  await expect(conflict.getByRole('row', { name: new RegExp(`as here.*as on trial`) }).last()).toBeVisible();
  await expect(page.getByRole('region', { name: 'Changed there' })).toContainText(
    'table Ports to tariff zones',
  );
  await choice(page, 'as on trial').first().getByText('Take over').click();
  await page.getByLabel('running, where they run where they come from').check();
  await page.getByRole('button', { name: 'Take 2 over' }).click();
  await expect(page.getByText('It is taken in.').last()).toBeVisible();
  expect(await api(page, 'GET', `/rules/${zones}`)).toMatchObject({
    draft: { name: `${name}, as on trial`, trigger: { system: 'freight-desk' } },
    published: { body: { name: `${name}, as on trial` } },
  });

  const done = page.getByRole('region', { name: 'Taken in before' }).getByRole('row').nth(1);
  await expect(done).toContainText('2 things, rules running');
  await done.getByRole('button', { name: 'Take back' }).click();
  await expect(page.getByText('2 things are as before.')).toBeVisible();
  await expect(done).toContainText('taken back by admin');
  expect(await api(page, 'GET', `/rules/${zones}`)).toMatchObject({
    draft: { name: `${name}, as here` },
    published: { body: { name } },
  });
  const back = (await api(page, 'GET', `/rules/${zones}`)) as { revision: number };
  await api(page, 'PUT', `/rules/${zones}/draft`, draft, back.revision);
});

test('an archive has a file for each thing, and what came from here is the same here', async ({ page }) => {
  await page.goto(`${stack().url}/moving`);
  const [file] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'An archive, a file for each thing' }).click(),
  ]);
  expect(file.suggestedFilename()).toBe('rules.zip');
  const archive = await readFile(await file.path());
  const paths = Object.keys(unzipSync(archive));
  expect(paths).toContain('rules/tariff-zone-from-the-destination-port.json');
  expect(paths).toContain('tables/ports-to-tariff-zones.json');
  await page.locator('input[type=file]').setInputFiles({
    name: 'rules.zip',
    mimeType: 'application/zip',
    buffer: archive,
  });
  await expect(page.getByRole('region', { name: 'The same' })).toContainText(
    'things that nothing is done with',
  );
  await expect(page.getByRole('region', { name: 'Changed here and there' })).toHaveCount(0);
  await expect(page.getByRole('region', { name: 'New here' })).toHaveCount(0);
});

test('a file of the older format is read and told; what is no bundle is refused with its place', async ({
  page,
}) => {
  await page.goto(`${stack().url}/moving`);
  await chooseFile(page, { vastKnot: 1, rules: [], tables: [] }, 'old.json');
  await expect(page.getByText('It is of format 1, and is read as format 2.')).toBeVisible();
  await chooseFile(page, { vastKnot: 2, colour: 'red' }, 'odd.json');
  await expect(page.getByRole('alert')).toContainText('odd.json at colour');
});
