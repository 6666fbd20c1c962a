import { readFileSync } from 'node:fs';
import { expect, test } from '@playwright/test';
import { findingsIn } from './axe';
import { formulaField } from './formulas';
import { signIn, stack } from './stack';

test('a list of records is made by a rule, tried on the records as they are, written on a press, and taken', async ({
  page,
}) => {
  await signIn(page);
  await page.goto(`${stack().url}/rules`);
  await page.getByRole('button', { name: 'New rule' }).click();
  await page.getByLabel('Rule name').fill('Vessels on hold as a list');
  await page.getByRole('button', { name: 'Record type that starts the rule' }).click();
  await page.getByRole('combobox', { name: 'Record type' }).click();
  await page.getByRole('option', { name: /Vessel/ }).click();
  await page.keyboard.press('Escape');
});
