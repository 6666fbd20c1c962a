import { expect, test } from '@playwright/test';
import { findingsIn } from './axe';
import { askSystem, patchCompany, place, signIn, stack } from './stack';

test.beforeEach(({ page }) => signIn(page));

const phoneOf = async (id: string) =>
  (await askSystem('freight-desk', 'GET', `/v2/bookings/${id}`))['contactPhone'];

test('what a run wrote is taken back with a reason; what somebody changed since stays; and that is taken back again', async ({
  page,
}) => {
  const before = (await askSystem('customer-book', 'GET', '/api/companies/C-1010'))['phone'];
  const open = (await askSystem('freight-desk', 'GET', '/v2/bookings?where=partyId:eq:401010&pageSize=500'))[
    'data'
  ] as { id: string; status: string; contactPhone: string; rev: number }[];
  const [first, second] = open.filter(({ status }) => status === 'open' || status === 'confirmed');
  if (!first || !second) throw new Error('the company has too few bookings');
  await patchCompany('C-1010', { phone: '01632 960 717' });
  await page.goto(`${stack().url}/runs?search=${encodeURIComponent('960 717')}`);
  await page
    .getByRole('link', { name: /C-1010 updated wrote/ })
    .first()
    .click();
  for (const { id } of [first, second]) await expect.poll(() => phoneOf(id)).toBe('+441632960717');
  const { rev } = await askSystem('freight-desk', 'GET', `/v2/bookings/${second.id}`);
  await askSystem(
    'freight-desk',
    'PATCH',
    `/v2/bookings/${second.id}`,
    // Whatever the rule as it is published by now writes there.
    { contactPhone: '+441632960718', collectionTown: 'Elsewhere' },
    String(rev),
  );
  expect(await phoneOf(second.id)).toBe('+441632960718');

  await page.getByRole('button', { name: 'Take back…' }).click();
  const back = page.getByRole('region', { name: 'Take back' });
  await expect(back.getByRole('row', { name: new RegExp(second.id) })).toContainText('+441632960718');
  await expect(back.getByRole('row', { name: new RegExp(second.id) })).toContainText(
    'somebody in freight-desk',
  );
  await expect(back.getByRole('status')).toContainText('stays, changed since: 1 record');
  await expect(back.getByRole('status')).not.toContainText('in part');
  await expect(back.getByRole('row', { name: new RegExp(first.id) })).toContainText(first.contactPhone);
  expect(await findingsIn(page, 'taking a run back')).toEqual([]);
  await back.getByLabel('Why it is taken back').fill('The number was mistyped.');
  await back.getByRole('button', { name: /^Take back \d+ records?$/ }).click();
  const run = page.getByRole('article', { name: /^Run \d+/ });
  await expect(run).toContainText('The number was mistyped.');
  await expect(run).toContainText(/\d+ records? (was|were) taken back, 1 stays as it is/);
  expect(await phoneOf(first.id)).toBe(first.contactPhone);
  expect(await phoneOf(second.id)).toBe('+441632960718');

  // A run that takes back is a run: it can be taken back as well.
  await page.getByRole('button', { name: 'Take back…' }).click();
  await back.getByLabel('Why it is taken back').fill('It was right after all.');
  await back.getByRole('button', { name: /^Take back \d+ records?$/ }).click();
  await expect(run).toContainText('It was right after all.');
  await expect.poll(() => phoneOf(first.id)).toBe('+441632960717');
  await patchCompany('C-1010', { phone: before });
});

test('all that a reconcile wrote is taken back from its page', async ({ page }) => {
  await page.goto(`${stack().url}/reconcile`);
  await page.getByRole('combobox', { name: 'Rule' }).click();
  await page.getByRole('option', { name: /^Company name on its people/ }).click();
  await page.getByRole('button', { name: 'Look at what exists' }).click();
  await page
    .getByRole('group', { name: 'How the records stand' })
    .getByRole('button', { name: /^would change/ })
    .click();
  const list = page.getByRole('list', { name: 'Records that were looked at' });
  for (const at of [0, 1, 2]) await list.getByRole('checkbox').nth(at).check();
  const id = (await list.getByRole('listitem').first().innerText()).match(/P-\d+/)?.[0] ?? '';
  await page.getByRole('button', { name: 'Write the 3 marked records' }).click();
  await page.getByRole('button', { name: 'Write now' }).click();
  await page.getByRole('link', { name: 'Take back what was written…' }).click();
  await expect(page.getByRole('button', { name: 'Take back 3 records' })).toBeVisible();
  expect(await findingsIn(page, 'taking a reconcile back')).toEqual([]);
  await page.getByLabel('Why it is taken back').fill('Too early.');
  await page.getByRole('button', { name: 'Take back 3 records' }).click();
  await expect(page.getByText('1 run taken back; what was changed since stays.')).toBeVisible();
  expect((await askSystem('customer-book', 'GET', `/api/people/${id}`))['company_name'] ?? '').toBe('');
});

test('all that a rule wrote since a time is looked at and taken back from its sheet', async ({ page }) => {
  const before = (await askSystem('customer-book', 'GET', '/api/companies/C-1011'))['phone'];
  const started = new Date();
  for (const phone of ['01632 960 521', '01632 960 522']) await patchCompany('C-1011', { phone });
  const people = async () =>
    (
      (await askSystem('customer-book', 'GET', '/api/people?filter[company_id]=C-1011'))['items'] as {
        phone: string;
      }[]
    ).map(({ phone }) => phone);
  await expect.poll(async () => new Set(await people())).toEqual(new Set(['01632 960 522']));
  await place(page, 'Rules');
  await page.getByRole('link', { name: /Company phone and address to its people/ }).click();
  await page.getByRole('link', { name: 'Take back what it wrote' }).click();
  const local = new Date(started.getTime() - started.getTimezoneOffset() * 60_000).toISOString().slice(0, 19);
  await page.goto(`${page.url()}?since=${local}`);
  const status = page.getByRole('status').filter({ hasText: 'goes back' });
  await expect(status).toBeVisible();
  await expect(page.getByRole('row').filter({ hasText: '01632 960 522' }).first()).toContainText(
    String(before),
  );
  await page.getByLabel('Why it is taken back').fill('The wrong company.');
  await page.getByRole('button', { name: /^Take back \d+ records?$/ }).click();
  await expect(page.getByText(/runs? taken back; what was changed since stays/)).toBeVisible();
  expect(new Set(await people())).toEqual(new Set([before]));
  await patchCompany('C-1011', { phone: before });
});

test('of very many runs it is said that the last of them were looked at, and that all are taken back', async ({
  page,
}) => {
  // So many runs take longer to make than a test has: what the server would say of them is put in its mouth.
  const looked = {
    records: [],
    back: 0,
    inPart: 0,
    stays: 12,
    isBack: 0,
    messages: [],
    runs: 213,
    ofRuns: 10_000,
  };
  await page.route(/\/api\/rules\/[^/]+\/undo\?/, (route) => route.fulfill({ json: looked }));
  await place(page, 'Rules');
  await page.getByRole('link', { name: /Company phone and address to its people/ }).click();
  await page.getByRole('link', { name: 'Take back what it wrote' }).click();
  await page.goto(`${page.url()}?since=2026-01-01T00:00:00`);
  await expect(page.getByText('Only what the last 213 of 10,000 runs wrote was looked at')).toBeVisible();
  // Also where all that was looked at stays: the runs before may have something that goes back.
  const press = page.getByRole('button', { name: 'Take back 10,000 runs' });
  await expect(press).toBeDisabled();
  await page.getByLabel('Why it is taken back').fill('The wrong rule.');
  await expect(press).toBeEnabled();
  expect(await findingsIn(page, 'taking back very many runs')).toEqual([]);
});
