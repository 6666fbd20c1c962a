import { expect, test, type Page } from '@playwright/test';
import { setFormula } from './formulas';
import { patchCompany, place, publish, removeSample, signIn, stack } from './stack';

test.beforeEach(({ page }) => signIn(page));

const verdict = (page: Page) => page.getByRole('status', { name: 'Verdict of the sample' });

test('the bench listens for the next event, takes it masked, and masks what it is freshened with', async ({
  page,
}) => {
  await page.goto(`${stack().url}/bench/new?from=next`);
  await page.getByRole('combobox', { name: 'Record type' }).click();
  await page.getByRole('option', { name: 'Customer Book: Company' }).click();
  await page.getByRole('textbox', { name: 'Name', exact: true }).fill('Quarry, as heard');
  await page.getByRole('checkbox', { name: 'Mask personal values' }).check();
  await page.getByRole('button', { name: 'Listen' }).click();
  const listening = page.getByRole('status').filter({ hasText: 'Listening' });
  await expect(listening).toContainText('the next company that is updated becomes a sample');
  // What is listened for survives a reload; what is typed beside it has to be typed again.
  await page.reload();
  await expect(listening).toBeVisible();
  await page.getByRole('textbox', { name: 'Name', exact: true }).fill('Quarry, as heard');
  await page.getByRole('checkbox', { name: 'Mask personal values' }).check();
  await patchCompany('C-1006', { phone: '01632 960 333' });

  await expect(page.getByRole('heading', { name: 'Quarry, as heard' })).toBeVisible();
  await expect(page.getByText('personal values masked')).toBeVisible();
  await expect(verdict(page)).toContainText('As expected');
  const person = page.getByRole('article', { name: /^Person P-/ }).first();
  await expect(person.getByRole('row', { name: /^Phone 01632 960/ })).toBeVisible();
  await expect(page.getByText('01632 960 333')).toHaveCount(0);

  await page.getByRole('button', { name: 'Freshen' }).click();
  const fresh = page.getByRole('region', { name: 'Records as they are now' });
  await fresh.getByRole('button', { name: 'Read them now' }).click();
  await expect(fresh.getByRole('status')).toContainText('from the records of the sample');
  await expect(page.getByText('01632 960 333')).toHaveCount(0);
  await removeSample(page);
});

test('the keys, types and fields that can stand in an event are offered while it is typed', async ({
  page,
}) => {
  await page.goto(`${stack().url}/bench/new?from=json`);
  const editor = page.getByRole('textbox', { name: 'Samples as JSON' });
  const offered = page.getByRole('listbox');
  await editor.pressSequentially('{"ref": {"system": "customer-book", "recordType": "comp');
  await expect(offered.getByRole('option', { name: /^company/ })).toBeVisible();
  await page.keyboard.press('Enter');
  await editor.pressSequentially(', "id": "C-1"}, "record": {"credi');
  // The editor may pass over what is typed faster than a person does; the last letter is typed anew then.
  await expect(async () => {
    await page.keyboard.press('Backspace');
    await page.keyboard.type('i');
    await expect(offered.getByRole('option', { name: /^credit_terms/ })).toBeVisible({ timeout: 3000 });
  }).toPass();
  await page.keyboard.press('Enter');
  await editor.pressSequentially('"');
  await page.keyboard.press('Control+Space');
  await expect(offered.getByRole('option', { name: /^net_30/ })).toBeVisible();
});

test('a file of records, one on each line, becomes samples; a wrong cell is told by line and column', async ({
  page,
}) => {
  await page.goto(`${stack().url}/bench/new?from=json`);
  const take = (content: string) =>
    page
      .locator('input[type=file]')
      .setInputFiles({ name: 'companies.csv', mimeType: 'text/csv', buffer: Buffer.from(content) });
  await take('id,name,fax\nC-1006,Marram Quarry,1\n');
  await expect(page.getByText('say what each line is one of')).toBeVisible();
  await page.getByRole('combobox', { name: 'Each line is one' }).click();
  await page.getByRole('option', { name: 'Customer Book: Company' }).click();
  await expect(page.getByRole('alert')).toContainText('Column 3: Company has no field “fax”.');
  await take(
    'id,name,status,phone,before.phone\nC-1006,Marram Quarry,active,01632 960 555,01632 960 105\nC-1008,Tarn Quay Bakery,active,01632 960 556,01632 960 107\n',
  );
  await expect(page.getByText('2 samples can be made of this.')).toBeVisible();
  await page.getByRole('button', { name: 'Make 2 samples' }).click();
  await expect(page.getByRole('heading', { name: 'Company C-1008 updated' })).toBeVisible();
  await expect(page.getByText('Nobody has said yet what is expected.')).toBeVisible();
  await removeSample(page);
  await expect(page.getByRole('status', { name: 'Removed' })).toContainText(
    '“Company C-1008 updated” is removed.',
  );
  await page.getByRole('button', { name: 'Put it back' }).click();
  await expect(page.getByRole('heading', { name: 'Company C-1008 updated' })).toBeVisible();
  await removeSample(page);
});

test('samples stand under the rules that they start, and what a record keeps is folded away', async ({
  page,
}) => {
  await page.goto(`${stack().url}/bench`);
  await page.getByRole('combobox', { name: 'Order of the samples' }).click();
  await page.getByRole('option', { name: 'By rule' }).click();
  const folder = page.getByRole('button', { name: /^Company phone and town to open bookings \d+$/ });
  await expect(folder).toHaveAttribute('aria-expanded', 'true');
  const second = page.getByRole('list', { name: 'Samples' }).getByRole('listitem').nth(1);
  await expect(second.getByRole('link')).toBeVisible();
  await folder.click();
  await expect(folder).toHaveAttribute('aria-expanded', 'false');
  await expect(second.getByRole('button')).toHaveAttribute('aria-expanded', 'true');
  expect(page.url()).toContain('by=rule');

  const booking = page.getByRole('article', { name: 'Booking BK70002' });
  await booking.getByRole('button', { name: /\d+ fields stay as they are/ }).click();
  await expect(booking.getByRole('row', { name: 'Status confirmed' })).toBeVisible();
});

test('an earlier version takes part in the place of the one that runs', async ({ page }) => {
  const original = 'UPPER(LEFT(SUBSTITUTE(TRIM(name), " ", ""), 4)) & "-" & RIGHT(id, 4)';
  await place(page, 'Rules');
  await page.getByRole('link', { name: /Account number of a new customer/ }).click();
  await setFormula(page, 'Account number', original.replace('4)) &', '3)) &'));
  await publish(page);
  await expect(page.getByText('runs, version 2')).toBeVisible();
  await page.goto(`${stack().url}/bench?verdict=differs&find=rule+8`);
  const differing = page.getByRole('link', { name: /difference/ });
  await expect(differing.first()).toBeVisible();
  await page.getByRole('combobox', { name: 'An earlier version takes part' }).click();
  await page.getByRole('option', { name: /^Account number of a new customer.*, version 1 / }).click();
  await expect(page.getByText('No sample fits.')).toBeVisible();
  expect(page.url()).toContain('%401');

  await place(page, 'Rules');
  await page.getByRole('link', { name: /Account number of a new customer/ }).click();
  await setFormula(page, 'Account number', original);
  await publish(page);
  await expect(page.getByText('runs, version 3')).toBeVisible();
});

test('from a step of a run one goes on with the rule as a draft, over the same payload', async ({ page }) => {
  await patchCompany('C-1003', { phone: '01632 960 444' });
  await page.goto(`${stack().url}/runs?search=${encodeURIComponent('960 444')}`);
  await page
    .getByRole('link', { name: /C-1003 updated wrote/ })
    .first()
    .click();
  const step = page.getByRole('listitem').filter({ hasText: 'Write FD booking BK70013' }).first();
  await step.getByRole('button', { name: 'Edit, and replay from here' }).click();
  await expect(page).toHaveURL(/sample=.*line=0\/contactPhone/);
  await setFormula(page, 'Contact phone', '"now " & phone');
  await expect(page.getByText('now 01632 960 444').first()).toBeVisible();
  await page.keyboard.press('Control+z');
  await page.goto(`${stack().url}/bench?find=Brackenness`);
  await page.getByRole('link', { name: /Brackenness Salt Works: phone/ }).click();
  await expect(verdict(page)).toContainText('As expected');
  await page.getByRole('button', { name: 'Mask', exact: true }).click();
  await expect(page.getByRole('region', { name: 'Mask the sample' })).toContainText('There is no way back.');
  await page.getByRole('button', { name: 'Mask for good' }).click();
  await expect(page.getByText('personal values masked')).toBeVisible();
  await expect(page.getByText('01632 960 444')).toHaveCount(0);
  await expect(verdict(page)).toContainText('As expected');
  await removeSample(page);
});
