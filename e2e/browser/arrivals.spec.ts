import { readFileSync } from 'node:fs';
import { expect, test, type Page } from '@playwright/test';
import { findingsIn } from './axe';
import { signIn, stack } from './stack';

test.beforeEach(({ page }) => signIn(page));

/** Gives a file on the page of arrivals. */
async function give(page: Page, name: string, content: Buffer): Promise<void> {
  await page.goto(`${stack().url}/arrivals`);
  await page.getByRole('region', { name: 'Give a file' }).locator('input[type=file]').setInputFiles({
    name,
    mimeType: 'application/octet-stream',
    buffer: content,
  });
  await expect(page.getByRole('heading', { name })).toBeVisible();
}

const lookAtRows = (page: Page) =>
  page.getByRole('button', { name: 'Look at what each row would do' }).click();
const standing = (page: Page, word: string) =>
  page.getByRole('group', { name: 'What the rows would do' }).getByRole('button', { name: word });

test('of a file with three bad rows the good ones are applied, one is mended here, and each says why', async ({
  page,
}) => {
  await give(
    page,
    'agent.csv',
    Buffer.from(
      [
        'Booking;Container;Seal;Weight;Goods',
        'BK70010;SKRU7654321;S9;500;Rope',
        'BK70011;SKRU7654337;S10',
        'BK99998;SKRU7654342;S11;20;Salt',
        'BK70012;SKRU7654358;S12;heavy;Tar',
        'BK70013;SKRU7654363;S13;75;Nets',
      ].join('\r\n'),
    ),
  );
  await expect(page.getByLabel('Where Container comes from')).toHaveValue('Container');
  await expect(page.getByRole('row', { name: /Goods/ })).toContainText('Rope');
  await lookAtRows(page);
  await expect(standing(page, 'would create')).toContainText('2');
  await expect(standing(page, 'cannot be taken')).toContainText('3');
  await page.getByRole('button', { name: 'row 5' }).click();
  const whole = page.getByRole('complementary', { name: 'One row in full' });
  await expect(whole).toContainText('heavy');
  await standing(page, 'cannot be taken').click();
  await expect(page.getByRole('list', { name: 'Rows of the file' })).toContainText(
    'It has 3 cells, and there are 5 titles.',
  );
  await expect(page.getByText('3 rows', { exact: true })).toBeVisible();
  await page.getByRole('button', { name: 'row 4' }).click();
  await expect(whole.getByText('No booking was found for “load”').first()).toBeVisible();
  await whole.getByLabel('Booking of row 4').fill('BK70014');
  await whole.getByRole('button', { name: 'Use these values' }).click();
  await expect(whole.getByText('would create')).toBeVisible();
  await expect(whole.getByText('mended here')).toBeVisible();
  await standing(page, 'cannot be taken').click();
  await page.getByRole('button', { name: 'Apply all 3' }).click();
  await page.getByRole('button', { name: 'Apply now' }).click();
  await expect(standing(page, 'applied')).toContainText('3');
  await expect(page.getByRole('link', { name: 'applied' }).first()).toBeVisible();
  await page.getByRole('link', { name: 'applied' }).first().click();
  await expect(page.getByRole('link', { name: /SKRU7654321/ }).first()).toBeVisible();
  // The same file again is recognised.
  await page.goto(`${stack().url}/arrivals`);
  await expect(page.getByRole('row', { name: /agent\.csv/ })).toContainText('Manifest rows');
});

test('a tagged file is laid out by pressing its values, looked at, and one row becomes a sample', async ({
  page,
}) => {
  await give(page, 'spare-parts.mrc', readFileSync('demo/files/spare-parts.mrc'));
  await page.getByRole('button', { name: 'What the records become' }).click();
  await page.getByRole('combobox', { name: 'Record type' }).click();
  await page.getByRole('option', { name: /Spare part/ }).click();
  const file = page.getByRole('region', { name: 'The file' });
  for (const [field, value] of [
    ['Part number', '001'],
    ['Name', '245$a'],
    ['Vessel code', '310$a'],
    ['Arrives on', '850$d'],
  ] as const) {
    await page.getByLabel(`Where ${field} comes from`).click();
    await file.getByRole('button', { name: `Use ${value}:` }).click();
    await expect(page.getByLabel(`Where ${field} comes from`)).toHaveValue(value);
  }
  await page.getByLabel('Where Price comes from').fill('=VALUE(PLACE("954[1]$c"))');
  await expect(page.getByRole('row', { name: /^Price/ })).toContainText('112.5');
  // A place that is none says so where it stands.
  await page.getByLabel('Where Currency comes from').fill('95$d');
  await expect(page.getByRole('row', { name: /^Currency/ })).toContainText('is no place in a tagged record');
  await page.getByLabel('Where Currency comes from').fill('954[1]$d');
  await file.getByRole('button', { name: 'Next record' }).click();
  await expect(page.getByRole('row', { name: /^Name/ })).toContainText('Gasket ring');
  expect(await findingsIn(page, 'what fills which field')).toEqual([]);
  await lookAtRows(page);
  await expect(standing(page, 'would create')).toContainText('4');
  await page.getByRole('button', { name: 'record 1' }).click();
  await expect(page.getByRole('complementary', { name: 'One row in full' })).toContainText(
    'Spare part becomes a task in the yard',
  );
  expect(await findingsIn(page, 'the rows of a file')).toEqual([]);
  await page.getByRole('button', { name: 'Take this row as a sample' }).click();
  await expect(page.getByRole('heading', { name: /spare-parts\.mrc, SC-1001/ })).toBeVisible();
});

test('how a file is read is changed where it was not found out, and shown at once; a whole mapping is pasted', async ({
  page,
}) => {
  await give(page, 'parts.dat', Buffer.from('part\nSC-2001\nSC-2002\n'));
  await expect(page.getByRole('alert')).toContainText('It is of no kind that is read here');
  const choose = async (label: string, option: string | RegExp) => {
    await page.getByRole('button', { name: label }).click();
    await page.getByRole('combobox').last().click();
    await page.getByRole('option', { name: option, exact: typeof option === 'string' }).click();
  };
  await choose('What kind of file it is', 'JSON lines');
  await choose('What kind of file it is', 'CSV');
  const file = page.getByRole('region', { name: 'The file' });
  await expect(file).toContainText('SC-2001');
  await choose('What the records become', /Spare part/);
  await expect(file.getByRole('button', { name: 'Use part: SC-2001' })).toBeVisible();
  await page.getByText('As two columns').click();
  const columns = page.getByLabel('Lines as two columns');
  await columns.fill('number\tpart\nname\t="Part " & PLACE("part")\nvesel\tpart');
  await page.getByRole('button', { name: 'Take these lines' }).click();
  await expect(
    page.getByText('Line 3: Spare part has no field “vesel”. Did you mean “vessel”?'),
  ).toBeVisible();
  await columns.fill('number\tpart\nname\t="Part " & PLACE("part")\nvessel\t="SKDU"');
  await page.getByRole('button', { name: 'Take these lines' }).click();
  await expect(page.getByRole('row', { name: /^Name/ })).toContainText('Part SC-2001');
  await lookAtRows(page);
  await expect(standing(page, 'would create')).toContainText('2');
});

test('records of a tagged file are tidied step by step, each field before and after, and taken as a file of their own', async ({
  page,
}) => {
  await give(page, 'parts-to-tidy.mrc', readFileSync('demo/files/spare-parts.mrc'));
  await page.getByRole('link', { name: /^Tidied/ }).click();
  await page.getByRole('button', { name: 'Remove fields' }).click();
  await page.getByLabel('Remove the fields').fill('5*');
  await expect(page.getByRole('note')).toContainText('“5*” names no fields');
  await page.getByLabel('Remove the fields').fill('5**');
  await page.getByRole('textbox', { name: 'only if' }).fill('PLACE("310$a") = "SKDA"');
  const after = page.getByRole('region', { name: 'Before and after' });
  await expect(after.getByRole('row', { name: /^500/ }).first()).toContainText('removed');
  await page.getByRole('button', { name: 'Add a field' }).click();
  await page.getByLabel('Add the field').fill('856');
  await page.getByRole('textbox', { name: 'Subfield' }).fill('u');
  await page.getByRole('textbox', { name: 'which holds' }).fill('="https://parts.example/" & PLACE("001")');
  await expect(after.getByRole('row', { name: /^856/ })).toContainText('$uhttps://parts.example/SC-1001');
  await after.getByRole('button', { name: 'Next record' }).click();
  await expect(after.getByRole('row', { name: /^856/ })).toContainText('SC-1002');
  await expect(page.getByText('A record that cannot be read is not in the tidied file.')).toBeVisible();
  expect(await findingsIn(page, 'a tidy')).toEqual([]);
  await page.getByRole('button', { name: 'Take it as an arrival' }).click();
  await expect(page.getByRole('heading', { name: 'tidied-parts-to-tidy.mrc' })).toBeVisible();
});
