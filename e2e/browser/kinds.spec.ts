import { expect, test, type Page } from '@playwright/test';
import { setFormula } from './formulas';
import { askSystem, openRule, place, publish, signIn, stack, stopRunning } from './stack';

/** One story for each way in which a change reaches another record. */
test.beforeEach(async ({ page }) => signIn(page));

const recordsOf = (left: string, right: string) => `${stack().url}/records?left=${left}&right=${right}`;
const outcomeIn = (page: Page, system: string) => page.getByRole('region', { name: `Outcome in ${system}` });
const rule = (number: number, query = '') =>
  `${stack().url}/rules/0192f3a0-${String(number).padStart(4, '0')}-7000-8000-${String(number).padStart(12, '0')}${query}`;

test('parent to children: a company moves, and its people and its open bookings move with it', async ({
  page,
}) => {
  await page.goto(recordsOf('customer-book/company/C-1003', 'customer-book/person'));
  const left = page.getByRole('region', { name: 'Left side' });
  await left.getByLabel('Town').fill('Tarn Quay');
  await left.getByRole('button', { name: 'Save the change' }).click();
  await page.goto(`${stack().url}/runs?search=C-1003`);
  await page
    .getByRole('link', { name: /C-1003 updated wrote/ })
    .first()
    .click();
  await expect(outcomeIn(page, 'Customer Book').getByText('Tarn Quay').first()).toBeVisible();
  await expect(outcomeIn(page, 'Freight Desk').getByText('Tarn Quay').first()).toBeVisible();
  await expect(page.getByText('Did what “Phone and address of its company” does')).toBeVisible();
});

test('child to parent: a voyage is finished, and its vessel beside it shows what it sailed last', async ({
  page,
}) => {
  await page.goto(recordsOf('fleet-log/voyage/VY-5014', 'fleet-log/vessel/V-13'));
  const left = page.getByRole('region', { name: 'Left side' });
  const right = page.getByRole('region', { name: 'Right side' });
  await left.getByLabel('Status Code').click();
  await page.getByRole('option', { name: 'Finished' }).click();
  await left.getByRole('button', { name: 'Save the change' }).click();
  await expect(right.getByLabel('Last Voyage No')).toHaveValue('2614');
  await expect(right.getByText('changed by Finished voyage writes back to its vessel').first()).toBeVisible();
});

test('a near miss is mended where it is shown, and the same payload is replayed', async ({ page }) => {
  await page.goto(rule(12));
  await expect(page.getByText('no record found')).toBeVisible();
  await expect(
    page.getByText(/differs from “murrow-salt-works.example” by a leading @/).first(),
  ).toBeVisible();
  await page.getByRole('button', { name: 'Compare them alike' }).click();
  await expect(page.getByText('1 record found')).toBeVisible();
  await page.getByRole('button', { name: 'Edit how party is found' }).click();
  await expect(page.getByLabel('What mailDomain of party is compared as')).toContainText(
    'SUBSTITUTE(item, "@", "")',
  );
  await expect(page.getByRole('status').filter({ hasText: 'Saved' })).toBeVisible();
  await page.getByRole('link', { name: 'See the records on the bench' }).click();
  await expect(outcomeIn(page, 'Freight Desk').getByText('401106')).toBeVisible();
  await page.getByText('As published', { exact: true }).click();
  await expect(page.getByText('No record is changed in any system.')).toBeVisible();
  await page.getByText('As edited', { exact: true }).click();
  await page.goto(rule(12));
  await publish(page);
  await expect(page.getByText('runs, version 2')).toBeVisible();
  const made = await askSystem('freight-desk', 'POST', '/v2/enquiries', {
    subject: 'Salt again',
    email: 'owner@murrow-salt-works.example',
  });
  await page.goto(recordsOf(`freight-desk/enquiry/${String(made['id'])}`, 'freight-desk/party'));
  await expect(page.getByRole('region', { name: 'Left side' }).getByLabel('Party')).toHaveValue('401106');
});

test('two records are created from one change, and the first is pointed to', async ({ page }) => {
  await page.goto(recordsOf('yard-planner/job/job_4', 'yard-planner/task'));
  const left = page.getByRole('region', { name: 'Left side' });
  await left.getByLabel('State').click();
  await page.getByRole('option', { name: 'In the yard' }).click();
  await left.getByRole('button', { name: 'Save the change' }).click();
  await expect(left.getByLabel('First task')).toHaveValue(/^task_/);
  const right = page.getByRole('region', { name: 'Right side' });
  await right.getByRole('textbox', { name: 'Search Tasks' }).fill('SKDU');
  await expect(right.getByText('Wash down SKDU')).toBeVisible();
  await expect(right.getByText('Survey SKDU')).toBeVisible();
});

test('a copy is reviewed: two are filled in, one is changed, one is left out', async ({ page }) => {
  await page.goto(recordsOf('fleet-log/voyage/VY-5010', 'fleet-log/voyage'));
  await page.getByRole('button', { name: 'Next voyage copied from this one' }).click();
  await page.getByLabel('Sails first on').fill('2026-12-07');
  await page.getByLabel('How many, a week apart').fill('2');
  await page.getByRole('button', { name: 'Show what it would do' }).click();
  await expect(page.getByLabel('Sails On of new voyage 2')).toHaveValue('14/12/2026');
  await page.getByLabel('Remark of new voyage 1').fill('Extra sailing.');
  await page.getByRole('article', { name: 'New Voyage 2' }).getByLabel('Leave this one out').check();
  await page.getByRole('button', { name: 'Create 1 record' }).click();
  await page.getByRole('link', { name: 'Look at the run' }).click();
  const made = outcomeIn(page, 'Fleet Log');
  await expect(made.getByText('created', { exact: true })).toHaveCount(1);
  await expect(made.getByText('Extra sailing.')).toBeVisible();
  await expect(made.getByText('07/12/2026')).toBeVisible();
});

test('a guard becomes true, part by part, and one message is received and verified', async ({ page }) => {
  await page.goto(rule(9, '?guard=conditions'));
  const conditions = page.getByRole('group', { name: 'Conditions of the guard' });
  await expect(conditions.getByText('before does not hold').first()).toBeVisible();
  await expect(conditions.getByText('now holds').first()).toBeVisible();
  await page.goto(recordsOf('customer-book/company/C-1082', 'notice-post/message'));
  const left = page.getByRole('region', { name: 'Left side' });
  await left.getByLabel('Status').click();
  await page.getByRole('option', { name: 'active', exact: false }).first().click();
  await left.getByRole('button', { name: 'Save the change' }).click();
  await place(page, 'Runs');
  await page
    .getByRole('navigation', { name: 'Runs and messages' })
    .getByRole('link', { name: 'Messages' })
    .click();
  await page.getByRole('link', { name: /account.opened about C-1082.*delivered/ }).click();
  await expect(page.getByText('"signature":"right"')).toBeVisible();
  await expect(page.getByText('"subject": "C-1082"')).toBeVisible();
  await page.getByRole('button', { name: 'Send again now' }).click();
  await expect(page.getByRole('row', { name: /202/ })).toHaveCount(2);
});

test('tidy explains itself: what was just typed is gone, and the record says which rule took it and why', async ({
  page,
}) => {
  await page.goto(recordsOf('fleet-log/vessel/V-18', 'fleet-log/voyage'));
  const left = page.getByRole('region', { name: 'Left side' });
  await left.getByLabel('Old Radio').fill('CH 16');
  await left.getByRole('button', { name: 'Save the change' }).click();
  const row = left.getByRole('row', { name: /Old Radio/ });
  await expect(row.getByText('cleared by Vessel tidied on save')).toBeVisible();
  await expect(row.getByText('The name fits Old *.')).toBeVisible();
  await expect(row.getByText('CH 16')).toBeVisible();
  await page.goto(rule(17));
  await expect(page.getByRole('img', { name: /positions 5 to 5/ }).first()).toBeVisible();
});

test('a loop is named: two rules that undo each other are stopped, and the bench says which', async ({
  page,
}) => {
  for (const [name, from, to] of [
    ['Turns it on', 'false', 'true'],
    ['Turns it off', 'true', 'false'],
  ]) {
    await place(page, 'Rules');
    await page.getByRole('link', { name: 'New rule' }).click();
    await page.getByLabel('Name of the rule').fill(name ?? '');
    await page.getByRole('button', { name: 'Record type that starts the rule' }).click();
    await page.getByRole('combobox', { name: 'Record type' }).click();
    await page.getByRole('option', { name: 'Party', exact: true }).click();
    await page.keyboard.press('Escape');
    await setFormula(page, 'On hold', `IF(onHold = ${from ?? ''}, ${to ?? ''}, onHold)`);
    await expect(page.getByRole('status').filter({ hasText: 'Saved' })).toBeVisible();
    await publish(page);
    await expect(page.getByText('runs, version 1')).toBeVisible();
  }
  await askSystem('freight-desk', 'PATCH', '/v2/parties/401150', { deskNote: 'Ring first.' });
  await page.goto(`${stack().url}/runs?search=401150`);
  await page
    .getByRole('link', { name: /401150 updated (partly )?failed/ })
    .first()
    .click();
  await expect(page.getByText(/A circle was stopped/).first()).toContainText('Turns it o');
  for (const name of ['Turns it on', 'Turns it off']) {
    await openRule(page, name);
    await stopRunning(page);
    await expect(page.getByText('draft, does not run')).toBeVisible();
  }
});

test('conditions and formula are two views of one guard', async ({ page }) => {
  await page.goto(rule(10, '?guard=conditions'));
  await page.getByRole('button', { name: 'and a condition' }).click();
  await page.getByRole('combobox', { name: 'What is tested' }).fill('status');
  await page.getByRole('combobox', { name: 'Test', exact: true }).click();
  await page.getByRole('option', { name: 'is one of' }).click();
  await page.getByRole('combobox', { name: 'Value 1' }).click();
  await page.getByRole('option', { name: 'Closed' }).click();
  await page.getByText('Formula', { exact: true }).click();
  await expect(page.getByLabel('Only if')).toContainText('ONEOF(status, "closed")');
  await page.getByRole('button', { name: /Undo/ }).click();
});

test('the person who runs a rule can be asked for one of several answers, which are told in the rule', async ({
  page,
}) => {
  await page.goto(rule(15));
  await page.getByRole('button', { name: 'What the person is asked for' }).click();
  await page.getByRole('button', { name: 'Ask for something' }).click();
  await page.getByRole('textbox', { name: 'Question' }).last().fill('Tide');
  await page.getByRole('combobox', { name: 'Kind of answer' }).last().click();
  await page.getByRole('option', { name: 'choice', exact: true }).click();
  await page.getByLabel('Answers to choose from').fill('am = Morning tide\npm = Evening tide');
  await page.getByRole('textbox', { name: 'Question' }).last().click();
  await page.keyboard.press('Escape');
  await expect(page.getByRole('button', { name: 'What the person is asked for' })).toContainText('Tide');
  await expect(page.getByRole('status').filter({ hasText: 'Saved' })).toBeVisible();
  await publish(page);
  await expect(page.getByText('runs, version 2')).toBeVisible();
  await page.goto(recordsOf('fleet-log/voyage/VY-5005', 'fleet-log/voyage'));
  await page.getByRole('button', { name: 'Next voyage copied from this one' }).click();
  await page.getByRole('combobox', { name: 'Tide' }).click();
  await expect(page.getByRole('option')).toHaveText(['Morning tide', 'Evening tide']);
});
