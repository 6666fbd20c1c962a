import { readFile } from 'node:fs/promises';
import { expect, test } from '@playwright/test';
import { findingsIn } from './axe';
import { setFormula } from './formulas';
import { findRule, openRule, place, publish, signIn, stack, stopRunning } from './stack';

test.beforeEach(async ({ page }) => signIn(page));

/** Makes the copy of a rule that is as good as any to work on; returns what it is called. */
async function copyOf(page: Parameters<typeof signIn>[0], name: string): Promise<string> {
  await findRule(page, name);
  await page.getByRole('button', { name: `What to do with “${name}”`, exact: true }).click();
  await page.getByRole('menuitem', { name: 'Duplicate' }).click();
  await expect(page.getByRole('link', { name: `${name} (copy)`, exact: true })).toBeVisible();
  return `${name} (copy)`;
}

test('a rule is copied, renamed and filed in the list, removed, and brought back by one press', async ({
  page,
}) => {
  const copy = await copyOf(page, 'Enquiry finds its party by mail domain');
  await page.getByRole('button', { name: `What to do with “${copy}”` }).click();
  await page.getByRole('menuitem', { name: 'Rename' }).click();
  await page.getByLabel('Name', { exact: true }).fill('Enquiries, tried otherwise');
  await page.keyboard.press('Enter');
  await page.getByLabel('Search the rules').fill('tried otherwise');
  await expect(page.getByRole('link', { name: 'Enquiries, tried otherwise' })).toBeVisible();
  await page.getByRole('button', { name: 'What to do with “Enquiries, tried otherwise”' }).click();
  await page.getByRole('menuitem', { name: 'Move to a folder' }).click();
  await page.getByRole('dialog').getByRole('combobox', { name: 'Folder' }).fill('Trials');
  await page.getByRole('button', { name: 'Move 1 rule' }).click();
  await expect(page.getByRole('listitem').filter({ hasText: 'tried otherwise' })).toContainText('Trials');
  await page.goto(`${stack().url}/rules?folder=Trials&group=folder`);
  await expect(page.getByRole('heading', { name: /^Trials/ })).toBeVisible();
  await page.getByRole('button', { name: 'What to do with “Enquiries, tried otherwise”' }).click();
  await page.getByRole('menuitem', { name: 'Remove' }).click();
  await expect(page.getByText('“Enquiries, tried otherwise” is removed.')).toBeVisible();
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByRole('link', { name: 'Enquiries, tried otherwise' })).toBeVisible();
  await page.getByRole('checkbox', { name: 'Choose all rules that are listed' }).check();
  const [file] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('region', { name: 'The chosen rules' }).getByRole('button', { name: 'Export' }).click(),
  ]);
  const bundle = JSON.parse(await readFile(await file.path(), 'utf8')) as {
    readonly vastKnot: number;
    readonly systems: readonly { readonly system: { readonly key: string } }[];
    readonly rules: readonly { readonly rule: { readonly name: string } }[];
  };
  expect(bundle.vastKnot).toBe(2);
  expect(bundle.rules.map(({ rule }) => rule.name)).toEqual(['Enquiries, tried otherwise']);
  expect(bundle.systems.map(({ system }) => system.key)).toEqual(['freight-desk']);
  await page
    .getByRole('region', { name: 'The chosen rules' })
    .getByRole('button', { name: 'Remove' })
    .click();
  await expect(page.getByText('No rule is like that')).toBeVisible();
});

test('rules of one record type are put in order by number and by dragging, which others do not follow', async ({
  page,
}) => {
  await page.goto(`${stack().url}/rules?group=type`);
  const order = async () =>
    await page
      .getByRole('textbox', { name: /among the 2 rules on Person in Customer Book/ })
      .evaluateAll((all) =>
        all.map((each) => /^Place of “(.*)” among/.exec(each.getAttribute('aria-label') ?? '')?.[1]),
      );
  await page.getByRole('combobox', { name: 'Record type' }).click();
  await page.getByRole('option', { name: 'Person in Customer Book' }).click();
  await expect.poll(order).toHaveLength(2);
  const [first = '', second = ''] = await order();
  const place = page.getByLabel(`Place of “${second}” among the 2 rules on Person in Customer Book`);
  await place.fill('1');
  await place.press('Enter');
  await expect.poll(order).toEqual([second, first]);
  // Back by dragging the first onto the second.
  const grip = (name: string) => page.getByRole('listitem').filter({ hasText: name }).locator('.grip');
  const from = await grip(second).boundingBox();
  const to = await grip(first).boundingBox();
  if (!from || !to) throw new Error('nothing can be dragged');
  await page.mouse.move(from.x + 8, from.y + 8);
  await page.mouse.down();
  await page.mouse.move(to.x + 8, to.y + 4, { steps: 8 });
  await page.mouse.move(to.x + 8, to.y + 10, { steps: 4 });
  await page.mouse.up();
  await expect.poll(order).toEqual([first, second]);
});

test('a rule is published twice with notes, compared field by field, and goes back to its first version', async ({
  page,
}) => {
  const copy = await copyOf(page, 'Next voyage copied from this one');
  await openRule(page, copy);
  await publish(page, 'As it was tried in spring.');
  await expect(page.getByText('runs, version 1')).toBeVisible();
  await page.getByLabel('What the rule is for').fill('A copy that is tried.');
  await expect(page.getByText('runs version 1, draft differs')).toBeVisible();
  await page.getByRole('button', { name: /^Publish/ }).click();
  const panel = page.getByRole('form', { name: 'Publish the draft' });
  await expect(panel.getByRole('row').filter({ hasText: 'A copy that is tried.' })).toContainText('note');
  await panel.getByRole('button', { name: 'Not now' }).click();
  await publish(page, 'With a note of its own.');
  await stopRunning(page, 'The trial is over.');
  await expect(page.getByText('draft, does not run')).toBeVisible();
  await page.reload();
  await expect(page.getByText('draft, does not run')).toBeVisible();
  await page.getByRole('link', { name: 'Versions' }).click();
  await expect(page.getByText('As it was tried in spring.')).toBeVisible();
  await expect(page.getByText('The trial is over.')).toBeVisible();
  await expect(page.getByRole('row').filter({ hasText: 'A copy that is tried.' })).toContainText('note');
  await expect(page.getByText(/^Of \d+ samples?, |^No sample concerns/)).toBeVisible();
  expect(await findingsIn(page, 'versions')).toEqual([]);
  await page
    .getByRole('listitem')
    .filter({ hasText: 'Version 1' })
    .getByRole('button', { name: 'Make it the draft' })
    .click();
  await expect(page.getByText(/is version 1 now/)).toBeVisible();
  await page.getByRole('link', { name: copy }).click();
  await expect(page.getByLabel('What the rule is for')).not.toHaveValue('A copy that is tried.');
  await findRule(page, copy);
  expect(await findingsIn(page, 'versions')).toEqual([]);
  await page.getByRole('button', { name: `What to do with “${copy}”` }).click();
  await page.getByRole('menuitem', { name: 'Remove' }).click();
  await expect(page.getByText('is removed.')).toBeVisible();
});

test('the row under the pointer stays that of its rule while the list is narrowed', async ({ page }) => {
  await place(page, 'Rules');
  await page.getByLabel('Search the rules').fill('voyage');
  await expect(page.getByRole('link', { name: 'Company phone and town to open bookings' })).toHaveCount(0);
  const names = await page.locator('a.rule-name').allTextContents();
  const last = names.at(-1) ?? '';
  const row = await page
    .getByRole('list', { name: 'Rules' })
    .getByRole('link', { name: last, exact: true })
    .elementHandle();
  expect(names.length).toBeGreaterThan(1);
  await page.getByLabel('Search the rules').fill(last);
  await expect.poll(async () => page.locator('a.rule-name').count()).toBeLessThan(names.length);
  expect(await row?.textContent()).toBe(last);
  expect(await row?.evaluate((element) => element.isConnected)).toBe(true);
});

test('a new rule that says nothing yet is kept nowhere', async ({ page }) => {
  await page.goto(`${stack().url}/rules/new`);
  await expect(page.getByLabel('Name of the rule')).toHaveValue('New rule');
  await place(page, 'Rules');
  await page.getByLabel('Search the rules').fill('New rule');
  await expect(page.getByText('No rule is like that')).toBeVisible();
  await page.goto(`${stack().url}/rules/new`);
  await setFormula(page, 'Remark', '"Kept from here on"');
  await expect(page).toHaveURL(/\/rules\/[0-9a-f-]{36}/);
  await findRule(page, 'New rule');
  await page.getByRole('button', { name: 'What to do with “New rule”' }).click();
  await page.getByRole('menuitem', { name: 'Remove' }).click();
  await expect(page.getByText('“New rule” is removed.')).toBeVisible();
});
