import { expect, test } from '@playwright/test';
import { findingsIn } from './axe';
import { askSystem, patchCompany, place, signIn, stack } from './stack';

test.beforeEach(({ page }) => signIn(page));

test('whoever is told is chosen, with quiet hours, and tried with a test', async ({ page }) => {
  await place(page, 'Today');
  await page.getByRole('link', { name: 'Who is told' }).click();
  await page.getByRole('combobox', { name: 'An outside address' }).click();
  await page.getByRole('option', { name: 'Notice Post' }).click();
  await page.getByLabel('E-mail to').fill('mara at the harbour');
  await page.getByRole('button', { name: 'Keep it' }).click();
  await expect(page.getByRole('alert')).toContainText('must be a valid email');
  await page.getByLabel('E-mail to').fill('mara@harbour.example');
  await page.getByLabel(/Not in quiet hours/).check();
  await page.getByLabel('By the clock of').fill('Europe/Skerry');
  await page.getByRole('button', { name: 'Keep it' }).click();
  await expect(page.getByRole('alert')).toContainText('“Europe/Skerry” is no zone');
  await page.getByLabel('By the clock of').fill('Europe/London');
  await page.getByRole('button', { name: 'Keep it' }).click();
  await expect(page.getByText('Kept. What happens from now on is told.')).toBeVisible();
  await page.getByRole('button', { name: 'Send a test to the address' }).click();
  await expect(page.getByRole('row', { name: /address a test taken/ })).toBeVisible();
  expect(await findingsIn(page, 'who is told')).toEqual([]);
});

test('a rule is looked at by the clock, on the days and at the time that are chosen', async ({ page }) => {
  await page.goto(`${stack().url}/reconcile?rule=0192f3a0-0001-7000-8000-000000000001`);
  const clock = page.getByRole('region', { name: 'By the clock' });
  await expect(clock).toContainText('every day at 02:00');
  await clock.getByRole('button', { name: 'When it is looked at' }).click();
  await page.getByLabel('At', { exact: true }).fill('05:30');
  await page.getByLabel('Monday').check();
  await page.keyboard.press('Escape');
  await clock.getByRole('button', { name: 'Look again and again' }).click();
  await expect(clock).toContainText('admin asked for it');
  await expect(clock).toContainText('on Monday at 05:30 (Europe/London)');
  await expect(clock).toContainText('It was not looked yet.');
  await page.reload();
  await clock.getByRole('button', { name: 'Look no more' }).click();
  await expect(clock.getByRole('button', { name: 'Look again and again' })).toBeVisible();
});

test('a message is edited and sent as one of its own, which says who edited it', async ({ page }) => {
  const before = (await askSystem('customer-book', 'GET', '/api/companies/C-1005'))['status'];
  await patchCompany('C-1005', { status: 'active' });
  await page.goto(`${stack().url}/messages?search=C-1005`);
  await page
    .getByRole('link', { name: /about C-1005.*delivered/ })
    .first()
    .click();
  await page.getByRole('button', { name: 'Edit and send…' }).click();
  await page.getByRole('textbox', { name: 'The data to send' }).fill('{ "note": "written by hand"');
  await page.getByRole('button', { name: 'Send it' }).click();
  await expect(page.getByText(/JSON/).last()).toBeVisible();
  await page.getByRole('textbox', { name: 'The data to send' }).fill('{ "note": "written by hand" }');
  await page.getByRole('button', { name: 'Send it' }).click();
  await expect(page.getByText(/admin edited it; it was/)).toBeVisible();
  await expect(page.getByRole('article', { name: /^Message/ })).toContainText('written by hand');
  await expect(page.getByRole('article', { name: /^Message/ })).toContainText('delivered');
  expect(await findingsIn(page, 'an edited message')).toEqual([]);
  await patchCompany('C-1005', { status: before });
});
