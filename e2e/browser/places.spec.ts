import { findingsIn } from './axe';
import { expect, test } from '@playwright/test';
import { formulaFor, setFormula } from './formulas';
import { openRule, patchCompany, place, publish, signIn, stack, stopRunning } from './stack';

test.beforeEach(async ({ page }) => signIn(page));

test('a wrong password is answered in a sentence, and nobody is let in', async ({ page }) => {
  await page.getByRole('button', { name: 'Sign out' }).click();
  await page.getByRole('textbox', { name: 'Name' }).fill('admin');
  await page.locator('input[type=password]').fill('not this one');
  await page.getByRole('button', { name: 'Sign in' }).click();
  await expect(page.getByRole('alert')).toHaveText('Name and password do not match.');
});

test('a rule is begun from nothing, in prose, and runs once it is published', async ({ page }) => {
  await place(page, 'Rules');
  await page.getByRole('link', { name: 'New rule' }).click();
  await page.getByLabel('Name of the rule').fill('Dormant companies lose their account number');
  await expect(
    page.getByText('No field is watched: every save of the record starts this rule.'),
  ).toBeVisible();
  await page.getByRole('button', { name: 'Watched fields' }).click();
  await page.getByRole('combobox', { name: 'Watched fields' }).fill('Status');
  await page.getByRole('option', { name: 'Status' }).click();
  await page.keyboard.press('Escape');
  await page.keyboard.press('Escape');
  await expect(page.getByRole('button', { name: 'Watched fields' })).toHaveText('Status');
  await page.getByLabel('Only if', { exact: true }).fill('status = "dormant"');
  await setFormula(page, 'E-mail domain', 'LOWER(email_domain) & ".gone.example"');
  await expect(page.getByText('draft, does not run')).toBeVisible();
  await publish(page);
  await expect(page.getByText('runs, version 1')).toBeVisible();

  await patchCompany('C-1040', { email_domain: 'Forty.example', status: 'active' });
  await patchCompany('C-1040', { status: 'dormant' });
  await page.goto(`${stack().url}/records?left=customer-book/company/C-1040`);
  await expect(page.getByRole('region', { name: 'Left side' }).getByLabel('E-mail domain')).toHaveValue(
    'forty.example.gone.example',
  );

  await openRule(page, 'Dormant companies lose their account number');
  await stopRunning(page);
  await expect(page.getByText('draft, does not run')).toBeVisible();
});

test('filters of the run list stand in the address and survive a reload', async ({ page }) => {
  await patchCompany('C-1041', { credit_terms: 'net_14' });
  await patchCompany('C-1041', { credit_terms: 'net_60' });
  await place(page, 'Runs');
  await page.getByRole('combobox', { name: 'Outcome' }).click();
  await page.getByRole('option', { name: 'Nothing to do' }).click();
  await page.getByLabel('Search runs').fill('C-1041');
  await expect(page).toHaveURL(/result=nothing.*search=C-1041|search=C-1041.*result=nothing/);
  await expect(page.getByRole('link', { name: /C-1041/ }).first()).toBeVisible();
  await page.reload();
  await expect(page.getByLabel('Search runs')).toHaveValue('C-1041');
  await expect(page.getByRole('link', { name: /C-1041/ }).first()).toBeVisible();
  await expect(page.getByRole('link', { name: /C-1001/ })).toHaveCount(0);
});

test('records are searched by name, and the list draws only what is in sight', async ({ page }) => {
  await page.goto(`${stack().url}/records?left=customer-book/company&right=freight-desk/booking`);
  const left = page.getByRole('region', { name: 'Left side' });
  await expect(left.getByRole('listitem').first()).toBeVisible();
  expect(await left.getByRole('listitem').count()).toBeLessThan(60);
  await left.getByLabel('Search Companies').fill('smokehouse');
  await expect(left.getByRole('listitem').first()).toContainText('Smokehouse');
  await left.getByRole('button', { name: /C-1001/ }).click();
  await expect(left.getByLabel('Name', { exact: true })).toHaveValue('North Skerry Smokehouse');
  await expect(page).toHaveURL(/left=customer-book%2Fcompany%2FC-1001/);
});

test('a value that the system refuses is said at the record, and what was typed stays', async ({ page }) => {
  await page.goto(`${stack().url}/records?right=freight-desk/booking/BK70005`);
  const right = page.getByRole('region', { name: 'Right side' });
  await right.getByLabel('Contact phone').fill('call Runa');
  await right.getByRole('button', { name: 'Save the change' }).click();
  await expect(right.getByRole('alert')).toContainText('contactPhone must match pattern');
  await expect(right.getByLabel('Contact phone')).toHaveValue('call Runa');
});

test('the lookup table says which lines read it, and leads there', async ({ page }) => {
  await page.goto(`${stack().url}/tables/Ports%20to%20tariff%20zones`);
  await page.getByLabel('Search the rows').fill('gull');
  const grid = page.getByRole('grid', { name: 'Rows of Ports to tariff zones' });
  await expect(grid.getByRole('gridcell', { name: 'Port code QSGUL' })).toBeVisible();
  await expect(grid.getByText('QSNOR')).toHaveCount(0);
  await page.getByRole('link', { name: 'tariffZone' }).click();
  await expect(formulaFor(page, 'Tariff zone')).toHaveText(
    'TABLE("Ports to tariff zones", destinationPort, "zone")',
  );
});

test('an address that leads nowhere says so', async ({ page }) => {
  await page.goto(`${stack().url}/nowhere`);
  await expect(page.getByRole('heading', { name: 'There is nothing here' })).toBeVisible();
});

test('an outside address is added, tried, and gets another secret, while what cannot be reached is said at once', async ({
  page,
}) => {
  await signIn(page);
  await page.goto(`${stack().url}/systems`);
  await page.getByRole('link', { name: 'Outside addresses …' }).click();
  const added = page.getByRole('region', { name: 'A new address' });
  await added.getByLabel('A new one, called').fill('Yard office');
  await added.getByLabel('at', { exact: true }).fill('http://127.0.0.1:9/in');
  await page.getByRole('button', { name: 'Add it' }).click();
  await expect(page.getByText('127.0.0.1:9 is an address inside this network')).toBeVisible();
  const { baseUrl = '' } = stack().connections['notice-post'] ?? {};
  await added.getByLabel('at', { exact: true }).fill(`${baseUrl}/inbox`);
  await page.getByRole('button', { name: 'Add it' }).click();
  await expect(page.getByText(/To be given to Yard office, and shown this once: whsec_/)).toBeVisible();

  const sheet = page.getByRole('region', { name: 'Yard office' });
  await sheet.getByRole('button', { name: 'Send a test' }).click();
  // Notice Post knows another secret, and says so.
  await expect(sheet.getByText('The receiver answered 401.')).toBeVisible();
  await sheet.getByRole('button', { name: 'Make another secret' }).click();
  await expect(sheet.getByText(/with the one before it as well/)).toBeVisible();
  await sheet.getByLabel('Called').fill('Yard office, night');
  await sheet.getByRole('button', { name: 'Save' }).click();
  await expect(page.getByRole('link', { name: /Yard office, night/ })).toBeVisible();
  expect(await findingsIn(page, 'the outside addresses')).toEqual([]);
  await page.getByRole('link', { name: /Notice Post/ }).click();
  await expect(
    page.getByText('It is given by the environment of this installation (ENDPOINTS)'),
  ).toBeVisible();
  await page.getByRole('button', { name: 'Send a test' }).click();
  await expect(page.getByText(/It answered 202/)).toBeVisible();
});

test('times and counts are shown in the zone and form that a person chose, after a reload as well', async ({
  page,
}) => {
  await page.goto(`${stack().url}/me`);
  const said = page.getByRole('region', { name: 'How you read' }).getByRole('status');
  await page.getByRole('combobox', { name: 'Zone' }).fill('Auckland');
  await page.getByRole('option', { name: 'Pacific/Auckland' }).click();
  await expect(said).toContainText('So a time is 28 Nov, 07:05:30');
  await page.getByRole('radio', { name: /^points and commas/ }).click();
  await expect(said).toContainText('28.11., 07:05:30, and a count 12.345,5');
  await page.reload();
  await expect(said).toContainText('28.11., 07:05:30');
  const refused = await page.request.put(`${stack().url}/api/session/habits`, {
    data: { zone: 'Mars/Base' },
  });
  expect(refused.status()).toBe(422);
  await page.request.put(`${stack().url}/api/session/habits`, { data: {} });
});
