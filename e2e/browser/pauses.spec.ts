import { expect, test } from '@playwright/test';
import { findingsIn } from './axe';
import { askSystem, patchCompany, place, signIn, stack } from './stack';

test.beforeEach(({ page }) => signIn(page));

const openOf = async (party: string) => {
  const bookings = (
    await askSystem('freight-desk', 'GET', `/v2/bookings?where=partyId:eq:${party}&pageSize=500`)
  )['data'] as { id: string; status: string; contactPhone: string }[];
  return bookings.filter(({ status }) => status === 'open' || status === 'confirmed');
};
const phonesOf = async (party: string) => [
  ...new Set((await openOf(party)).map(({ contactPhone }) => contactPhone)),
];

test('a rule is paused; what comes for it is counted, and written in its order once it goes on', async ({
  page,
}) => {
  const before = (await askSystem('customer-book', 'GET', '/api/companies/C-1012'))['phone'];
  const [stood] = await phonesOf('401012');
  await place(page, 'Rules');
  await page.getByRole('link', { name: /Company phone and town to open bookings/ }).click();
  await page.getByRole('button', { name: 'Pause', exact: true }).click();
  const paused = page.getByRole('status').filter({ hasText: 'paused' });
  await expect(paused).toContainText('0 changes wait');
  for (const phone of ['01632 960 731', '01632 960 732']) {
    await patchCompany('C-1012', { phone });
    await page.goto(`${stack().url}/runs?search=${encodeURIComponent(phone)}`);
    // Its other rule, for people, goes on.
    await expect(page.getByRole('link', { name: /1 change waits for what is paused/ })).toBeVisible();
  }
  expect(await phonesOf('401012')).toEqual([stood]);

  // It is among what needs a person, and leads to its sheet.
  await place(page, 'Today');
  await page
    .getByRole('row', { name: /paused Company phone and town/ })
    .getByRole('link')
    .click();
  await expect(paused).toContainText('2 changes wait');
  await paused.getByRole('button', { name: 'Go on' }).click();
  expect(await findingsIn(page, 'a paused rule')).toEqual([]);
  await page.getByRole('button', { name: 'Go on with them, in their order' }).click();
  await expect(paused).toHaveCount(0);
  await expect.poll(() => phonesOf('401012')).toEqual(['+441632960732']);
  await patchCompany('C-1012', { phone: before });
  await expect.poll(() => phonesOf('401012')).toEqual([stood]);
});

test('everything is paused with events waiting, and goes on without them; one of them is taken up all the same', async ({
  page,
}) => {
  const before = (await askSystem('customer-book', 'GET', '/api/companies/C-1013'))['phone'];
  const [stood] = await phonesOf('401013');
  await page.getByRole('button', { name: 'Pause everything' }).click();
  const banner = page.getByRole('status').filter({ hasText: 'Everything is paused' });
  await expect(banner).toBeVisible();
  await patchCompany('C-1013', { phone: '01632 960 741' });
  await page.goto(`${stack().url}/runs?state=waiting`);
  await expect(page.getByRole('link', { name: /C-1013 updated/ })).toBeVisible();
  expect(await phonesOf('401013')).toEqual([stood]);
  await page.reload();
  await banner.getByRole('button', { name: 'Go on' }).click();
  await page.getByRole('button', { name: /^Drop .* and go on$/ }).click();
  await expect(banner).toHaveCount(0);

  await page.goto(`${stack().url}/runs?result=dropped`);
  await page
    .getByRole('link', { name: /C-1013 updated dropped/ })
    .first()
    .click();
  await expect(page.getByRole('article', { name: /^Run/ })).toContainText('Dropped by admin');
  expect(await phonesOf('401013')).toEqual([stood]);
  await page.getByRole('button', { name: 'Try again now' }).click();
  await expect.poll(() => phonesOf('401013')).toEqual(['+441632960741']);
  await patchCompany('C-1013', { phone: before });
  await expect.poll(() => phonesOf('401013')).toEqual([stood]);
});

test('runs are narrowed by kind, field, record and time, all in the address, and a stretch is chosen from the chart', async ({
  page,
}) => {
  const before = (await askSystem('customer-book', 'GET', '/api/companies/C-1014'))['phone'];
  await patchCompany('C-1014', { phone: '01632 960 751' });
  await page.goto(`${stack().url}/runs?record=customer-book/company/C-1014`);
  const rows = page.getByRole('link', { name: /C-10\d\d updated/ });
  await expect(rows.first()).toContainText('wrote');
  await page.getByRole('combobox', { name: 'Kind' }).click();
  await page.getByRole('option', { name: 'updated' }).click();
  await page.getByRole('combobox', { name: /Changed field/ }).fill('phone');
  await expect(page).toHaveURL(/kind=updated/);
  await expect(page).toHaveURL(/field=phone/);
  await expect(rows.first()).toBeVisible();
  const times = page.getByRole('region', { name: 'When they came' });
  await times.getByText('The same as a table').click();
  await times.getByRole('table').getByRole('button').last().click();
  await expect(page).toHaveURL(/from=.*&to=/);
  await expect(rows.first()).toContainText('C-1014');
  expect(await findingsIn(page, 'the runs, narrowed')).toEqual([]);
  await page.getByRole('combobox', { name: /Changed field/ }).fill('name');
  await expect(page.getByText('No run is like that')).toBeVisible();
  await page.getByRole('button', { name: 'Show all again' }).click();
  await expect(page).toHaveURL(/\/runs$/);
  await patchCompany('C-1014', { phone: before });
});

test('a payload is edited and run, and says who edited it', async ({ page }) => {
  const before = (await askSystem('customer-book', 'GET', '/api/companies/C-1014'))['phone'];
  const [stood] = await phonesOf('401014');
  await patchCompany('C-1014', { phone: '01632 960 761' });
  await page.goto(`${stack().url}/runs?search=${encodeURIComponent('960 761')}`);
  await page
    .getByRole('link', { name: /C-1014 updated wrote/ })
    .first()
    .click();
  await page.getByRole('button', { name: 'Run this payload again, live' }).click();
  await page.getByRole('button', { name: 'Edit the payload first' }).click();
  const editor = page.getByRole('textbox', { name: 'The payload to run' });
  const company = await askSystem('customer-book', 'GET', '/api/companies/C-1014');
  await editor.fill(JSON.stringify({ record: { ...company, id: 'C-1015' } }));
  await page.getByRole('button', { name: 'Run and write' }).click();
  await expect(
    page.getByText(/The payload is about company C-1014; its “id” cannot be another/),
  ).toBeVisible();
  await editor.fill(JSON.stringify({ record: { ...company, phone: '01632 960 762' } }));
  await page.getByRole('button', { name: 'Run and write' }).click();
  await page
    .getByRole('link', { name: /^run \d+/ })
    .first()
    .click();
  await expect(page.getByText('admin edited the payload before it was run.')).toBeVisible();
  await expect.poll(() => phonesOf('401014')).toEqual(['+441632960762']);
  await patchCompany('C-1014', { phone: before });
  await expect.poll(() => phonesOf('401014')).toEqual([stood]);
});
