import { expect, test, type Page } from '@playwright/test';
import type { RuleView } from '@vast-knot/core';
import { findingsIn } from './axe';
import { drag, formulaFor, pasteText, setFormula } from './formulas';
import { patchCompany, signIn, stack } from './stack';

test.beforeEach(async ({ page }) => signIn(page));

const twoTasks = '0192f3a0-0018-7000-8000-000000000018';

/** Makes the copy of a rule of the demo; returns its address. */
async function copyOf(page: Page, id: string): Promise<string> {
  const answer = await page.request.post(`${stack().url}/api/rules/${id}/copy`);
  expect(answer.status()).toBe(201);
  return `${stack().url}/rules/${((await answer.json()) as { id: string }).id}`;
}

async function draftOf(page: Page, address: string): Promise<RuleView['draft']> {
  const answer = await page.request.get(address.replace('/rules/', '/api/rules/'));
  return ((await answer.json()) as RuleView).draft;
}

const aliases = ({ actions }: RuleView['draft']) =>
  actions.map((action) =>
    'alias' in action ? action.alias : 'target' in action ? action.target : action.kind,
  );

const removed = (page: Page, address: string) =>
  page.request.delete(address.replace('/rules/', '/api/rules/'));

test('actions are put in another order by the mouse and by keys, removed and brought back, and pasted into another rule under names of their own', async ({
  page,
}) => {
  const address = await copyOf(page, twoTasks);
  const before = aliases(await draftOf(page, address));
  const [first, second, ...rest] = before;
  await page.goto(address);
  const grip = (at: number) => page.getByRole('button', { name: new RegExp(`^Order of action ${at}:`) });
  await expect(grip(1)).toBeVisible();
  await drag(page, grip(2), page.locator('[data-part="actions/0"] .ledger-title'));
  await expect.poll(async () => aliases(await draftOf(page, address))).toEqual([second, first, ...rest]);
  // By keys it goes back, and the focus goes with it.
  await grip(1).focus();
  await page.keyboard.press('ArrowDown');
  await expect(grip(2)).toBeFocused();
  await expect.poll(async () => aliases(await draftOf(page, address))).toEqual(before);
  await page.getByRole('button', { name: 'What to do with action 1', exact: true }).click();
  expect(await findingsIn(page, 'the menu of an action')).toEqual([]);
  await page.getByRole('button', { name: 'Remove', exact: true }).click();
  await expect.poll(async () => aliases(await draftOf(page, address))).toEqual([second, ...rest]);
  await page.getByText('Removed action 1.').getByRole('button', { name: 'Undo' }).click();
  await expect.poll(async () => aliases(await draftOf(page, address))).toEqual(before);

  // Copied here, pasted below: the new record has a name of its own.
  await page.getByRole('button', { name: 'What to do with action 1', exact: true }).click();
  await page.getByRole('button', { name: 'Copy', exact: true }).click();
  await page.getByRole('button', { name: 'Do something more' }).click();
  await page.getByRole('menuitem', { name: /^Paste an action/ }).click();
  await expect(page.getByText(new RegExp(`“${first}” is called “${first}2” here`))).toBeVisible();
  await expect.poll(async () => aliases(await draftOf(page, address))).toEqual([...before, `${first}2`]);
  await removed(page, address);
});

test('a find comes with what it needs from one rule into another, also as text', async ({ page }) => {
  const part = {
    vastKnotPart: 1,
    needs: [
      {
        alias: 'owner',
        system: 'freight-desk',
        recordType: 'party',
        match: [{ field: 'customerNumber', is: 'equal', formula: 'id' }],
        none: 'stop',
        several: 'fail',
      },
    ],
    find: {
      alias: 'enquiry',
      system: 'freight-desk',
      recordType: 'enquiry',
      match: [{ field: 'partyId', is: 'equal', formula: 'owner.id' }],
      none: 'go on',
      several: 'first',
    },
  };
  // This one finds the same party already, and calls it otherwise.
  const address = await copyOf(page, '0192f3a0-0001-7000-8000-000000000001');
  await page.goto(address);
  await expect(page.getByRole('button', { name: 'Edit how booking is found' })).toBeVisible();
  await page
    .locator('h1, main')
    .first()
    .click({ position: { x: 5, y: 5 } });
  await pasteText(page, JSON.stringify(part));
  await expect(page.getByText(/Pasted the find of enquiry.*“owner” is called “party” here/)).toBeVisible();
  await expect(page.getByRole('button', { name: 'Edit how enquiry is found' })).toContainText('is party.id');
  await expect
    .poll(async () => (await draftOf(page, address)).finds.map(({ alias }) => alias))
    .toEqual(['party', 'booking', 'enquiry']);
  await removed(page, address);
});

test('a formula for a choice is offered its options, and text is joined to a value as a step', async ({
  page,
}) => {
  const address = await copyOf(page, '0192f3a0-0001-7000-8000-000000000001');
  await page.goto(address);
  await setFormula(page, 'Status', '"');
  const option = page.getByRole('option', { name: /^confirmed\s*Confirmed/ });
  await expect(option).toBeVisible();
  await page.keyboard.press('Escape');
  await setFormula(page, 'Title', 'name');
  await page.getByRole('button', { name: 'step', exact: true }).click();
  await page.getByRole('option', { name: /^behind it/ }).click();
  await expect(formulaFor(page, 'Title').last()).toHaveText('name & " "');
  await page.getByRole('button', { name: /^Step 1: behind it/ }).click();
  await page.getByLabel('text or value').fill('" of the line"');
  await expect(formulaFor(page, 'Title').last()).toHaveText('name & " of the line"');
  // The completion of a field says where it comes from and what the sample has.
  await page.keyboard.press('Escape');
  await setFormula(page, 'Title', 'pho');
  await expect(page.locator('.cm-completionInfo')).toContainText('Company in Customer Book');
  await expect(page.locator('.cm-completionInfo')).toContainText('This sample: 01632');
  await removed(page, address);
});

test('what a change would do is looked at before it is saved, and the rules are run on a record as it is', async ({
  page,
}) => {
  await patchCompany('C-1007', { phone: '01632 960 107' });
  await page.goto(`${stack().url}/records?left=customer-book/company/C-1007`);
  const left = page.getByRole('region', { name: 'Left side' });
  await left.getByLabel('Phone').fill('01632 960 779');
  await left.getByRole('button', { name: 'What would happen?' }).click();
  const would = left.getByRole('region', { name: 'What would happen' });
  await expect(would.getByText('+441632960779').first()).toBeVisible();
  await expect(would.getByText('Nothing is saved or written.')).toBeVisible();
  expect(await findingsIn(page, 'what would happen')).toEqual([]);
  await left.getByRole('button', { name: 'Undo' }).click();
  await left.getByRole('button', { name: 'Run the rules now' }).click();
  const now = left.getByRole('region', { name: 'Run the rules now' });
  await expect(now.getByRole('link', { name: 'Company phone and town to open bookings' })).toBeVisible();
  await expect(now.getByRole('button', { name: /^(Write|Send) / })).toBeVisible();
  expect(await findingsIn(page, 'the rules now')).toEqual([]);
});
