import { expect, test } from '@playwright/test';
import { findingsIn } from './axe';
import { patchCompany, signIn, stack } from './stack';

test.beforeEach(async ({ page }) => signIn(page));

test('anything is found with the keyboard alone: a rule, a field, and a record by a part of what it holds', async ({
  page,
}) => {
  await patchCompany('C-1044', { name: 'Velvet Crab Traders', phone: '01632 960 744' });
  const field = page.getByRole('textbox', { name: 'Find anything' });
  await page.keyboard.press('Control+K');
  await expect(field).toBeFocused();
  await page.keyboard.type('tariff zone from');
  await expect(page.getByRole('button', { name: /Tariff zone from the destination port/ })).toBeVisible();
  await page.keyboard.press('Enter');
  await expect(page.getByLabel('Name of the rule')).toHaveValue('Tariff zone from the destination port');
  // Out of a field of the sheet as well.
  await page.getByLabel('Name of the rule').focus();
  await page.keyboard.press('Control+K');
  await expect(field).toBeFocused();
  await page.keyboard.type('handlingCodes');
  await expect(page.getByRole('button', { name: /Handling codes handlingCodes/ })).toBeVisible();
  expect(await findingsIn(page, 'find anything')).toEqual([]);
  await page.keyboard.press('Enter');
  await expect(page).toHaveURL(/\/systems\/freight-desk\?type=booking&field=handlingCodes/);
  await expect(page.locator('tr.sought')).toContainText('Handling codes');
  // What changed a moment ago is found by a part of it, and by a number that is written another way.
  await expect(async () => {
    await page.keyboard.press('Control+K');
    await page.keyboard.type('elvet crab');
    await expect(page.getByRole('button', { name: /Velvet Crab Traders Company C-1044/ })).toBeVisible();
  }).toPass();
  await page.keyboard.press('Control+A');
  await page.keyboard.type('+44 (1632) 960744');
  await page.getByRole('button', { name: /Velvet Crab Traders Company C-1044 · phone/ }).click();
  await expect(page).toHaveURL(`${stack().url}/records?left=customer-book%2Fcompany%2FC-1044`);
  await expect(
    page.getByRole('region', { name: 'Left side' }).getByLabel('Name', { exact: true }),
  ).toHaveValue('Velvet Crab Traders');
  await page.keyboard.press('Control+K');
  await expect(page.getByRole('dialog').getByRole('button', { name: /Velvet Crab Traders/ })).toBeVisible();
  await page.keyboard.press('Escape');
  // From the record one goes on to what rules would do with it.
  await page.getByRole('link', { name: 'Make a sample of it' }).click();
  const record = page.getByRole('table', { name: 'The record of the sample' });
  await expect(record.getByRole('row').filter({ hasText: 'Velvet Crab Traders' })).toBeVisible();
  await expect(page.getByRole('button', { name: 'Make the sample' })).toBeEnabled();
});
