import { expect, test, type Locator, type Page } from '@playwright/test';
import type { MappingLine, RuleBody, RuleView } from '@vast-knot/core';
import { drag, formulaFor, pasteText, rowOf, setFormula } from './formulas';
import { findRule, patchCompany, signIn, stack } from './stack';

const partyRule = '/rules/0192f3a0-0004-7000-8000-000000000004';
const moved = '?sample=0192f3a0-1000-7000-8000-000000000004';

test.beforeEach(async ({ page }) => signIn(page));

/** Makes a draft of its own for a story, as a company's change is written to its party. */
async function draft(
  page: Page,
  name: string,
  change: Partial<RuleBody>,
  lines: MappingLine[],
): Promise<void> {
  const body: RuleBody = {
    name,
    note: '',
    trigger: { system: 'customer-book', recordType: 'company', kinds: ['updated'], watched: [] },
    guard: '',
    finds: [
      {
        alias: 'party',
        system: 'freight-desk',
        recordType: 'party',
        match: [{ field: 'customerNumber', is: 'equal', formula: 'id' }],
        none: 'stop',
        several: 'fail',
      },
    ],
    actions: [{ kind: 'write', target: 'party', lines }],
    ...change,
  };
  const response = await page.request.post(`${stack().url}/api/rules`, {
    data: body,
    headers: { origin: stack().url },
  });
  expect(response.status()).toBe(201);
  const { id } = (await response.json()) as RuleView;
  await page.goto(`${stack().url}/rules/${id}${moved}`);
  await expect(page.getByLabel('Name of the rule')).toHaveValue(name);
}

const line = (field: string, formula: string): MappingLine => ({ field, formula, policy: 'always' });

/** Presses Tab until something has the focus. */
async function tabTo(page: Page, wanted: Locator): Promise<void> {
  for (let presses = 0; presses < 120; presses++) {
    if ((await wanted.count()) > 0 && (await wanted.evaluate((element) => element.matches(':focus')))) return;
    await page.keyboard.press('Tab');
  }
  throw new Error('Tab does not lead there.');
}

test('with the keyboard alone one signs in, builds a rule, publishes it, replays, verifies, and goes back a version', async ({
  page,
}) => {
  test.setTimeout(120_000);
  // What the page before asked for can bring back the cookie.
  await page.goto('about:blank');
  await page.context().clearCookies();
  await page.goto(stack().url);
  await expect(page.getByRole('textbox', { name: 'Name' })).toBeVisible();
  await tabTo(page, page.getByRole('textbox', { name: 'Name' }));
  await page.keyboard.type(stack().user);
  await tabTo(page, page.locator('input[type=password]'));
  await page.keyboard.type(stack().password);
  await page.keyboard.press('Enter');
  await expect(page.getByRole('link', { name: 'Rules', exact: true })).toBeVisible();
  await tabTo(page, page.getByRole('link', { name: 'Rules', exact: true }));
  await page.keyboard.press('Enter');
  await expect(page.getByRole('heading', { name: 'Rules', exact: true })).toBeVisible();
  await tabTo(page, page.getByRole('link', { name: 'New rule' }));
  await page.keyboard.press('Enter');
  const name = page.getByLabel('Name of the rule');
  await expect(name).toBeVisible();
  await tabTo(page, name);
  await page.keyboard.press('Control+A');
  await page.keyboard.type('A farewell in the remark');
  await tabTo(page, page.getByRole('button', { name: 'Watched fields' }));
  await page.keyboard.press('Enter');
  await expect(page.getByRole('combobox', { name: 'Watched fields' })).toBeFocused();
  await page.keyboard.type('Status');
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Enter');
  await page.keyboard.press('Escape');
  await page.keyboard.press('Escape');
  await expect(page.getByRole('button', { name: 'Watched fields' })).toHaveText('Status');
  await tabTo(page, page.getByLabel('Only if', { exact: true }));
  await page.keyboard.type('status = "dor');
  // The options of the field are offered inside the quotes; Enter takes one and closes them.
  await expect(page.getByRole('option', { name: 'dormant' })).toBeVisible();
  await page.keyboard.press('Enter');
  await expect(page.getByLabel('Only if', { exact: true })).toHaveText('status = "dormant"');
  await tabTo(page, formulaFor(page, 'Remark'));
  await page.keyboard.type('"No longer a customer: " & tri');
  await expect(page.getByRole('option', { name: /^TRIM/ })).toBeVisible();
  await page.keyboard.press('Enter');
  await page.keyboard.type('name)');
  await expect(page.getByText('“Name” is used here and not watched')).toBeVisible();
  await tabTo(page, page.getByRole('button', { name: 'Watch Name' }));
  await page.keyboard.press('Enter');
  await expect(page.getByText('no findings')).toBeVisible();
  const publish = page.getByRole('button', { name: 'Publish', exact: true });
  await expect(publish).toBeEnabled();
  await tabTo(page, publish);
  await page.keyboard.press('Enter');
  await expect(page.getByLabel(/^What is it for/)).toBeFocused();
  await page.keyboard.type('Asked for by the sales office.');
  await page.keyboard.press('Enter');
  await expect(page.getByText('runs, version 1')).toBeVisible();
  const sheet = new URL(page.url()).pathname;

  // A second version, which says it otherwise.
  await tabTo(page, formulaFor(page, 'Remark'));
  await expect(page.getByLabel('Formula for Remark', { exact: true }).last()).toBeFocused();
  await page.keyboard.press('Control+A');
  await page.keyboard.type('"Gone: " & name');
  await expect(page.getByText('runs version 1, draft differs')).toBeVisible();
  await tabTo(page, page.getByRole('button', { name: /^Publish/ }));
  await page.keyboard.press('Enter');
  await expect(page.getByLabel(/^What is it for/)).toBeFocused();
  await page.keyboard.type('Shorter.');
  await page.keyboard.press('Enter');
  await expect(page.getByText('runs, version 2')).toBeVisible();

  // A change that starts it; what it wrote is read back and replayed.
  await patchCompany('C-1042', { status: 'dormant' });
  await tabTo(page, page.getByRole('link', { name: 'Runs', exact: true }));
  await page.keyboard.press('Enter');
  const run = page.getByRole('link', { name: /C-1042 updated wrote/ }).first();
  await expect(run).toBeVisible();
  await tabTo(page, run);
  await page.keyboard.press('Enter');
  const readBack = page.getByRole('button', { name: 'Read the records back' });
  await expect(readBack).toBeVisible();
  await tabTo(page, readBack);
  await page.keyboard.press('Enter');
  await expect(page.getByRole('region', { name: 'In the systems now' }).getByRole('status')).toContainText(
    'holds',
  );
  const replay = page.getByRole('button', { name: 'Replay on the bench' });
  await tabTo(page, replay);
  await page.keyboard.press('Enter');
  const verdict = page.getByRole('status', { name: 'Verdict of the sample' });
  await expect(verdict).toContainText('As expected');
  await page.keyboard.press('r');
  await expect(verdict).toContainText('As expected');

  // Back to the first version.
  await page.keyboard.press('Control+K');
  await page.keyboard.type('a farewell in');
  await expect(page.getByRole('button', { name: /A farewell in the remark/ }).first()).toBeVisible();
  await page.keyboard.press('Enter');
  await expect(page).toHaveURL(new RegExp(sheet));
  await tabTo(page, page.getByRole('link', { name: 'Versions' }));
  await page.keyboard.press('Enter');
  const first = page.getByRole('listitem').filter({ hasText: 'Version 1' });
  await tabTo(page, first.getByRole('button', { name: 'Make it the draft' }));
  await page.keyboard.press('Enter');
  await expect(page.getByText(/is version 1 now/)).toBeVisible();
  await tabTo(page, page.getByRole('link', { name: 'A farewell in the remark' }));
  await page.keyboard.press('Enter');
  await expect(rowOf(page, 'remark')).toContainText('No longer a customer');
  // Neither the sample nor the rule is left for other stories.
  const kept = (await (await page.request.get(`${stack().url}/api/samples`)).json()) as {
    readonly id: string;
    readonly ref: { readonly id: string };
  }[];
  for (const { id } of kept.filter(({ ref }) => ref.id === 'C-1042'))
    await page.request.delete(`${stack().url}/api/samples/${id}`);
  await page.request.delete(`${stack().url}/api${sheet}`);
});

test('findings stand in their rows, and each is done away with by its fix', async ({ page }) => {
  const trigger = {
    system: 'customer-book',
    recordType: 'company',
    kinds: ['updated'],
    watched: ['name', 'credit_terms', 'account_number'],
  } as const;
  await draft(page, 'Full of findings', { trigger }, [
    line('name', 'TRIM(nmae)'),
    line('street', 'address.street'),
    line('creditDays', 'VALUE("30.5")'),
    line('paymentCode', 'TABLE("Credit terms to payment", credit_terms, "code")'),
    line('customerSince', '"2026-01-01"'),
    line('mailDomain', 'LOWER(email_domain)'),
  ]);
  const below = (field: string) => page.locator(`tr[data-field="${field}"] + tr.finding-row`);
  const publish = page.getByRole('button', { name: /^Publish/ });
  const gone = (field: string, text: string) =>
    expect(below(field).getByText(text, { exact: false })).toHaveCount(0);
  await expect(below('name')).toContainText('has no field “nmae”. Did you mean “name”?');
  await expect(publish).toBeDisabled();
  await below('name').getByRole('button', { name: 'Use name' }).click();
  await expect(formulaFor(page, 'Name')).toContainText('name');
  await expect(below('name')).toContainText('holds 60 characters, and the formula can give 80');
  await below('name').getByRole('button', { name: 'Cut after 60' }).click();
  // “Company to its party” writes it too, but is a draft that does not run.
  await expect(below('name')).toHaveCount(0);

  await expect(below('street')).toContainText('is used here and not watched');
  await below('street')
    .getByRole('button', { name: /^Watch/ })
    .click();
  await expect(page.getByRole('button', { name: 'Watched fields' })).toContainText('Street');
  await gone('street', 'not watched');

  await expect(below('creditDays')).toContainText('decimals');
  await below('creditDays').getByRole('button', { name: 'Round it' }).click();
  await gone('creditDays', 'decimals');
  await expect(below('paymentCode')).toContainText('has no row for “net_60”');
  await expect(below('paymentCode').getByRole('link', { name: 'Open the table' })).toBeVisible();
  await expect(below('customerSince')).toContainText('date');
  await below('customerSince').getByRole('button').first().click();
  await gone('customerSince', 'takes');

  const watched = page.getByText('“Account number” is watched and used nowhere');
  await expect(watched).toBeVisible();
  await page.getByRole('button', { name: 'Do not watch it' }).click();
  await expect(watched).toHaveCount(0);

  await page.getByRole('button', { name: /findings?, show all/ }).click();
  await expect(page.getByRole('region', { name: 'All findings' })).toContainText('mailDomain');
  await expect(publish).toHaveText(/Publish with \d+ warnings/);
  await findRule(page, 'Full of findings');
  await expect(page.getByRole('listitem').filter({ hasText: 'Full of findings' })).toContainText('warnings');
});

test('the line at hand shows what each step gives, and steps are added, changed and removed', async ({
  page,
}) => {
  await page.goto(`${stack().url}${partyRule}${moved}`);
  await formulaFor(page, 'Account code').click();
  const steps = page.getByRole('list', { name: 'Steps of the formula' });
  await expect(steps.getByRole('listitem')).toHaveText([
    'name North Skerry  Smokehouse Ltd',
    'trimNorth Skerry Smokehouse Ltd',
    'substitute " " ""NorthSkerrySmokehouseLtd',
    'left 4Nort',
    'upperNORT',
    'step',
  ]);
  await steps.getByRole('button', { name: 'Step 3: left 4' }).click();
  await page.getByRole('textbox', { name: 'length' }).fill('6');
  await expect(formulaFor(page, 'Account code')).toContainText('), 6))');
  await page.keyboard.press('Escape');
  await expect(steps).toContainText('NORTHS');
  await steps.getByRole('button', { name: 'step', exact: true }).click();
  await page.getByLabel('Find a step').fill('lower');
  await page.keyboard.press('Enter');
  await expect(steps).toContainText('norths');
  await steps.getByRole('button', { name: 'Step 5: lower' }).click();
  await page.getByRole('dialog').getByRole('button', { name: 'Remove' }).click();
  await expect(steps).not.toContainText('norths');
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  await expect(formulaFor(page, 'Account code')).toContainText('), 4))');
});

test('each write policy says what it would leave, and a natural key leads to the id', async ({ page }) => {
  await page.goto(`${stack().url}${partyRule}${moved}`);
  await expect(rowOf(page, 'mainContactId').getByText('501002')).toBeVisible();
  await formulaFor(page, 'Main contact').click();
  const policies = page.getByRole('group', { name: 'Written' });
  await expect(policies.locator('label')).toHaveText([
    'always501002',
    'only into a blank field501001',
    'only when there is a value501002',
    'without clearing anything501002',
  ]);
  await policies.getByText('only into a blank field').click();
  await expect(rowOf(page, 'mainContactId')).toContainText('kept: The field already holds a value.');
  await page.getByRole('button', { name: 'Undo' }).click();
  await page.getByRole('checkbox', { name: /gives a name or another key/ }).click();
  await expect(rowOf(page, 'mainContactId').getByText('Runa Tulloch')).toBeVisible();
  await page.keyboard.press('Control+z');
  await expect(rowOf(page, 'mainContactId').getByText('501002')).toBeVisible();
});

test('a record is created by a rule only with all that its system requires, and later actions know its id', async ({
  page,
}) => {
  await draft(page, 'Creates a contact', {}, [line('name', 'TRIM(name)')]);
  await page.getByRole('button', { name: 'Do something more' }).click();
  await page.getByRole('menuitem', { name: 'Create a record' }).click();
  const missing = page
    .getByText('required and has no line; the record cannot be created')
    .or(page.getByText('required and have no line; the record cannot be created'));
  await expect(missing).toContainText('“Name” of Party');
  await expect(page.getByRole('button', { name: /^Publish/ })).toBeDisabled();
  await page.getByRole('button', { name: 'Record type of newParty' }).click();
  await page.getByRole('combobox', { name: 'Record type' }).click();
  await page.getByRole('option', { name: 'Contact', exact: true }).click();
  await page.keyboard.press('Escape');
  await expect(missing).toContainText('“Party” and “Full name” of Contact');
  await setFormula(page, 'Full name', 'main_contact');
  await setFormula(page, 'Party', 'party.id');
  await expect(missing).toHaveCount(0);
  await expect(rowOf(page, 'fullName').getByText('Runa Tulloch')).toBeVisible();
  await expect(page.getByRole('button', { name: /^Publish/ })).toBeEnabled();

  await page.getByRole('link', { name: 'See the records on the bench' }).click();
  const made = page.getByRole('article', { name: /^Contact/ });
  await expect(made.getByText('would be created')).toBeVisible();
  await expect(made.getByRole('row', { name: /Full name blank Runa Tulloch/ })).toBeVisible();
});

test('suggestions say how sure they are and why, and are accepted one by one or together', async ({
  page,
}) => {
  await draft(page, 'Suggested', {}, []);
  await page.getByRole('button', { name: 'Suggest' }).click();
  const name = rowOf(page, 'name');
  await expect(name.getByText(/% sure: same name/)).toBeVisible();
  await expect(rowOf(page, 'countryCode').getByText(/alpha-3/)).toBeVisible();
  await name.getByRole('button', { name: 'Accept the suggestion for Name' }).click();
  await expect(formulaFor(page, 'Name')).toHaveText('name');
  await page.getByRole('button', { name: /^Accept \d+ of them/ }).click();
  await expect(formulaFor(page, 'Town')).toHaveText('address.town');
  await expect(rowOf(page, 'customerNumber').getByText(/of \d+ values the same/)).toBeVisible();
});

test('lines are copied from one rule and pasted into another, where what does not fit is named', async ({
  page,
}) => {
  await page.goto(`${stack().url}${partyRule}${moved}`);
  await page.getByRole('checkbox', { name: 'Select the line of Phone' }).check();
  await page.getByRole('checkbox', { name: 'Select the line of Region' }).click({ modifiers: ['Shift'] });
  const bar = page.getByRole('toolbar', { name: 'Selected lines' });
  await expect(bar).toContainText('10 lines selected');
  await page.keyboard.press('Control+c');
  await expect(page.getByText('10 lines copied.')).toBeVisible();
  await draft(page, 'Pasted', {}, []);
  await page.getByRole('heading', { name: 'Sample' }).click();
  await page.keyboard.press('Control+v');
  await expect(page.getByText('10 lines pasted.')).toBeVisible();
  await expect(rowOf(page, 'paymentCode').getByText('D30')).toBeVisible();
  await page.keyboard.press('Control+z');
  await expect(formulaFor(page, 'Payment code')).toHaveText('not written');

  // What a spreadsheet copies is read as well.
  await pasteText(page, 'town\tUPPER(address.town)\nharbour\tname\n');
  await expect(page.getByText('1 line pasted. The target cannot be given harbour.')).toBeVisible();
  await expect(formulaFor(page, 'Town')).toHaveText('address.town→upper');
});

test('a value is dragged from the payload onto a field, and a line from one field to another', async ({
  page,
}) => {
  await draft(page, 'Dragged', {}, [line('name', 'TRIM(name)')]);
  await expect(page.getByText('would write')).toBeVisible();
  await expect(page.getByText('holds 60 characters')).toBeVisible();
  await drag(page, page.getByRole('button', { name: 'Use address.street' }), rowOf(page, 'phone'));
  await expect(formulaFor(page, 'Phone')).toHaveText('address.street');
  await expect(page.getByText('“Phone” holds 16 characters')).toBeVisible();
  await drag(page, rowOf(page, 'phone').locator('.grip'), rowOf(page, 'street'));
  await expect(formulaFor(page, 'Street')).toHaveText('address.street');
  await expect(formulaFor(page, 'Phone')).toHaveText('not written');
});

test('one line is looked at over all records before it is published', async ({ page }) => {
  await page.goto(`${stack().url}${partyRule}${moved}`);
  await formulaFor(page, 'Payment code').click();
  await page.getByRole('button', { name: 'Over many records' }).click();
  const pane = page.getByRole('complementary', { name: 'One line over many records' });
  await expect(pane.getByText('all 240')).toBeVisible();
  await pane.getByRole('button', { name: /^fail \d+/ }).click();
  await expect(page).toHaveURL(/only=error/);
  await expect(pane.getByRole('listitem').first()).toContainText('has no row for “net_60”');
  // A value narrows the list, and the records that have it become samples.
  await pane.getByLabel('Only rows with this value').fill('net_60');
  await expect(page).toHaveURL(/value=net_60/);
  await pane.getByRole('button', { name: /^Make samples of/ }).click();
  await expect(pane.getByRole('link', { name: 'open them on the bench' })).toBeVisible();
  const samples = (await (await page.request.get(`${stack().url}/api/samples`)).json()) as {
    readonly id: string;
    readonly name: string;
  }[];
  const made = samples.filter(({ name }) => /^company C-\d+ as it is$/.test(name));
  expect(made.length).toBeGreaterThan(0);
  for (const { id } of made) await page.request.delete(`${stack().url}/api/samples/${id}`);
  await pane.getByLabel('Only rows with this value').fill('');
  // The column follows the formula as it is edited.
  await setFormula(page, 'Payment code', '"PRE"');
  await expect(pane.getByRole('button', { name: /^fail/ })).toHaveCount(0);
  await page.keyboard.press('Control+z');
  await pane.getByRole('button', { name: 'Back to the sample' }).click();
  await expect(page.getByRole('complementary', { name: 'Sample' })).toBeVisible();
});

test('samples are stepped through with the keys, and the ledger is filtered, sorted and grouped by address', async ({
  page,
}) => {
  await page.goto(`${stack().url}${partyRule}${moved}`);
  await expect(rowOf(page, 'paymentCode').getByText('D30')).toBeVisible();
  await formulaFor(page, 'Payment code').click();
  await page.keyboard.press('Alt+.');
  await expect(page).not.toHaveURL(new RegExp(moved.slice(1)));
  await expect(formulaFor(page, 'Payment code')).toBeFocused();
  await page.keyboard.press('Alt+,');
  await expect(page).toHaveURL(new RegExp(moved.slice(1)));
  await page.goto(`${stack().url}${partyRule}${moved}&show=changes&group=type&as=text`);
  await expect(page.getByRole('columnheader', { name: 'choice 2' })).toBeVisible();
  await expect(formulaFor(page, 'Street')).toBeVisible();
  await expect(formulaFor(page, 'Phone')).toHaveCount(0);
  await page.keyboard.press('?');
  const about = page.getByRole('dialog', { name: 'About: The rule sheet' });
  await expect(about).toBeVisible();
  await expect(about.getByRole('row', { name: /^Alt\+\. ?Alt\+, next and previous sample$/ })).toBeVisible();
});
