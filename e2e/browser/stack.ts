import { expect, type BrowserContext, type Page } from '@playwright/test';
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

/** Goes to one of the places in the bar. */
export async function place(page: Page, name: string): Promise<void> {
  await page.getByRole('navigation', { name: 'Places' }).getByRole('link', { name }).click();
  // The first page names rules as well, and stays until the other one is there.
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
