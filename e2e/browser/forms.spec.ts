import AxeBuilder from '@axe-core/playwright';
import { expect, test } from '@playwright/test';
import { findingsIn, told } from './axe';
import { api, inWindow, signIn, stack } from './stack';

/** Whoever reads a page is not as quick as a program; what is quicker is not taken. */
const readingMs = 1700;

test.beforeEach(async ({ page }) => signIn(page));

test('a form is made, its page answered by somebody outside, and the answer stands in the log with what it did', async ({
  page,
  browser,
}) => {
  await page.goto(`${stack().url}/arrivals/forms`);
  await page.getByRole('button', { name: 'New form' }).click();
  await page.getByLabel('What is it called?').fill('Wish for a berth');
  await page.getByRole('button', { name: 'Make it' }).click();
  await expect(page.getByRole('heading', { name: 'Wish for a berth', level: 1 })).toBeVisible();
  await expect(page.getByText('Nothing is asked yet.')).toBeVisible();
  const ask = async (label: string, kind: string) => {
    await page.getByRole('button', { name: 'Ask something more' }).click();
    await page.getByLabel('Question', { exact: true }).fill(label);
    await page.getByRole('combobox', { name: 'Answer', exact: true }).click();
    await page.getByRole('option', { name: kind, exact: true }).click();
  };
  await ask('Name of the vessel', 'a text');
  await page.getByLabel('It has to be answered').check();
  await ask('How will you come alongside?', 'one of some choices');
  await page.getByLabel('Choices').fill('PS = Port side\nSB = Starboard side');
  await page.getByRole('button', { name: 'Say something' }).click();
  await page.getByLabel('What it says').fill('We keep fenders ready at that side.');
  // The page at the right is as people outside will see it, and says what an answer gives.
  const tried = page.frameLocator('iframe');
  await tried.getByLabel('Starboard side').check();
  const gives = page.getByRole('status', { name: 'What these answers give' });
  await expect(gives.getByRole('row', { name: /alongside/ })).toContainText('SB');
  await expect(gives).toContainText('Please answer “Name of the vessel”.');
  expect(await findingsIn(page, 'a form')).toEqual([]);
  await page.getByRole('combobox', { name: 'Answers', exact: true }).click();
  await page.getByRole('option', { name: 'are taken', exact: true }).click();
  await page.getByRole('button', { name: 'Save it' }).click();
  await expect(page.getByText('takes answers')).toBeVisible();

  await inWindow(browser, async (outside) => {
    await outside.goto(`${stack().url}/forms/wish-for-a-berth`);
    await expect(outside.getByRole('heading', { name: 'Wish for a berth' })).toBeVisible();
    const found = async (where: string) =>
      told(
        where,
        await new AxeBuilder({ page: outside }).withTags(['wcag2a', 'wcag2aa', 'wcag22aa']).analyze(),
      );
    expect(await found('the page of a form')).toEqual([]);
    await outside.waitForTimeout(readingMs);
    await outside.getByRole('button', { name: 'Send' }).press('Enter');
    await expect(outside.getByRole('alert')).toContainText('Please answer “Name of the vessel”.');
    await expect(outside).toHaveTitle('Not sent yet: Wish for a berth');
    expect(await found('the page of a form, not sent')).toEqual([]);
    await outside.getByRole('link', { name: 'Please answer “Name of the vessel”.' }).click();
    await outside.getByLabel('Name of the vessel').fill('Holm Tern');
    await outside.getByLabel('Port side').check();
    await outside.waitForTimeout(readingMs);
    await outside.getByRole('button', { name: 'Send' }).click();
    await expect(outside.getByRole('status')).toContainText('Your answer has come.');
    await outside.emulateMedia({ colorScheme: 'dark' });
    expect(await found('thanks, in dark')).toEqual([]);
  });

  await page.getByRole('link', { name: /^Answers/ }).click();
  await page
    .getByRole('list', { name: 'Answers' })
    .getByRole('button', { name: /on the page/ })
    .click();
  const detail = page.getByRole('region', { name: /^Answer \d+/ });
  await expect(detail.getByRole('table', { name: 'What it was read as' })).toContainText('Holm Tern');
  await expect(detail.getByRole('row', { name: /alongside/ }).first()).toContainText('PS');
  await expect(detail.getByRole('link', { name: /^run \d+$/ })).toBeVisible();
  expect(await findingsIn(page, 'answers')).toEqual([]);
  await page.getByRole('button', { name: 'Take it out' }).click();
  await expect(page.getByText('“Wish for a berth” is taken out.')).toBeVisible();
});

test('what follows from an answer is asked at once, and a threshold stops it; a choice without a code is told before anybody answers', async ({
  page,
  browser,
}) => {
  await inWindow(browser, async (outside) => {
    await outside.goto(`${stack().url}/forms/cargo-questionnaire`);
    await expect(outside.getByLabel('Warmest it may become')).toBeHidden();
    await outside.getByLabel('Keep chilled').check();
    await expect(outside.getByLabel('Warmest it may become')).toBeVisible();
    await outside.getByLabel('Weight in kg').fill('24001');
    await expect(outside.getByText('We cannot take more than 24 tonnes')).toBeVisible();
    await outside.getByLabel('Weight in kg').fill('6000');
    await expect(outside.getByText('We cannot take more than 24 tonnes')).toBeHidden();
    await expect(outside.getByText('are lifted on board by crane')).toBeVisible();
  });
  await page.goto(`${stack().url}/arrivals/forms/inlets/cargo%20questionnaire`);
  const says = page.getByRole('region', { name: 'What the rules say of it' });
  await expect(says).toContainText('has no row for “Keep dry”');
  await page.getByRole('button', { name: /^What needs care/ }).click();
  const choices = page.getByLabel('Choices');
  await choices.fill(`${await choices.inputValue()}\nKeep frozen`);
  await expect(says).toContainText('“Keep frozen”');
  await expect(page.getByText('not saved yet')).toBeVisible();
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(choices).not.toHaveValue(/Keep frozen/);
  await expect(says).not.toContainText('“Keep frozen”');
});

test('a refused answer of another form is tried again once the form is mended', async ({ page }) => {
  const path = '/forms/inlets/cargo%20questionnaire';
  const sent = await page.request.post(`${stack().url}/api${path}/answers`, {
    form: { booking: 'BK70006', 'What needs care': 'Keep level' },
  });
  expect(sent.status()).toBe(422);
  await page.goto(`${stack().url}/arrivals/forms`);
  await page.getByRole('link', { name: /refused or failed/ }).click();
  await page.getByRole('button', { name: /^refused/ }).click();
  await page
    .getByRole('list', { name: 'Answers' })
    .getByRole('button', { name: /BK70006/ })
    .click();
  await expect(page.getByRole('note')).toContainText('“Keep level” is none of the choices');
  const forms = (await api(page, 'GET', '/forms')) as readonly {
    readonly type: {
      readonly name: string;
      readonly fields: readonly { readonly name: string; readonly options?: object[] }[];
    };
    readonly form: object | null;
  }[];
  const seen = forms.find(({ type }) => type.name === 'cargo questionnaire');
  if (!seen) throw new Error('There is no questionnaire.');
  const { type, form } = seen;
  const fields = type.fields.map((field) =>
    field.name === 'care'
      ? { ...field, options: [...(field.options ?? []), { value: 'Keep upright ', label: 'Keep level' }] }
      : field,
  );
  await api(page, 'PUT', path, { type: { ...type, fields }, form, seen: { type, form } });
  await page.getByRole('button', { name: 'Try it again' }).click();
  await expect(page.getByRole('note')).toHaveCount(0);
  await expect(page.getByRole('button', { name: /^refused/ })).toContainText('0');
  await api(page, 'PUT', path, { type, form, seen: { type: { ...type, fields }, form } });
});
