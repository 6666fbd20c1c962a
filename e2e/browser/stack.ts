import { expect, type Browser, type BrowserContext, type Page } from '@playwright/test';
import { authOf, type Application } from '../authOf';

type Cookies = Awaited<ReturnType<BrowserContext['cookies']>>;

interface StackAddress {
  readonly url: string;
  readonly user: string;
  readonly password: string;
  readonly connections: Readonly<
    Record<
      string,
      {
        readonly baseUrl: string;
        readonly token: string;
        readonly webhookSecret: string;
        readonly user?: string;
      }
    >
  >;
}

/** The stack of this worker; stories of different files may run side by side, each in systems of its own. */
export function stack(): StackAddress {
  const stacks = JSON.parse(process.env['STACKS'] ?? '[]') as StackAddress[];
  const own = stacks[Number(process.env['TEST_PARALLEL_INDEX'] ?? 0)];
  if (!own) throw new Error('no stack was started for this worker');
  return own;
}

/** Does something in a window of its own, which closes with it: one that stays open goes on beside all stories after it. */
export async function inWindow<T>(browser: Browser, work: (page: Page) => Promise<T>): Promise<T> {
  const context = await browser.newContext({ colorScheme: 'light' });
  try {
    return await work(await context.newPage());
  } finally {
    await context.close();
  }
}

/** The cookies of who has signed in before. */
const sessions = new Map<string, Cookies>();

/** Signs in as a person does, who finds the session of the last story still open. */
export async function signIn(page: Page, user = stack().user): Promise<void> {
  // What the page before asked for can bring back the cookie of who was signed in then.
  await page.goto('about:blank');
  do {
    await page.context().clearCookies();
    await page.context().addCookies(sessions.get(user) ?? []);
    await page.goto(stack().url);
    await signInHere(page, user);
  } while (!(await page.getByRole('banner').textContent())?.includes(user));
  sessions.set(user, await page.context().cookies());
}

async function signInHere(page: Page, user: string): Promise<void> {
  const name = page.getByRole('textbox', { name: 'Name' });
  const bench = page.getByRole('navigation', { name: 'Places' }).getByRole('link', { name: 'Bench' });
  await expect(name.or(bench)).toBeVisible();
  if (await bench.isVisible()) return;
  await name.fill(user);
  await page.locator('input[type=password]').fill(stack().password);
  await page.getByRole('button', { name: 'Sign in' }).click();
  await expect(bench).toBeVisible();
}

/** Asks the API as the person who is signed in on a page. Returns what was answered, of whatever kind it is. */
export async function api(
  page: Page,
  method: string,
  path: string,
  data?: unknown,
  ifMatch?: number,
): Promise<unknown> {
  const response = await page.request.fetch(`${stack().url}/api${path}`, {
    method,
    ...(data !== undefined && { data }),
    ...(ifMatch !== undefined && { headers: { 'if-match': `"${ifMatch}"` } }),
  });
  expect(response.ok()).toBe(true);
  return response.status() === 204 ? undefined : ((await response.json()) as unknown);
}

/** Goes to one of the places in the bar. */
export async function place(page: Page, name: string): Promise<void> {
  const link = page.getByRole('navigation', { name: 'Places' }).getByRole('link', { name });
  await link.click();
  // The page before stays until the other one is there, and may only come up itself meanwhile; the first page names rules as well.
  await expect(link).toHaveAttribute('aria-current', 'page');
  if (name !== 'Today') await expect(page.getByRole('article', { name: 'Today' })).toHaveCount(0);
}

/** Asks a system's own API, as another program would. */
export async function askSystem(
  system: Application,
  method: string,
  path: string,
  body?: Record<string, unknown>,
  version?: string,
): Promise<Record<string, unknown>> {
  const { baseUrl, token } = stack().connections[system] ?? { baseUrl: '', token: '' };
  const response = await fetch(baseUrl + path, {
    method,
    headers: {
      ...authOf[system](token),
      'content-type': 'application/json',
      ...(version !== undefined && { 'if-match': `"${version}"` }),
    },
    ...(body && { body: JSON.stringify(body) }),
  });
  expect(response.ok).toBe(true);
  return (await response.json()) as Record<string, unknown>;
}

/** Changes a company in Customer Book. */
export async function patchCompany(id: string, changes: Record<string, unknown>): Promise<void> {
  await askSystem('customer-book', 'PATCH', `/api/companies/${id}`, changes);
}

/** Publishes the draft of the sheet that is open, with a note where one is given. */
export async function publish(page: Page, note = ''): Promise<void> {
  await page.getByRole('button', { name: /^Publish(?! it)/ }).click();
  const panel = page.getByRole('form', { name: 'Publish the draft' });
  await panel.getByLabel(/^What is it for/).fill(note);
  await panel.getByRole('button', { name: 'Publish it' }).click();
  await expect(panel).toHaveCount(0);
}

/** Makes the rule of the sheet that is open stop running, with the reason where one is given. */
export async function stopRunning(page: Page, why = ''): Promise<void> {
  await page.getByRole('button', { name: 'Stop running' }).click();
  const panel = page.getByRole('form', { name: 'Stop the rule' });
  await panel.getByLabel(/^Why/).fill(why);
  await panel.getByRole('button', { name: 'Stop it' }).click();
  await expect(panel).toHaveCount(0);
}

/** Goes to the sheet of a rule by its list, where it is looked for by name: a list draws only what is in sight. */
export async function openRule(page: Page, name: string): Promise<void> {
  await findRule(page, name);
  await listed(page, name).click();
}

/** Looks for a rule in the list. */
export async function findRule(page: Page, name: string): Promise<void> {
  await place(page, 'Rules');
  await page.getByLabel('Search the rules').fill(name);
  await expect(listed(page, name)).toBeVisible();
}

/** A rule in the list: a button beside it may be called as the rule is. */
function listed(page: Page, name: string) {
  return page.getByRole('list', { name: 'Rules' }).getByRole('link', { name, exact: true });
}

/** Removes the sample that is open on the bench. */
export async function removeSample(page: Page): Promise<void> {
  await page.getByRole('button', { name: 'What else to do with the sample' }).click();
  await page.getByRole('menuitem', { name: 'Remove' }).click();
}
