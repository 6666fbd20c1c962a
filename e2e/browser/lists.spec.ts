import { expect, test, type Page } from '@playwright/test';
import { setFormula } from './formulas';
import { signIn, stack } from './stack';

test.beforeEach(async ({ page }) => signIn(page));

/** A booking of the demo with two cargo lines and no unit yet. */
const booking = 'BK70004';
const left = (page: Page) => page.getByRole('region', { name: 'Left side' });
const lines = (page: Page) => left(page).getByRole('group', { name: 'Cargo lines' });

test('a cargo line that is given a container becomes a unit, and its line reads as the rule leaves it', async ({
  page,
}) => {
  await page.goto(`${stack().url}/records?left=freight-desk/booking/${booking}`);
  await expect(lines(page).getByLabel('Goods of element 1')).toHaveValue('Barrel salt');
  await lines(page).getByLabel('Container number of element 2').fill('SKRU1234570');
  await lines(page).getByLabel('Seal number of element 2').fill('s-77');
  await lines(page).getByRole('button', { name: 'Add an element' }).click();
  await expect(lines(page).getByLabel('Line of element 3')).toHaveValue('3');
  await lines(page).getByLabel('Goods of element 3').fill('Slate');
  await lines(page).getByRole('button', { name: 'Take away element 1' }).click();
  await left(page).getByRole('button', { name: 'Save the change' }).click();
  await expect(lines(page).getByLabel('Seal number of element 1')).toHaveValue('S-77', { timeout: 15_000 });
  await expect(left(page).getByLabel('Weight in kg', { exact: true })).toHaveValue('2933');

  await page.goto(`${stack().url}/records?left=freight-desk/unit`);
  await left(page).getByText('SKRU1234570').first().click();
  await expect(left(page).getByLabel('Goods')).toHaveValue('Rope coils');
  await expect(left(page).getByLabel('Booking')).toHaveValue(booking);

  await page.goto(`${stack().url}/runs`);
  await page
    .getByRole('link', { name: /updated wrote 2 records/ })
    .first()
    .click();
  const outcome = page.getByRole('article', { name: `Booking ${booking}` });
  const row = outcome.getByRole('group', { name: 'Cargo lines' }).getByRole('row', { name: /Rope coils/ });
  await expect(row).toContainText('s-77');
  await expect(row).toContainText('S-77');
  const payload = page.getByRole('group', { name: 'Cargo lines' }).filter({ hasText: 'taken away' });
  await expect(payload.first()).toContainText('Barrel salt');
});

test('the sheet shows a list as rows, and a name within it goes into the formula at hand', async ({
  page,
}) => {
  await page.goto(`${stack().url}/rules/0192f3a0-0021-7000-8000-000000000021`);
  const sample = page.getByRole('complementary', { name: 'Sample' });
  await expect(sample.getByRole('group', { name: 'Cargo lines' })).toContainText('Milk powder');
  const rows = page.locator('.rows-row').getByRole('group', { name: 'Cargo lines' });
  await expect(rows.getByRole('row', { name: /Oat feed/ })).toContainText('s-204→S-204');
  await page.getByRole('textbox', { name: 'Formula for Handling codes' }).first().click();
  await sample.getByRole('button', { name: 'Use cargoLines.goods' }).click();
  await expect(
    page.getByText('“Handling codes” takes text, and the formula gives list of text'),
  ).toBeVisible();
  await page.getByRole('button', { name: 'Join with commas' }).click();
  await expect(page.locator('[data-field=handlingCodes]')).toContainText('Oat feed, Rope coils, Milk powder');
});

test('an object is written as a whole by one line, beside which lines for its parts are one too many', async ({
  page,
}) => {
  await page.goto(`${stack().url}/rules/0192f3a0-0005-7000-8000-000000000005`);
  await setFormula(page, 'Address (as a whole)', 'OBJECT("town", "Murrow", "gate", 3)');
  await expect(page.getByText('“Address” has no field “gate”, which the formula gives.')).toBeVisible();
  await setFormula(page, 'Address (as a whole)', 'OBJECT("town", "Murrow")');
  await expect(page.getByText('“Address” has a line already, in action 1.')).toBeVisible();
  await page.getByRole('button', { name: 'Remove this line' }).first().click();
  await expect(page.getByText('“Address” has a line already, in action 1.')).toBeHidden();
});
