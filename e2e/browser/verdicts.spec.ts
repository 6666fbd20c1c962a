import { expect, test, type Page } from '@playwright/test';
import { setFormula } from './formulas';
import { patchCompany, place, publish, signIn, stack } from './stack';

test.describe.configure({ mode: 'serial' });
test.beforeEach(({ page }) => signIn(page));

const outcomeOf = (page: Page, id: string) => page.getByRole('article', { name: `Booking ${id}` });
const verdict = (page: Page) => page.getByRole('status', { name: 'Verdict of the sample' });
const effects = (page: Page) => page.getByRole('region', { name: 'Samples of this rule' });

test('a sample taken from a run fails field by field when its rule is broken, holds when it is mended, and is asked before publishing', async ({
  page,
}) => {
  await patchCompany('C-1001', { phone: '01632 960 811' });
  await page.goto(`${stack().url}/runs?search=${encodeURIComponent('960 811')}`);
  await page
    .getByRole('link', { name: /C-1001 updated wrote/ })
    .first()
    .click();
  await page.getByRole('button', { name: 'Replay on the bench' }).click();
  await expect(verdict(page)).toContainText('As expected. A replay writes to no system.');
  await page.getByRole('button', { name: 'Name and note' }).click();
  await page.getByRole('textbox', { name: /^Name/ }).fill('Smokehouse rings 811');
  await page.getByRole('button', { name: 'Save' }).click();
  await expect(page.getByRole('heading', { name: 'Smokehouse rings 811' })).toBeVisible();

  await place(page, 'Rules');
  await page.getByRole('link', { name: /Company phone and town to open bookings/ }).click();
  await setFormula(page, 'Contact phone', 'SUBSTITUTE(PHONE(phone, address.country), "+44", "+47")');
  await expect(effects(page)).toContainText('Smokehouse rings 811: holds → differs');
  await effects(page)
    .getByRole('link', { name: /Smokehouse rings 811/ })
    .click();

  await expect(verdict(page)).toContainText('differences from what is expected');
  const row = outcomeOf(page, 'BK70002').getByRole('row', { name: /Contact phone/ });
  await expect(row).toContainText('+471632960811');
  await expect(row).toContainText('+441632960811');
  await expect(row).toContainText('differs');
  await page.keyboard.press('n');
  await expect(page.locator('tr.difference').first()).toBeFocused();

  await page.goBack();
  await setFormula(page, 'Contact phone', 'PHONE(phone, "GB")');
  await expect(effects(page)).toContainText('Publishing changes no verdict.');
  await publish(page);
  await expect(page.getByText('runs, version')).toBeVisible();
  await page.goto(`${stack().url}/bench?find=rings+811`);
  await page.getByRole('link', { name: /Smokehouse rings 811/ }).click();
  await expect(verdict(page)).toContainText('As expected');
});

test('what is expected of one field can be less strict, and an outcome accepted as a whole', async ({
  page,
}) => {
  await page.goto(`${stack().url}/bench?find=inspection+turns+poor`);
  await page.getByRole('link', { name: /Inspection turns poor/ }).click();
  await expect(verdict(page)).toContainText('As expected');
  await page
    .getByRole('button', { name: /^What is expected of/ })
    .first()
    .click();
  await page.getByLabel('A text that matches').fill('^X$');
  await page.getByRole('button', { name: 'Expect', exact: true }).click();
  await expect(verdict(page)).toContainText('1 difference from what is expected');
  await expect(page.getByText('matches ^X$')).toBeVisible();
  await page
    .getByRole('button', { name: /^What is expected of/ })
    .first()
    .click();
  // A value that is typed or chosen, as the field holds it.
  await page.getByRole('combobox', { name: /^Value that is expected of/ }).click();
  await page.getByRole('option', { selected: false }).first().click();
  await page.getByRole('button', { name: 'Expect it' }).click();
  await expect(verdict(page)).toContainText('1 difference from what is expected');
  await page
    .getByRole('button', { name: /^What is expected of/ })
    .first()
    .click();
  await page.getByRole('menuitem', { name: 'Any value will do' }).click();
  await expect(verdict(page)).toContainText('As expected');
  await page
    .getByRole('button', { name: /^What is expected of/ })
    .first()
    .click();
  await page.getByRole('menuitem', { name: 'It must not change' }).click();
  await expect(page.getByText('not expected', { exact: true })).toBeVisible();
  await page.getByRole('button', { name: 'Accept the whole outcome' }).click();
  await expect(verdict(page)).toContainText('As expected');
});

test('the list tells what differs, and is narrowed by words and verdicts that stand in the address', async ({
  page,
}) => {
  await page.goto(`${stack().url}/bench?against=drafts`);
  const list = page.getByRole('navigation', { name: 'Samples' });
  await expect(list.getByRole('status', { name: 'Verdicts' })).toContainText(/\d+ differ/);
  await list.getByRole('combobox', { name: 'Verdict' }).click();
  await page.getByRole('option', { name: 'Differ', exact: true }).click();
  await expect(list.getByRole('link', { name: /credit terms only/ })).toBeVisible();
  await expect(list.getByRole('link', { name: /Inspection turns poor/ })).toHaveCount(0);
  expect(page.url()).toContain('verdict=differs');
  await list.getByRole('textbox', { name: 'Find a sample' }).fill('nothing is called so');
  await expect(list.getByText('No sample fits.')).toBeVisible();
});

test('what editing changes is shown for a sample, and over the events that came in', async ({ page }) => {
  await page.goto(`${stack().url}/bench?against=both`);
  await page.getByRole('link', { name: /Smokehouse: credit terms only/ }).click();
  const view = page.getByRole('article', { name: 'What editing changes' });
  await expect(view.getByRole('status')).toContainText(/\d+ fields would come out otherwise/);
  await expect(
    view.getByRole('row', { name: /Party 401001 Region no change Home waters home/ }),
  ).toBeVisible();

  await page.getByRole('link', { name: 'Edited against published, over real history' }).click();
  await page.getByRole('button', { name: 'Compare' }).click();
  const history = page.getByRole('article', { name: 'Over real history' });
  await expect(history.getByText(/\d+ events? compared/)).toBeVisible();
  await expect(history.getByRole('row', { name: /Party .* only as edited/ }).first()).toBeVisible();
});

test('why a field holds its value, where that value is, and whether a run still holds', async ({ page }) => {
  await patchCompany('C-1001', { phone: '01632 960 822' });
  await page.goto(`${stack().url}/records?left=freight-desk/booking/BK70002`);
  const left = page.getByRole('region', { name: 'Left side' });
  await expect(left.getByRole('textbox', { name: 'Contact phone' })).toHaveValue('+441632960822');
  await left.getByRole('button', { name: 'Contact phone' }).click();
  const timeline = left.getByRole('region', { name: 'Timeline' });
  await expect(timeline.getByRole('heading')).toHaveText('Why Contact phone holds what it does');
  const latest = timeline.getByRole('listitem').first();
  await expect(latest).toContainText('Company phone and town to open bookings, version');
  await expect(latest).toContainText('→ +441632960822');
  await expect(latest).toContainText('PHONE(phone');
  await latest.getByRole('link', { name: /written by/ }).click();

  await page.getByRole('button', { name: 'Read the records back' }).click();
  const now = page.getByRole('region', { name: 'In the systems now' });
  await expect(now.getByRole('status')).toContainText('holds');

  await page.keyboard.press('Control+k');
  await page.getByRole('textbox', { name: 'Find anything' }).fill('01632 960 822');
  await page.getByRole('button', { name: /^Look for “01632 960 822” in every system/ }).click();
  await expect(page.getByRole('row', { name: /Company C-1001 .* as it stands/ })).toBeVisible();
  await expect(page.getByRole('row', { name: /Booking BK70002 .* written another way/ })).toBeVisible();
  expect(page.url()).toContain('text=01632');
});
