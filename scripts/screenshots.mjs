import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { chromium as findChromium } from './machine/debian.mjs';
import { root } from './machine/folders.mjs';
import { ensurePackages } from './machine/packages.mjs';
import { removeData } from './machine/postgres.mjs';
import { run, say } from './machine/say.mjs';
import { startStack } from './machine/stack.mjs';

const flags = [
  '--no-sandbox',
  '--disable-gpu',
  '--disable-quic',
  '--no-first-run',
  '--disable-background-networking',
  '--disable-component-update',
  '--disable-sync',
];
const companyRule = '/rules/0192f3a0-0001-7000-8000-000000000001';
/** The id of a rule of the demo, by its number. */
const demoRule = (number) =>
  `0192f3a0-${String(number).padStart(4, '0')}-7000-8000-${String(number).padStart(12, '0')}`;
const sides = '/records?left=customer-book/company/C-1001&right=freight-desk/booking/BK70002';

/** `npm run screenshots`: a picture of each main view, from the demo's data, made the same way every time. */
await run(async () => {
  await ensurePackages();
  const executablePath = await findChromium();
  const { chromium } = await import('playwright-core');
  removeData('pictures');
  const stack = await startStack({ name: 'pictures' });
  const browser = await chromium.launch({ executablePath, args: flags });
  const folder = join(root, 'docs/screenshots');
  mkdirSync(folder, { recursive: true });
  try {
    const page = await signedIn(browser, stack, 'light');
    const take = async (name, path, prepare = async () => {}) => {
      if (path !== undefined) await page.goto(stack.url + path);
      await page.waitForLoadState('networkidle').catch(() => {});
      await prepare();
      await page.waitForTimeout(400);
      await page.screenshot({ path: join(folder, `${name}.png`) });
      say(`docs/screenshots/${name}.png`);
    };
    const change = async (label, value) => {
      await page.getByRole('region', { name: 'Left side' }).getByLabel(label, { exact: true }).fill(value);
      await page.getByRole('button', { name: 'Save the change' }).click();
      await page.getByRole('button', { name: 'Save the change' }).waitFor({ state: 'hidden' });
    };
    await page.goto(stack.url + sides);
    await change('E-mail domain', 'smokehouse.example');
    await page.waitForTimeout(700);
    await take('records', sides, async () => {
      await change('Phone', '01632 960 715');
      await page.getByRole('region', { name: 'Right side' }).getByText('just changed').waitFor();
    });
    await page.waitForTimeout(1000);
    await take('runs', '/runs');
    await take('run', undefined, async () => {
      await page
        .getByRole('link', { name: /updated wrote/ })
        .first()
        .click();
      await page.getByRole('heading', { name: 'Outcome' }).waitFor();
    });
    await take('undo', undefined, async () => {
      await page.getByRole('button', { name: 'Take back…' }).click();
      await page.getByRole('status').filter({ hasText: 'goes back' }).waitFor();
      await page.getByLabel('Why it is taken back').fill('The number was mistyped.');
    });
    await take('rule-sheet', companyRule, () => page.getByText('would write').waitFor());
    await take('bench', `/bench/0192f3b1-0021-7000-8000-000000000051`, () =>
      page.getByText('As expected.').waitFor(),
    );
    for (const [at, company] of ['C-1002', 'C-1016', 'C-1018'].entries()) {
      const { baseUrl, token } = stack.connections['customer-book'];
      await fetch(`${baseUrl}/api/companies/${company}`, {
        method: 'PATCH',
        headers: { authorization: `Bearer ${token}`, 'content-type': 'application/json' },
        body: JSON.stringify({ phone: `ask at desk ${at + 1}` }),
      });
    }
    await take('failures', '/failures', () => page.getByText(/Try all \d again/).waitFor());
    await take('today', '/today', () => page.getByText('Busiest rules').waitFor());
    await take('form', '/arrivals/forms/inlets/cargo%20questionnaire', async () => {
      const tried = page.frameLocator('iframe');
      await tried.getByLabel('Booking').fill('BK70003');
      await tried.getByLabel('Keep chilled').check();
      await tried.getByLabel('Warmest it may become').fill('4');
      await page.getByText('nothing is missing').or(page.getByText('has no row for')).first().waitFor();
    });
    await take('tables', '/tables/Handling%20labels%20to%20codes', async () => {
      await page.getByText('Fragile').click();
      await page.keyboard.press('ArrowRight');
      await page.keyboard.type('FG');
      await page.keyboard.press('Enter');
    });
    await take('connect', '/systems/connect', async () => {
      const { baseUrl, token } = stack.connections['customer-book'];
      await page.getByLabel('Address').fill(`${baseUrl}/openapi.json`);
      await page.getByRole('button', { name: 'Read it' }).click();
      await page.getByLabel('Secret', { exact: true }).fill(token);
      await page.getByRole('button', { name: 'Keep it' }).click();
      await page.getByText(/25 records, and more pages/).waitFor();
      await page.getByRole('button', { name: 'items', exact: true }).click();
    });
    await take('database', '/systems/connect?from=database', async () => {
      const { baseUrl, user, token } = stack.connections['berth-register'];
      await page.getByLabel('Address').fill(baseUrl);
      await page.getByLabel('User').fill(user);
      await page.getByLabel('Password', { exact: true }).fill(token);
      await page.getByLabel('The line is').selectOption('none');
      await page.getByRole('button', { name: 'Read its catalogue' }).click();
      await page.getByRole('button', { name: /^Calls/ }).click();
      await page.getByText('8 records').waitFor();
    });
    await take('reconcile', `/reconcile?rule=${demoRule(7)}`, async () => {
      await page.getByRole('button', { name: 'Look at what exists' }).click();
      await page.getByRole('button', { name: /^Write all/ }).waitFor();
      await page.getByRole('button', { name: /^would change/ }).click();
      await page.getByText('values', { exact: true }).click();
    });
    const give = async (name) => {
      await page.goto(`${stack.url}/arrivals`);
      await page.locator('input[type=file]').setInputFiles(join(root, 'demo/files', name));
      await page.getByRole('heading', { name }).waitFor();
    };
    await give('manifest.csv');
    await page.getByRole('button', { name: 'Look at what each row would do' }).click();
    await take('arrival', undefined, async () => {
      await page.getByRole('button', { name: 'row 6' }).click();
      await page.getByText('What would happen').waitFor();
    });
    await give('spare-parts.mrc');
    await take('tagged', undefined, async () => {
      await page.getByRole('button', { name: 'What the records become' }).click();
      await page.getByRole('combobox', { name: 'Record type' }).click();
      await page.getByRole('option', { name: /Spare part/ }).click();
      for (const [field, value] of [
        ['Part number', '001'],
        ['Name', '245$a'],
        ['Vessel code', '310$a'],
        ['Quantity', '850$q'],
        ['Arrives on', '850$d'],
        ['Price', '954[1]$c'],
      ]) {
        await page.getByLabel(`Where ${field} comes from`).click();
        await page.getByRole('button', { name: `Use ${value}:` }).click();
      }
    });
    await page.goto(`${stack.url}/environment`);
    await page.getByLabel('Called').fill('Trial');
    await page.getByRole('radio', { name: /^moss/ }).check();
    await page.getByRole('button', { name: 'Keep it' }).click();
    await take('people', '/people', async () => {
      await page.getByRole('combobox', { name: 'Role of reader' }).click();
      await page.getByRole('option', { name: 'Publisher' }).click();
      await page.getByLabel('Invite somebody, who signs in as').fill('jarl');
      await page.getByLabel('E-mail, if they have one').fill('jarl@skerry-line.example');
      await page.getByRole('button', { name: 'Invite', exact: true }).click();
      await page.getByRole('region', { name: 'Invitations' }).getByText('jarl').waitFor();
    });
    await take('moving', '/moving', async () => {
      // As it would come from the trial: a rule and a table that were changed there, under another name of the desk.
      const ask = (path, data) => page.request.post(`${stack.url}/api${path}`, { data });
      const bundle = await (
        await ask('/bundles', { rules: [demoRule(2)], form: 'file', samples: true })
      ).json();
      const same = { files: [{ name: 'before.json', text: JSON.stringify(bundle) }] };
      const { stamp } = await (await ask('/imports/plan', same)).json();
      await ask('/imports', { ...same, stamp });
      const [zones] = bundle.rules;
      zones.rule.guard = 'AND(ISBLANK(tariffZone), NOT(ISBLANK(destinationPort)))';
      bundle.rules.push({
        ...structuredClone(zones),
        id: demoRule(99),
        rule: { ...zones.rule, name: 'Tariff zone of return trips' },
      });
      bundle.tables[0].rows[0][1] = 'Outer Skerries';
      bundle.samples.pop();
      const text = JSON.stringify(bundle)
        .replaceAll('"freight-desk', '"trial-desk')
        .replaceAll('"Freight Desk"', '"Desk of the trial"');
      await page
        .locator('input[type=file]')
        .setInputFiles({ name: 'from-trial.json', mimeType: 'application/json', buffer: Buffer.from(text) });
      await page.getByRole('combobox', { name: 'What stands for Desk of the trial' }).click();
      await page.getByRole('option', { name: 'Freight Desk' }).click();
      await page.getByText('Say which system here stands for').waitFor({ state: 'detached' });
      const changed = page.getByRole('region', { name: 'Changed there' });
      await changed.getByText('1 difference').first().click();
      await changed.getByText('1 difference').last().click();
    });
    await take('audit', '/audit', () => page.getByText('1 change', { exact: true }).first().click());
    const dark = await signedIn(browser, stack, 'dark');
    await dark.goto(`${stack.url}/rules`);
    await dark.getByRole('link', { name: /Tariff zone/ }).waitFor();
    await dark.screenshot({ path: join(folder, 'rules-dark.png') });
    say('docs/screenshots/rules-dark.png');
  } finally {
    await browser.close();
    await stack.stop();
  }
});

async function signedIn(browser, stack, colorScheme) {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 }, colorScheme });
  await page.goto(stack.url);
  await page.getByRole('textbox', { name: 'Name' }).fill(stack.user);
  await page.locator('input[type=password]').fill(stack.password);
  await page.getByRole('button', { name: 'Sign in' }).click();
  await page.getByRole('link', { name: 'Bench', exact: true }).waitFor();
  return page;
}
