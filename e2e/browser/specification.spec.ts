import { expect, test } from '@playwright/test';
import { findingsIn } from './axe';
import { signIn, stack } from './stack';

test.beforeEach(({ page }) => signIn(page));

test('chosen rules are opened as a document for people who write none', async ({ page, context }) => {
  await page.goto(`${stack().url}/rules?search=manifest`);
  await page.getByRole('checkbox', { name: /Manifest row becomes a unit/ }).check();
  const opened = context.waitForEvent('page');
  await page
    .getByRole('region', { name: 'The chosen rules' })
    .getByRole('button', { name: 'Specification' })
    .click();
  await page.getByRole('menuitem', { name: /As a page/ }).click();
  const document = await opened;
  await expect(document.getByRole('heading', { name: 'What is mapped to what' })).toBeVisible();
  await expect(document.getByRole('region', { name: 'Manifest row becomes a unit' })).toContainText(
    'comes as a row of a file',
  );
  await expect(document.getByRole('row', { name: /Gross weight in kg/ })).toContainText('12400');
  expect(await findingsIn(document, 'the specification')).toEqual([]);
  await document.close();
});
