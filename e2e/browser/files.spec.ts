import { readFileSync } from 'node:fs';
import { expect, test } from '@playwright/test';
import type { RuleBody, RuleView } from '@vast-knot/core';
import { findingsIn } from './axe';
import { publish, signIn, stack } from './stack';

/** All enquiries that are new, reached from each enquiry by itself; what is done with them is not said yet. */
const enquiries: RuleBody = {
  name: 'New enquiries as a list',
  note: '',
  trigger: { system: 'freight-desk', recordType: 'enquiry', kinds: ['requested'], watched: [] },
  guard: '',
  finds: [
    {
      alias: 'open',
      system: 'freight-desk',
      recordType: 'enquiry',
      match: [{ field: 'status', is: 'equal', formula: '"new"' }],
      none: 'stop',
      several: 'each',
    },
  ],
  actions: [],
};

test('a rule that writes a file is made on its sheet, tried on the records as they are, run on a press, and the file taken', async ({
  page,
}) => {
  await signIn(page);
  const made = await page.request.post(`${stack().url}/api/rules`, {
    data: enquiries,
    headers: { origin: stack().url },
  });
  expect(made.status()).toBe(201);
  const { id } = (await made.json()) as RuleView;
  await page.goto(`${stack().url}/rules/${id}`);
  await page.getByRole('button', { name: 'How often the rule is done' }).click();
  await page.getByRole('radio', { name: 'once for all of them' }).click();
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Do something more' }).click();
  await page.getByRole('menuitem', { name: 'Write a file' }).click();
  const write = async (label: string, formula: string) => {
    await page.getByLabel(label).click();
    await page.keyboard.press('Control+A');
    await page.keyboard.insertText(formula);
    // What is offered to complete it would lie over what comes next.
    await page.keyboard.press('Escape');
  };
  await write('Name of the file', '"enquiries: new"');
  await page.getByRole('button', { name: 'Add a column' }).click();
  await page.getByLabel('Title of column 1').fill('Enquiry');
  await write('Value of Enquiry', 'open.subject');
  await page.getByRole('button', { name: 'Add a column' }).click();
  await page.getByLabel('Title of column 2').fill('Number');
  await write('Value of Number', 'open.id');
  // Which records are met is said by the draft that is kept.
  await expect(page.getByRole('status').filter({ hasText: 'Saved' })).toBeVisible();
  await page.getByRole('button', { name: 'Take the records as they are now' }).click();
  const sample = page.getByRole('complementary', { name: 'Sample' });
  // A name that no folder takes is told before anything is written.
  await expect(sample.getByRole('status')).toContainText('it holds one of');
  await write('Name of the file', '"new enquiries"');
  await expect(sample.getByRole('status')).toContainText('Writes 1 file.');
  const columns = page.getByRole('table', { name: 'Columns of the file' });
  await expect(columns.getByRole('row').nth(2)).toContainText(/EQ\d+/);
  await page.getByText(/The file that this sample would give: new enquiries\.csv/).click();
  expect(await findingsIn(page, 'a rule that writes a file')).toEqual([]);
  await expect(page.getByRole('status').filter({ hasText: 'Saved' })).toBeVisible();
  await publish(page);
  await expect(page.getByText('runs, version 1')).toBeVisible();

  await page.goto(`${stack().url}/records?left=freight-desk/enquiry`);
  const left = page.getByRole('region', { name: 'Left side' });
  await left.getByRole('button', { name: 'New enquiries as a list' }).click();
  await page.getByRole('button', { name: 'Show what it would do' }).click();
  await expect(page.getByRole('table', { name: 'new enquiries.csv' })).toContainText('Enquiry');
  await page.getByRole('button', { name: 'Write 1 file' }).click();
  await page.getByRole('link', { name: 'Look at the run' }).click();
  await expect(page.getByRole('heading', { name: /all enquiries requested/ })).toBeVisible();
  await page.getByRole('link', { name: '1 file made', exact: true }).click();
  await page.getByRole('link', { name: /new enquiries\.csv/ }).click();
  await expect(page.getByText('to be taken').first()).toBeVisible();
  expect(await findingsIn(page, 'a file that a rule made')).toEqual([]);
  const taking = page.waitForEvent('download');
  await page.getByRole('link', { name: 'Take the file' }).click();
  const file = await taking;
  expect(file.suggestedFilename()).toBe('new enquiries.csv');
  const lines = readFileSync(await file.path(), 'utf8')
    .trim()
    .split('\r\n');
  // Without the mark of its encoding, which is a blank to who trims.
  expect(lines[0]).toBe('Enquiry,Number');
  expect(lines.length).toBeGreaterThan(1);
  for (const line of lines.slice(1)) expect(line).toMatch(/,EQ\d+$/);
});
