import { expect, test, type Page } from '@playwright/test';
import { askSystem, patchCompany, removeSample, signIn, stack } from './stack';

test.beforeEach(({ page }) => signIn(page));

const outcomeOf = (page: Page, id: string) => page.getByRole('article', { name: `Booking ${id}` });

test('a sample is made of a record as if it were changed, and says what that would do', async ({ page }) => {
  await page.goto(`${stack().url}/bench`);
  await page.getByRole('link', { name: 'New sample' }).click();
  await page.getByRole('combobox', { name: 'Record type' }).click();
  await page.getByRole('option', { name: 'Customer Book: Company' }).click();
  await page.getByRole('textbox', { name: 'Id' }).fill('C-1001');
  await page.getByRole('button', { name: 'Read it' }).click();
  await page.getByRole('textbox', { name: 'New Phone' }).fill('01632 960 911');
  await page.getByRole('textbox', { name: 'Name', exact: true }).fill('As if it rang 911');
  await page.getByRole('button', { name: 'Make the sample' }).click();

  await expect(page.getByRole('heading', { name: 'As if it rang 911' })).toBeVisible();
  await expect(page.getByText('Nobody has said yet what is expected.')).toBeVisible();
  await expect(outcomeOf(page, 'BK70002').getByText('+441632960911')).toBeVisible();
  await page.getByRole('button', { name: 'Expect this outcome from now on' }).click();
  await expect(page.getByText('As expected. A replay writes to no system.')).toBeVisible();
  await removeSample(page);
  await expect(page.getByRole('heading', { name: 'As if it rang 911' })).toHaveCount(0);
});

test('a pasted event is checked while it is written; personal values are masked in what is kept', async ({
  page,
}) => {
  await page.goto(`${stack().url}/bench/new?from=json`);
  const text = page.getByRole('textbox', { name: 'Samples as JSON' });
  const make = page.getByRole('button', { name: 'Make the sample' });
  await text.fill('{ "kind": "sneezed" }');
  await expect(page.getByText(/at kind: "kind" must be one of/)).toBeVisible();
  await expect(make).toBeDisabled();
  const person = {
    id: 'P-2001',
    company_id: 'C-1001',
    first_name: 'Dagny',
    last_name: 'Sclater',
    phone: '01632 960 100',
  };
  await text.fill(
    JSON.stringify({
      id: 'pasted',
      source: '/customer-book',
      kind: 'updated',
      ref: { system: 'customer-book', recordType: 'person', id: 'P-2001' },
      time: '2026-11-25T09:00:00Z',
      record: person,
      before: { ...person, company_id: 'C-1002' },
      changed: ['company_id'],
    }),
  );
  await expect(page.getByText('1 sample can be made of this.')).toBeVisible();
  await page.getByRole('textbox', { name: 'Name', exact: true }).fill('Pasted and masked');
  await page.getByRole('checkbox', { name: 'Mask personal values' }).check();
  await make.click();
  await expect(page.getByRole('heading', { name: 'Pasted and masked' })).toBeVisible();
  const payload = page.getByRole('region', { name: 'Payload' });
  await expect(payload.getByText(/^01632 960 \d{3}$/)).toBeVisible();
  await expect(payload.getByText('01632 960 100')).toHaveCount(0);
  await removeSample(page);
});

test('the records of a sample are freshened from live, with what differs shown first', async ({ page }) => {
  const collectedIn = (collectionTown: string) =>
    askSystem('freight-desk', 'PATCH', '/v2/bookings/BK70002', { collectionTown });
  await collectedIn('Longstack');
  await page.goto(`${stack().url}/bench?find=new+phone+and+town`);
  await page.getByRole('link', { name: /Smokehouse: new phone and town/ }).click();
  await page.getByRole('button', { name: 'Freshen' }).click();
  const fresh = page.getByRole('region', { name: 'Records as they are now' });
  await fresh.getByRole('button', { name: 'Read them now' }).click();
  await expect(fresh.getByText(/collectionTown/).first()).toContainText('Longstack');
  await expect(fresh.getByRole('status')).toContainText(/\d+ differences? from the records of the sample/);
  await fresh.getByRole('button', { name: 'Take these records' }).click();
  await expect(fresh).toHaveCount(0);
  await expect(outcomeOf(page, 'BK70002').getByText('Longstack')).toBeVisible();
  // Other stories begin with the booking as it was.
  await collectedIn('Northport');
});

test('the payload of a run is run again, live, once that has been said', async ({ page }) => {
  await patchCompany('C-1003', { phone: '01632 960 921' });
  await page.goto(`${stack().url}/runs?search=${encodeURIComponent('960 921')}`);
  await page
    .getByRole('link', { name: /C-1003 updated wrote/ })
    .first()
    .click();
  await askSystem('freight-desk', 'PATCH', '/v2/bookings/BK70013', { contactPhone: '+441632960999' });
  await page.getByRole('button', { name: 'Run this payload again, live' }).click();
  await expect(page.getByText('with what the record holds by then')).toBeVisible();
  await page.getByRole('button', { name: 'Run and write' }).click();
  await expect(page.getByText(/It runs again/)).toBeVisible();
  await page.goto(`${stack().url}/records?left=freight-desk/booking/BK70013`);
  const phone = page
    .getByRole('region', { name: 'Left side' })
    .getByRole('textbox', { name: 'Contact phone' });
  await expect(phone).toHaveValue('+441632960921');
});
