import { expect, test } from '@playwright/test';
import { findingsIn } from './axe';
import { askSystem, patchCompany, signIn, stack } from './stack';

test.beforeEach(({ page }) => signIn(page));

test('the first page says what needs a person and what happened, and each thing leads to its place', async ({
  page,
}) => {
  const before = (await askSystem('customer-book', 'GET', '/api/companies/C-1001'))['phone'];
  await patchCompany('C-1001', { phone: 'ring the bell' });
  await page.goto(stack().url);
  await expect(page).toHaveURL(/\/today$/);
  const needs = page.getByRole('region', { name: 'What needs you' });
  await expect(needs.getByRole('row').filter({ hasText: 'is not a telephone number' }).first()).toContainText(
    'failed',
  );
  await patchCompany('C-1001', { phone: before });

  // It is renewed by itself, and says the same in figures.
  const happened = page.getByRole('region', { name: 'What happened' });
  await happened.getByText('The same as a table').click();
  await expect(happened.getByRole('table').first().getByRole('row')).toHaveCount(25);
  await expect(happened).toContainText('From an event to its last write');
  await expect(happened.getByRole('columnheader', { name: 'Busiest rules' })).toBeVisible();
  await expect(happened.getByRole('columnheader', { name: 'Published last' })).toBeVisible();
  expect(await findingsIn(page, 'today')).toEqual([]);

  await needs
    .getByRole('link', { name: /is not a telephone number/ })
    .first()
    .click();
  await expect(page.getByRole('heading', { name: 'Failures by cause' })).toBeVisible();
  await page.goBack();
  await happened
    .getByRole('link', { name: /Company phone/ })
    .first()
    .click();
  await expect(page).toHaveURL(/\/runs\?rule=/);
});
