import { expect, test } from '@playwright/test';
import { findingsIn } from './axe';
import { askSystem, place, publish, signIn, stack } from './stack';

test.beforeEach(({ page }) => signIn(page));

// Whatever becomes of a story, the others find nothing paused.
test.afterEach(async ({ page }) => {
  await page.request.post(`${stack().url}/api/pauses/everything/go-on`, { data: {} });
});

test('a rule is held beside the records that exist, narrowed to a group, and what is chosen is written once', async ({
  page,
}) => {
  await place(page, 'Runs');
  await page.getByRole('link', { name: 'Reconciles' }).click();
  // The page before has a choice of that name as well.
  await expect(page.getByRole('heading', { name: 'Records that exist' })).toBeVisible();
  await page.getByRole('combobox', { name: 'Rule' }).click();
  await page.getByRole('option', { name: /^Company name on its people/ }).click();
  await page.getByRole('button', { name: 'Look at what exists' }).click();
  const standings = page.getByRole('group', { name: 'How the records stand' });
  const change = standings.getByRole('button', { name: /^would change/ });
  await expect(standings.getByRole('button', { name: /^guard does not hold [1-9]/ })).toBeVisible();
  await expect(change).toHaveText(/[1-9]/);
  await change.click();
  expect(page.url()).toContain('standing=changes');
  await page.getByText('values', { exact: true }).click();
  await page.getByRole('region', { name: 'Groups' }).getByRole('button').first().click();
  expect(page.url()).toContain('after=');
  const list = page.getByRole('list', { name: 'Records that were looked at' });
  await expect(list.getByRole('listitem').first()).toContainText('blank');
  expect(await findingsIn(page, 'a look at what exists')).toEqual([]);

  const first = list.getByRole('checkbox').first();
  await first.check();
  const id = (await list.getByRole('listitem').first().innerText()).match(/P-\d+/)?.[0] ?? '';
  await page.getByRole('button', { name: 'Write the 1 marked record' }).click();
  await page.getByRole('button', { name: 'Write now' }).click();
  await expect(standings.getByRole('button', { name: /^written 1/ })).toBeVisible();
  await expect(list.getByRole('listitem').first()).toContainText('1 record written.');
  const person = await askSystem('customer-book', 'GET', `/api/people/${id}`);
  expect(person['company_name']).toMatch(/\w/);

  // What it wrote is a run as others are.
  await list.getByRole('link', { name: 'written' }).first().click();
  await expect(page).toHaveURL(/\/runs\/\d+/);
  await expect(page.getByRole('article').first()).toContainText('Company name');
});

test('a rule that asks how a record was before is refused with the reason, and one as edited is only looked at', async ({
  page,
}) => {
  await page.goto(`${stack().url}/reconcile`);
  await page.getByRole('combobox', { name: 'Rule' }).click();
  await page.getByRole('option', { name: /^Cargo lines/ }).click();
  await page.getByRole('button', { name: 'Look at what exists' }).click();
  await expect(page.getByRole('alert')).toContainText('nobody knows how they were before');
  await page.getByRole('combobox', { name: 'Rule' }).click();
  await page.getByRole('option', { name: /^Finished voyage/ }).click();
  await page.getByRole('radio', { name: /as it is edited/ }).check();
  await page.getByRole('radio', { name: /fill in only what is blank/ }).check();
  await page.getByRole('button', { name: 'Look at what exists' }).click();
  await expect(page.getByText('Publish it and look again to have something written.')).toBeVisible();
  await expect(page.getByText('filling in only what is blank')).toBeVisible();
  await expect(page.getByRole('button', { name: /^Write/ })).toHaveCount(0);
});

test('when a rule is published it is asked whether what exists is brought into line too', async ({
  page,
}) => {
  await place(page, 'Rules');
  await page.getByRole('link', { name: /Tariff zone from the destination port/ }).click();
  await page.getByRole('textbox', { name: 'What the rule is for' }).fill('Published once more.');
  await publish(page);
  const asked = page.getByRole('status', { name: 'Records that exist' });
  await expect(asked).toContainText('acts on what changes from now on');
  await asked.getByRole('button', { name: 'Count them first' }).click();
  await expect(asked).toContainText(/Of [\d,]+ bookings: /);
  await asked.getByRole('link', { name: /See them/ }).click();
  await expect(page.getByRole('heading', { name: /Tariff zone/ })).toBeVisible();
  await expect(page.getByRole('button', { name: 'Report of every record as a file' })).toBeVisible();
});

test('after publishing, what exists is written by a job that waits, is paused and goes on; and it is taken back', async ({
  page,
}) => {
  await place(page, 'Rules');
  await page.getByRole('link', { name: /Company name on its people/ }).click();
  await page.getByRole('textbox', { name: 'What the rule is for' }).fill('Published once more.');
  await publish(page);
  const asked = page.getByRole('status', { name: 'Records that exist' });
  await asked.getByRole('button', { name: 'Count them first' }).click();
  await asked.getByRole('link', { name: /See them/ }).click();
  await expect(page.getByRole('button', { name: 'Report of every record as a file' })).toBeVisible();
  const look = page.url().replace(/\?.*/, '');

  await place(page, 'Today');
  await page.getByRole('button', { name: 'Pause everything' }).click();
  const banner = page.getByRole('status').filter({ hasText: 'Everything is paused' });
  await expect(banner).toBeVisible();
  await page.goto(`${look}?standing=changes&search=Mouat`);
  const write = page.getByRole('button', { name: /^Write the \d+ that are listed$/ });
  const count = Number((await write.innerText()).match(/\d+/)?.[0]);
  expect(count).toBeGreaterThan(1);
  await write.click();
  await page.getByRole('button', { name: 'Write now' }).click();
  const job = page.getByRole('main');
  await expect(job.getByText(/is paused/).first()).toBeVisible();
  await job.getByRole('button', { name: 'Pause', exact: true }).click();
  await expect(job.getByText(/^paused/)).toBeVisible();
  await job.getByRole('button', { name: 'Go on' }).click();

  await banner.getByRole('button', { name: 'Go on' }).click();
  const together = page.getByRole('button', { name: /^Go on with/ });
  await expect(
    together.or(page.getByRole('button', { name: new RegExp(`^written ${count}`) })),
  ).toBeVisible();
  if (await together.isVisible()) await together.click();
  await expect(banner).toHaveCount(0);
  await expect(page.getByRole('button', { name: new RegExp(`^written ${count}`) })).toBeVisible();

  // One run wrote them all, and tells of each.
  const list = page.getByRole('list', { name: 'Records that were looked at' });
  await expect(list.getByRole('listitem').first()).toContainText('Written by one run, with others.');
  await list.getByRole('link', { name: 'written' }).first().click();
  await expect(page.getByRole('heading', { name: `${count} people reconciled` })).toBeVisible();
  const told = page.getByRole('article').first();
  await expect(told).toContainText(`${count} records written.`);
  await told
    .getByText(/for P-\d+/)
    .first()
    .click();
  await expect(told.getByRole('region', { name: 'Rules' })).toContainText('company_name');
  expect(await findingsIn(page, 'a run for many records')).toEqual([]);
  await expect(told.getByRole('button', { name: 'Replay on the bench' })).toHaveCount(0);
  await told.getByRole('link', { name: /^how each of them stood/ }).click();

  await page.getByRole('link', { name: 'Take back what was written…' }).click();
  await page.getByLabel('Why it is taken back').fill('Only tried.');
  await page.getByRole('button', { name: `Take back ${count} records` }).click();
  await expect(page.getByText('1 run taken back; what was changed since stays.')).toBeVisible();
});
