import { expect, test, type Page } from '@playwright/test';
import { randomUUID } from 'node:crypto';
import { Webhook } from 'standardwebhooks';
import { askSystem, patchCompany, signIn, stack } from './stack';

const company = 'C-1006';
const dial = (dials: Record<string, unknown>) => askSystem('freight-desk', 'PUT', '/dials', dials);
const banner = (page: Page) => page.getByRole('status').filter({ hasText: 'does not answer' });

test.beforeEach(async ({ page }) => signIn(page));
test.afterEach(() => dial({ outage: false }));

test('while a system is away every page says so, what is for it waits, and all of it goes on when it is back', async ({
  page,
}) => {
  await page.goto(`${stack().url}/systems/freight-desk`);
  const standing = page.getByRole('region', { name: 'How Freight Desk stands' });
  await expect(standing.getByText('Tells us of changes')).toBeVisible();
  const caughtUp = () => standing.locator('div').filter({ hasText: 'Caught up' }).last().innerText();
  const before = await caughtUp();
  await dial({ outage: true });
  for (const [at, id] of [company, 'C-1007', 'C-1008', 'C-1009'].entries())
    await patchCompany(id, { phone: `01632 960 87${at}` });
  await expect(standing.getByText('away', { exact: true })).toBeVisible({ timeout: 30_000 });
  await expect(standing).toContainText('Next try at');
  await expect(banner(page)).toContainText('Freight Desk does not answer since');
  await expect(banner(page)).toContainText('wait');
  await page.goto(`${stack().url}/tables`);
  await expect(banner(page)).toBeVisible();
  // Another system goes on meanwhile: a job in the yard gets its tasks.
  const { id } = await askSystem('yard-planner', 'POST', '/yard/jobs', {
    title: 'Goes on meanwhile',
    state: 'planned',
    owner: 'Mara',
  });
  await askSystem('yard-planner', 'PATCH', `/yard/jobs/${String(id)}`, { state: 'in yard' });
  await page.goto(`${stack().url}/runs?search=${String(id)}`);
  await expect(page.getByRole('link', { name: /Goes on meanwhile.*wrote/ }).first()).toBeVisible();

  await page.goto(`${stack().url}/systems/freight-desk`);
  await standing.getByRole('button', { name: 'Try again now' }).click();
  await expect(standing.getByRole('status')).toContainText('Freight Desk does not answer');
  await dial({ outage: false });
  await page.goto(`${stack().url}/runs?search=${company}`);
  await expect(page.getByRole('link', { name: new RegExp(`${company} updated wrote`) }).first()).toBeVisible({
    timeout: 40_000,
  });
  await expect(banner(page)).toBeHidden({ timeout: 30_000 });
  await page.goto(`${stack().url}/systems/freight-desk`);
  await expect(standing.getByText('answers', { exact: true })).toBeVisible();
  await expect.poll(caughtUp, { timeout: 30_000 }).not.toBe(before);
});

test('an event that comes late changes nothing, and its run says which version was dealt with before', async ({
  page,
}) => {
  const old = await askSystem('customer-book', 'GET', `/api/companies/${company}`);
  await patchCompany(company, { phone: '01632 960 881' });
  await page.goto(`${stack().url}/runs?search=${encodeURIComponent('960 881')}`);
  await expect(
    page.getByRole('link', { name: new RegExp(`${company} updated wrote`) }).first(),
  ).toBeVisible();
  const secret = stack().connections['customer-book']?.webhookSecret ?? '';
  const [id, at] = [randomUUID(), new Date()];
  const body = JSON.stringify({
    specversion: '1.0',
    id,
    source: '/customer-book',
    type: 'customer-book.company.updated',
    subject: company,
    time: at.toISOString(),
    data: { record: { ...old, phone: '01632 960 880' } },
  });
  const answer = await fetch(`${stack().url}/hooks/customer-book`, {
    method: 'POST',
    headers: {
      'content-type': 'application/cloudevents+json',
      'webhook-id': id,
      'webhook-timestamp': String(Math.floor(at.getTime() / 1000)),
      'webhook-signature': new Webhook(secret).sign(id, at, body),
    },
    body,
  });
  expect(answer.status).toBe(202);
  await page.goto(`${stack().url}/runs?result=late`);
  const late = page.getByRole('link', { name: new RegExp(`${company} updated came late`) }).first();
  await expect(late).toContainText(`it tells of version ${Number(old['revision'])}`);
  await late.click();
  await expect(page.getByRole('article')).toContainText('Nothing is changed by it.');
});

test('a run that failed, and that a newer one has overtaken, shows what is left before it is tried again', async ({
  page,
}) => {
  await dial({ outage: true });
  await patchCompany(company, { phone: '01632 960 891' });
  await page.goto(`${stack().url}/runs?state=waiting&search=${company}`);
  await page
    .getByRole('link', { name: new RegExp(company) })
    .first()
    .click();
  await page.getByRole('button', { name: 'Stop this run' }).click();
  await expect(page.getByRole('article').getByText('admin stopped it')).toBeVisible();
  const failed = page.url();
  await expect(page.getByRole('button', { name: 'Try again now' })).toBeVisible();
  await dial({ outage: false });
  await patchCompany(company, { phone: '01632 960 892' });
  const newer = page.getByRole('region', { name: 'A newer run' });
  await expect(async () => {
    await page.goto(failed);
    await expect(newer).toContainText('has dealt with this record since', { timeout: 1500 });
  }).toPass({ timeout: 40_000 });
  await expect(page.getByRole('button', { name: 'Try again now' })).toBeHidden();
  await newer.getByRole('button', { name: 'See what is left to do' }).click();
  await expect(newer).toContainText('Nothing is left to do');

  // Somebody changes a booking: now there is something left, with the phone that the company has by now.
  const { data } = await askSystem(
    'freight-desk',
    'GET',
    '/v2/bookings?where=partyId:eq:401006&pageSize=100',
  );
  const open = (data as { id: string; status: string }[]).find(
    ({ status }) => status === 'open' || status === 'confirmed',
  );
  await askSystem('freight-desk', 'PATCH', `/v2/bookings/${open?.id ?? ''}`, {
    contactPhone: '+441632960000',
  });
  await newer.getByRole('button', { name: 'Leave it' }).click();
  await newer.getByRole('button', { name: 'See what is left to do' }).click();
  await expect(newer).toContainText('1 record would be written.');
  await expect(newer).toContainText('+441632960892');
  await newer.getByRole('button', { name: 'Do what is left' }).click();
  await expect(page.getByRole('article', { name: /Run/ })).toContainText('1 record written.');
});
