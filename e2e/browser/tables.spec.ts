import { expect, test, type Page } from '@playwright/test';
import { pasteText } from './formulas';
import { place, signIn, stack } from './stack';

test.beforeEach(async ({ page }) => signIn(page));

const grid = (page: Page, name: string) => page.getByRole('grid', { name: `Rows of ${name}` });
const open = async (page: Page, name: string, query = '') => {
  await page.goto(`${stack().url}/tables/${encodeURIComponent(name)}${query}`);
  await expect(page.getByRole('heading', { name, exact: true })).toBeVisible();
};
const file = (name: string, text: string) => ({ name, mimeType: 'text/csv', buffer: Buffer.from(text) });

test('a table is made, filled from a spreadsheet, refuses a second row for a key, and is saved as a whole', async ({
  page,
}) => {
  await place(page, 'Tables');
  await page.getByRole('link', { name: 'New table' }).click();
  await page.getByRole('textbox', { name: 'Name', exact: true }).fill('Berths');
  await page.getByRole('button', { name: 'Make the table' }).click();
  const rows = grid(page, 'Berths');
  await rows.click({ position: { x: 120, y: 45 } });
  await pasteText(page, 'NOR\tNorthport\nHOL\tHolm Haven\nNOR\tagain\n');
  await expect(page.getByText('3 rows changed and not saved')).toBeVisible();
  await expect(page.getByText('Rows 1 and 3 have the same key “NOR”.')).toBeVisible();
  await expect(page.getByRole('button', { name: /^Save/ })).toBeDisabled();
  await rows.getByText('again').click();
  await page.keyboard.press('ArrowLeft');
  await page.keyboard.type('EID');
  await page.keyboard.press('Tab');
  await page.keyboard.type('Eider Bay');
  await page.keyboard.press('Enter');
  await page.keyboard.press('Control+s');
  await expect(page.getByText('not saved')).toHaveCount(0);
  await page.reload();
  await expect(rows.getByRole('gridcell', { name: 'Value Eider Bay' })).toBeVisible();

  await rows.getByText('Holm Haven').click();
  await page.keyboard.press('Delete');
  await expect(page.getByText('1 row changed and not saved')).toBeVisible();
  await page.keyboard.press('Control+z');
  await expect(page.getByText('not saved')).toHaveCount(0);
  await page.keyboard.press('Control+Delete');
  await page.keyboard.press('Control+s');
  await expect(rows.getByText('Holm Haven')).toHaveCount(0);

  await page.getByRole('tab', { name: 'History' }).click();
  await page
    .getByRole('row', { name: /1 removed/ })
    .getByRole('button', { name: 'Restore to before this' })
    .click();
  await expect(page.getByRole('row', { name: /Restored to before change/ })).toBeVisible();
  await page.getByRole('tab', { name: 'Rows' }).click();
  await expect(rows.getByText('Holm Haven')).toBeVisible();

  await page.getByRole('tab', { name: 'Settings' }).click();
  await page.getByRole('button', { name: 'Remove the table …' }).click();
  await page.getByRole('button', { name: 'Remove it for good, with 3 rows' }).click();
  await expect(page.getByRole('link', { name: /Berths/ })).toHaveCount(0);
});

test('a file with a mistake in row 3 is refused by row and column, and the mended file is previewed and applied', async ({
  page,
}) => {
  await open(page, 'Credit terms to payment');
  const input = page.locator('input[type=file]');
  await input.setInputFiles(
    file('terms.csv', 'terms,code,days\nprepaid,PRE,0\nnet_14,D14,14\nnet_60,D60,sixty\n'),
  );
  const alert = page.getByRole('alert');
  await expect(alert).toContainText('Nothing is imported');
  await expect(alert).toContainText('Row 3, “Days”: “sixty” is not a whole number.');
  await page.getByRole('button', { name: 'Cancel' }).click();

  await input.setInputFiles(
    file('terms.csv', 'terms,code,days\nprepaid,PRE,0\nnet_14,D14,21\nnet_60,D30,45\n'),
  );
  await expect(
    page.getByText('1 row added, 1 changed, 1 the same. 1 row of the table is not in the file.'),
  ).toBeVisible();
  const changes = page.getByRole('table', { name: 'What the file changes' });
  await expect(changes.getByRole('row', { name: /changed net_14 D14 14→21/ })).toBeVisible();
  await expect(changes.getByRole('row', { name: /added net_60/ })).toBeVisible();
  await page.getByRole('button', { name: 'Apply' }).click();
  const rows = grid(page, 'Credit terms to payment');
  await expect(rows.getByRole('gridcell', { name: 'Credit terms net_60' })).toBeVisible();
  await expect(rows.getByRole('gridcell', { name: 'Credit terms net_30' })).toBeVisible();

  await page.getByRole('tab', { name: 'History' }).click();
  await page.getByRole('button', { name: 'Restore to before this' }).first().click();
  await page.getByRole('tab', { name: 'Rows' }).click();
  await expect(rows.getByText('net_60')).toHaveCount(0);
});

test('coverage counts the keys without a row, and adds them as rows to fill', async ({ page }) => {
  await open(page, 'Ports to tariff zones', '?tab=coverage');
  const use = page.getByRole('region', { name: 'Coverage for Tariff zone from the destination port' });
  await expect(use.getByRole('row', { name: /QSMUR \d+/ })).toBeVisible();
  await use.getByRole('button', { name: 'Add this key as a row to fill' }).click();
  const rows = grid(page, 'Ports to tariff zones');
  await expect(rows.getByRole('gridcell', { name: 'Port code QSMUR' })).toBeVisible();
  await page.getByRole('button', { name: 'Drop the changes' }).click();
  await expect(rows.getByText('QSMUR')).toHaveCount(0);
});

test('rows are sorted by a press on a column, and the order stands in the address', async ({ page }) => {
  await open(page, 'Weights to rate bands');
  const rows = grid(page, 'Weights to rate bands');
  const column = rows.getByRole('columnheader', { name: /From kg/ });
  await column.getByRole('button').click();
  await column.getByRole('button').click();
  await expect(page).toHaveURL(/sort=-fromKg/);
  await expect(column).toHaveAttribute('aria-sort', 'descending');
  await expect(rows.getByRole('gridcell').first()).toHaveText('10000');
});

test('what a reader sees of a table cannot be changed', async ({ page }) => {
  await signIn(page, 'reader');
  await open(page, 'Fuel surcharges');
  const rows = grid(page, 'Fuel surcharges');
  await rows.getByText('4.75').click();
  await page.keyboard.type('9');
  await expect(rows.getByText('4.75')).toBeVisible();
  await expect(page.getByText('not saved')).toHaveCount(0);
  await expect(page.getByRole('button', { name: 'Import CSV …' })).toHaveCount(0);
});
