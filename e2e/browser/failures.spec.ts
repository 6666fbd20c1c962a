import { expect, test } from '@playwright/test';
import { findingsIn } from './axe';
import { askSystem, patchCompany, place, signIn } from './stack';

test.beforeEach(({ page }) => signIn(page));

test('failures of like cause stand together, are tried again with one press, and can be put aside with a note', async ({
  page,
}) => {
  const companies = ['C-1002', 'C-1016'];
  const before = await Promise.all(
    companies.map(async (id) => (await askSystem('customer-book', 'GET', `/api/companies/${id}`))['phone']),
  );
  for (const [at, id] of companies.entries()) await patchCompany(id, { phone: `ask at desk ${at}` });
  await place(page, 'Runs');
  await page.getByRole('link', { name: 'Failures' }).click();
  const group = page.getByRole('row').filter({ hasText: 'ask at desk' });
  await expect(group).toHaveCount(1);
  await expect(group).toContainText('Try all 2 again');
  expect(await findingsIn(page, 'failures by cause')).toEqual([]);

  await group.getByRole('button', { name: 'Put aside…' }).click();
  await group.getByLabel('Why it needs nobody').fill('Written by hand, on purpose.');
  await group.getByRole('button', { name: 'Put aside', exact: true }).click();
  await expect(group).toHaveCount(0);
  await page.getByText(/^put aside [1-9]/).click();
  expect(page.url()).toContain('shown=aside');
  await expect(group).toContainText('Written by hand, on purpose.');
  await group.getByRole('button', { name: 'Take up again' }).click();
  await page.getByText(/^open \d/).click();
  await expect(group).toHaveCount(1);

  for (const [at, id] of companies.entries()) await patchCompany(id, { phone: before[at] });
  await group.getByRole('button', { name: 'Try all 2 again' }).click();
  // They are computed with the records as they are by then.
  await expect(group).toHaveCount(0);
});
