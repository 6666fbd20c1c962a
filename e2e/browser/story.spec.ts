import { expect, test, type Page } from '@playwright/test';
import { formulaFor, rowOf, setFormula } from './formulas';
import { patchCompany, place, publish, signIn, stack } from './stack';

const sides = `/records?left=customer-book/company/C-1001&right=freight-desk/booking/BK70002`;
const outcomeOf = (page: Page, id: string) => page.getByRole('article', { name: `Booking ${id}` });
const verdict = (page: Page) => page.getByRole('status', { name: 'Verdict of the sample' });
/** The cells of the booking's outcome that hold a value: after, and expected. */
const cellOf = (page: Page, value: string) => outcomeOf(page, 'BK70002').getByText(value, { exact: true });

test.beforeEach(async ({ page }) => signIn(page));

test('a phone typed in one system arrives in the other beside it, and the run shows every step', async ({
  page,
}) => {
  await page.goto(stack().url + sides);
  const left = page.getByRole('region', { name: 'Left side' });
  const right = page.getByRole('region', { name: 'Right side' });
  await expect(right.getByLabel('Contact phone')).toHaveValue('+441632960100');

  await left.getByLabel('Phone', { exact: true }).fill('01632 960 741');
  await left.getByRole('button', { name: 'Save the change' }).click();
  await expect(right.getByLabel('Contact phone')).toHaveValue('+441632960741');
  await expect(right.getByText('just changed')).toBeVisible();

  await place(page, 'Runs');
  const row = page.getByRole('link', { name: /North Skerry Smokehouse C-1001 updated wrote/ });
  await row.first().click();
  const written = outcomeOf(page, 'BK70002');
  await expect(written.getByRole('row', { name: 'Contact phone +441632960100 +441632960741' })).toBeVisible();
  await expect(written.getByText('written', { exact: true })).toBeVisible();
  const rules = page.getByRole('region', { name: 'Rules' });
  await expect(rules.getByText('NOT(ISBLANK(phone))')).toBeVisible();
  await expect(rules.getByText('1 record found').first()).toBeVisible();
});

test('a field that no rule watches fires nothing, and the run list says why without a reload', async ({
  page,
}) => {
  await place(page, 'Runs');
  await expect(page.getByRole('heading', { name: 'Runs' })).toBeVisible();
  await patchCompany('C-1001', { credit_terms: 'net_14' });
  const why = 'Only Credit terms changed; the rule watches Phone and Address.';
  const row = page.getByRole('link', { name: /C-1001 updated nothing to do/ }).filter({ hasText: why });
  await expect(row.first()).toBeVisible();
});

test('the same payload is replayed against the rule as edited, and nothing is written', async ({ page }) => {
  await patchCompany('C-1001', { phone: '01632 960 742' });
  // The run of this very payload, and not of an earlier change of the company.
  await page.goto(`${stack().url}/runs?search=${encodeURIComponent('960 742')}`);
  await page
    .getByRole('link', { name: /C-1001 updated wrote/ })
    .first()
    .click();
  await page.getByRole('button', { name: 'Replay on the bench' }).click();
  await expect(page.getByText('A replay writes to no system.')).toBeVisible();
  await expect(verdict(page)).toContainText('As expected');
  await expect(cellOf(page, '+441632960742')).toHaveCount(2);

  await place(page, 'Rules');
  await page.getByRole('link', { name: /Company phone and town to open bookings/ }).click();
  await page.getByRole('combobox', { name: 'Present sample' }).click();
  await page.getByRole('option', { name: 'North Skerry Smokehouse: phone' }).click();
  await setFormula(page, 'Contact phone', 'PHONE(phne, address.country)');
  await expect(
    page.getByText('The triggering record has no field “phne”. Did you mean “phone”?'),
  ).toBeVisible();
  await expect(page.getByRole('button', { name: /^Publish/ })).toBeDisabled();

  await setFormula(page, 'Contact phone', 'SUBSTITUTE(PHONE(phone, address.country), "+44", "+47")');
  const row = rowOf(page, 'contactPhone');
  await expect(row.getByText('+471632960742')).toBeVisible();
  await expect(page.getByText('runs version 1, draft differs')).toBeVisible();
  await expect(page.getByRole('status').filter({ hasText: 'Saved' })).toBeVisible();

  await page.getByRole('link', { name: 'See the records on the bench' }).click();
  await expect(cellOf(page, '+471632960742')).toHaveCount(1);
  await expect(verdict(page)).toContainText('differences from what is expected');
  await page.getByText('As published', { exact: true }).click();
  await expect(cellOf(page, '+441632960742')).toHaveCount(2);

  await page.goto(stack().url + sides);
  await expect(page.getByRole('region', { name: 'Right side' }).getByLabel('Contact phone')).toHaveValue(
    '+441632960742',
  );
});

test('an edit is undone with the keys, published with a press, and runs from then on', async ({ page }) => {
  await place(page, 'Rules');
  await page.getByRole('link', { name: /Company phone and town to open bookings/ }).click();
  const formula = formulaFor(page, 'Collection town');
  await setFormula(page, 'Collection town', 'UPPER(address.town)');
  await page.keyboard.press('Control+z');
  await expect(formula).toHaveText('address.town');
  await page.keyboard.press('Control+Shift+z');
  await expect(formula).toHaveText('UPPER(address.town)');
  await setFormula(page, 'Contact phone', 'PHONE(phone, address.country)');
  await publish(page);
  await expect(page.getByText('runs, version 2')).toBeVisible();

  await patchCompany('C-1001', { address: { town: 'Longstack' } });
  await page.goto(stack().url + sides);
  await expect(page.getByRole('region', { name: 'Right side' }).getByLabel('Collection town')).toHaveValue(
    'LONGSTACK',
  );
});

test('a value of the payload is pressed into the formula at hand, and Enter goes to the next field', async ({
  page,
}) => {
  await place(page, 'Rules');
  await page.getByRole('link', { name: /Company phone and town to open bookings/ }).click();
  await formulaFor(page, 'Title').click();
  await page.getByRole('button', { name: 'Use account_number' }).click();
  await expect(formulaFor(page, 'Title')).toHaveText('account_number');
  await page.keyboard.press('Enter');
  await expect(rowOf(page, 'title').getByText('NORT-1001')).toBeVisible();
  await page.keyboard.press('Control+z');
  await expect(formulaFor(page, 'Title')).toHaveText('not written');
});

test('a person who may only look sees the sheet and can change nothing', async ({ page }) => {
  await signIn(page, 'reader');
  await place(page, 'Rules');
  await page.getByRole('link', { name: /Tariff zone from the destination port/ }).click();
  await expect(formulaFor(page, 'Tariff zone')).toHaveAttribute('aria-readonly', 'true');
  await expect(page.getByRole('button', { name: /^Publish/ })).toHaveCount(0);
});

test('a system that does not answer is said by name, with another try', async ({ page }) => {
  const { baseUrl, token } = stack().connections['freight-desk'] ?? { baseUrl: '', token: '' };
  const dial = (outage: boolean) =>
    fetch(`${baseUrl}/dials`, {
      method: 'PUT',
      headers: { 'x-desk-key': token, 'content-type': 'application/json' },
      body: JSON.stringify({ outage }),
    });
  await dial(true);
  try {
    await page.goto(`${stack().url}/records?left=freight-desk/booking/BK70002`);
    const left = page.getByRole('region', { name: 'Left side' });
    await expect(left.getByRole('alert')).toContainText('Freight Desk does not answer');
    await dial(false);
    // For a moment it is left alone.
    await expect(async () => {
      await left.getByRole('button', { name: 'Try again' }).click({ timeout: 1000 });
      await expect(left.getByLabel('Contact phone')).toBeVisible({ timeout: 1500 });
    }).toPass();
  } finally {
    await dial(false);
  }
});
