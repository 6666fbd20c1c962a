import { mkdirSync, readFileSync, utimesSync, writeFileSync } from 'node:fs';
import { expect, test } from '@playwright/test';
import { findingsIn } from './axe';
import { signIn, stack } from './stack';

test('files are taken from a folder as they come to lie there, and what a file holds becomes a record type of its own', async ({
  page,
}) => {
  await signIn(page);
  await page.goto(`${stack().url}/arrivals/sources`);
  await page.getByRole('button', { name: 'Say where else' }).click();
  await page.getByRole('textbox', { name: /^Name/ }).fill('Lists on the quay');
  await page.getByRole('combobox', { name: 'Files come' }).click();
  await page.getByRole('option', { name: 'from a folder of the server' }).click();
  await page.getByRole('textbox', { name: /^Files called/ }).fill('quay-*.csv');
  expect(await findingsIn(page, 'where files come from')).toEqual([]);
  await page.getByRole('button', { name: 'Keep it' }).click();
  const source = page.getByRole('region', { name: 'Lists on the quay' });
  await expect(source).toContainText('Files called quay-*.csv are taken from the folder quay');
  const folder = `.local/browser-${process.env['TEST_PARALLEL_INDEX'] ?? '0'}-folders/quay`;
  mkdirSync(folder, { recursive: true });
  const lying = `${folder}/quay-7.csv`;
  writeFileSync(lying, readFileSync('demo/files/manifest.csv'));
  const minuteAgo = new Date(Date.now() - 60_000);
  utimesSync(lying, minuteAgo, minuteAgo);
  await source.getByRole('button', { name: 'Look now' }).click();
  await source.getByRole('link', { name: 'quay-7.csv' }).click();
  await expect(page.getByText('by Lists on the quay, found in a folder')).toBeVisible();
  await page.getByRole('button', { name: 'What the records become' }).click();
  await page.getByLabel(/What is one called/).fill('Quay list');
  await page.getByRole('button', { name: 'Learn it' }).click();
  const ledger = page.getByRole('table', { name: 'What fills which field' });
  await expect(ledger.getByRole('row', { name: /containerNo/ })).toContainText('SKRU 123456-5');
  await page.goto(`${stack().url}/arrivals/sources`);
  await source.getByRole('button', { name: 'Take out' }).click();
  await expect(page.getByText('“Lists on the quay” is taken out.')).toBeVisible();
  await expect(source).toHaveCount(0);
});
