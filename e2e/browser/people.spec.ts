import { expect, test, type Page } from '@playwright/test';
import { Secret, TOTP } from 'otpauth';
import { api, findRule, inWindow, place, publish, signIn, stack } from './stack';

test.beforeEach(({ page }) => signIn(page));

const password = 'four grey gulls on deck';
const rule = (number: number) => `${stack().url}/rules/0192f3a0-00${number}-7000-8000-0000000000${number}`;

/** Makes somebody with a role, by an invitation of whoever is signed in on a page. */
async function somebody(page: Page, name: string, role: string): Promise<void> {
  const { link } = (await api(page, 'POST', '/people/invitations', { name, role })) as { link: string };
  await inWindow(page.context().browser() ?? never(), (other) =>
    api(other, 'PUT', '/session/invitation', { secret: new URL(link).hash.slice(1), password, fullName: '' }),
  );
}

const never = (): never => {
  throw new Error('a page has a browser');
};

/** Signs in by hand, on the page that asks for it. */
async function enter(page: Page, name: string): Promise<void> {
  await page.getByRole('textbox', { name: 'Name' }).fill(name);
  await page.locator('input[type=password]').fill(password);
  await page.getByRole('button', { name: 'Sign in' }).click();
}

test('somebody is invited, joins by the link, sets up codes and signs in with one; the link works no more', async ({
  page,
  browser,
}) => {
  await page.goto(`${stack().url}/people`);
  await page.getByLabel('Invite somebody, who signs in as').fill('jarl');
  await page.getByRole('combobox', { name: 'As' }).click();
  await page.getByRole('option', { name: 'Editor' }).click();
  await page.getByRole('button', { name: 'Invite', exact: true }).click();
  const said = page.getByRole('status').filter({ hasText: 'jarl joins with this link' });
  const link = /http\S+\/join#[\w-]+/.exec((await said.textContent()) ?? '')?.[0] ?? '';
  await expect(page.getByRole('region', { name: 'Invitations' }).getByText('join as Editor')).toBeVisible();

  await inWindow(browser, async (other) => {
    await other.goto(link);
    await expect(other.getByText('You join as jarl')).toBeVisible();
    await other.getByLabel('Your name, as others read it').fill('Jarl Holm');
    await other.getByLabel('A password').fill('password1234');
    await other.getByRole('button', { name: 'Join' }).click();
    await expect(other.getByRole('alert')).toContainText('among those that are tried first');
    await other.getByLabel('A password').fill(password);
    await other.getByRole('button', { name: 'Join' }).click();
    await expect(other.getByRole('button', { name: 'Sign in' })).toBeVisible();
    await enter(other, 'jarl');
    await other.getByRole('link', { name: 'jarl' }).click();
    await other.getByLabel('Your password', { exact: true }).fill(password);
    await other.getByRole('button', { name: 'Set codes up' }).click();
    const shown = other.getByRole('region', { name: 'Second factor' });
    const secret = (await shown.getByText(/^[A-Z2-7]{32}$/).textContent()) ?? '';
    const codes = new TOTP({ secret: Secret.fromBase32(secret) });
    await shown.getByLabel('The code that it shows now').fill(codes.generate());
    await shown.getByRole('button', { name: 'That is it' }).click();
    await expect(shown.getByText('your password and a code of your device')).toBeVisible();
    await other.getByRole('button', { name: 'Sign out' }).click();
    // The page goes to its beginning by itself, and asks nobody to sign in before it is there.
    await enter(other, 'jarl');
    await other.getByLabel('Code of your device').fill('000000');
    await other.getByRole('button', { name: 'Sign in' }).click();
    await expect(other.getByRole('alert')).toContainText('This code is not right');
    // The code of now was used when they were set up; that of the next half minute is taken as well.
    await other.getByLabel('Code of your device').fill(codes.generate({ timestamp: Date.now() + 30_000 }));
    await other.getByRole('button', { name: 'Sign in' }).click();
    await expect(other.getByRole('banner')).toContainText('jarl');
    await other.goto(link);
    await expect(other.getByRole('alert')).toContainText('This link was used, or is too old');
  });

  await page.reload();
  const row = page.getByRole('row', { name: /^jarl Jarl Holm/ });
  await expect(row).toContainText('codes');
  await row.getByRole('button', { name: 'What to do about jarl' }).click();
  await page.getByRole('menuitem', { name: 'Stop from signing in' }).click();
  await expect(row).toContainText('stopped');
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(row).not.toContainText('stopped');
});

test('each role sees and can do its part', async ({ page, browser }) => {
  await somebody(page, 'edith', 'editor');
  await somebody(page, 'piet', 'publisher');
  const sees = (name: string) =>
    inWindow(browser, async (other) => {
      await other.goto(stack().url);
      await enter(other, name);
      await expect(other.getByRole('banner')).toContainText(name);
      await other.goto(rule(12));
      await expect(
        other.getByRole('heading', { level: 1 }).or(other.getByLabel('Name of the rule')).first(),
      ).toBeVisible();
      const may = [];
      for (const button of [/^Publish/, 'Stop running'])
        may.push((await other.getByRole('button', { name: button }).count()) > 0);
      await other.goto(`${stack().url}/people`);
      await expect(other.getByText('is not among your rights')).toBeVisible();
      await other.goto(`${stack().url}/bench/new`);
      may.push((await other.getByText('This is not for you to do').count()) === 0);
      return may;
    });
  expect(await sees('edith')).toEqual([false, false, true]);
  expect(await sees('piet')).toEqual([true, true, true]);
});

// Whatever becomes of the story below: in those after it one person publishes alone.
test.afterEach(async ({ page }) => {
  const { environment } = (await api(page, 'GET', '/session')) as {
    environment: { revision: number; secondPerson: boolean };
  };
  if (!environment.secondPerson) return;
  const asBefore = { name: '', colour: 'plain', secondPerson: false };
  await api(page, 'PUT', '/environment', asBefore, environment.revision);
});

test('what one asks to be published, another publishes; both stand with the version, and in the audit', async ({
  page,
  browser,
}) => {
  await somebody(page, 'signe', 'publisher');
  await page.goto(`${stack().url}/environment`);
  await page.getByLabel('Called').fill('Trial');
  await page.getByRole('radio', { name: /^moss/ }).check();
  await page.getByLabel('What one person wants published is published by another').check();
  await page.getByRole('button', { name: 'Keep it' }).click();
  await expect(page.getByRole('banner')).toContainText('Trial');

  await page.goto(rule(12));
  await page.getByLabel('What the rule is for').fill('Asked for by two.');
  await page.getByRole('button', { name: /^Publish(?! it)/ }).click();
  const panel = page.getByRole('form', { name: 'Publish the draft' });
  await panel.getByLabel(/^What is it for/).fill('for the harbour');
  await panel.getByRole('button', { name: 'Ask for it' }).click();
  await expect(page.getByText('admin asks for this to be published: for the harbour')).toBeVisible();

  await inWindow(browser, async (other) => {
    await other.goto(stack().url);
    await enter(other, 'signe');
    await expect(other.getByRole('banner')).toContainText('Trial');
    await other.goto(rule(12));
    await expect(other.getByText('admin asks for this to be published')).toBeVisible();
    await publish(other, 'seen');
    await expect(other.getByText('admin asks for this to be published')).toHaveCount(0);
    await other.goto(`${rule(12)}/versions`);
    await expect(other.getByText('admin and signe').first()).toBeVisible();
  });

  await page.goto(`${stack().url}/audit?person=signe`);
  await expect(page.getByRole('cell', { name: /^published a rule/ })).toContainText('seen');
  await page.getByLabel('Holds').fill('second person?');
  await page.getByLabel('Holds').press('Enter');
  await expect(page.getByText('Nothing of this was done')).toBeVisible();
  await page.goto(`${stack().url}/audit?kind=environment`);
  await page.getByText('changes', { exact: false }).last().click();
  await expect(page.getByRole('row', { name: '/secondPerson false true' })).toBeVisible();
});

test('a token is made for a program, which may what was chosen and no more', async ({ page, playwright }) => {
  await page.goto(`${stack().url}/me`);
  const tokens = page.getByRole('region', { name: 'Tokens' });
  await tokens.getByLabel('A token for').fill('the nightly pipeline');
  await tokens.getByRole('combobox', { name: 'which may' }).click();
  await page.getByRole('option', { name: 'see rules and their findings' }).click();
  await page.keyboard.press('Escape');
  await tokens.getByRole('button', { name: 'Make it' }).click();
  const token = /vkt_[\w-]+/.exec((await tokens.getByRole('status').textContent()) ?? '')?.[0] ?? '';
  const program = await playwright.request.newContext({
    extraHTTPHeaders: { authorization: `Bearer ${token}` },
  });
  expect((await program.get(`${stack().url}/api/rules`)).status()).toBe(200);
  expect((await program.get(`${stack().url}/api/tables`)).status()).toBe(403);
  await page.reload();
  await expect(tokens.getByRole('row', { name: /^the nightly pipeline 1 right/ })).toContainText(
    'from 127.0.0.1',
  );
  await tokens.getByRole('button', { name: 'End the token the nightly pipeline' }).click();
  await expect(tokens.getByRole('row', { name: /^the nightly pipeline/ })).toHaveCount(0);
  expect((await program.get(`${stack().url}/api/rules`)).status()).toBe(401);
  await program.dispose();
});

test('a role of one’s own is made, given, and taken back with one press', async ({ page, browser }) => {
  await page.goto(`${stack().url}/roles?role=new`);
  const form = page.getByRole('form', { name: 'A new role' });
  await form.getByLabel('Called', { exact: true }).fill('Night watch');
  await form.getByLabel('For whom it is').fill('Stops what goes wrong at night.');
  await form.getByLabel('stop a run').check();
  await form.getByRole('button', { name: 'Make the role' }).click();
  await expect(page.getByRole('region', { name: 'Night watch' })).toContainText('0 people, 14 of');
  await somebody(page, 'nils', 'night-watch');
  await inWindow(browser, async (other) => {
    await other.goto(stack().url);
    await enter(other, 'nils');
    await place(other, 'Rules');
    await findRule(other, 'Poor inspection puts the vessel on hold');
    await expect(other.getByRole('link', { name: 'New rule' })).toHaveCount(0);
  });
  await page.getByRole('region', { name: 'Night watch' }).getByRole('button', { name: 'Remove' }).click();
  await expect(page.getByText('Give nils another role first.')).toBeVisible();
});
