import { expect, type Page } from '@playwright/test';

interface StackAddress {
  readonly url: string;
  readonly user: string;
  readonly password: string;
  readonly connections: Readonly<Record<string, { readonly baseUrl: string; readonly token: string }>>;
}

export function stack(): StackAddress {
  return JSON.parse(process.env['STACK'] ?? '{}') as StackAddress;
}

/** Signs in as a person does. */
export async function signIn(page: Page, user = stack().user): Promise<void> {
  await page.goto(stack().url);
  await page.getByRole('textbox', { name: 'Name' }).fill(user);
  await page.locator('input[type=password]').fill(stack().password);
  await page.getByRole('button', { name: 'Sign in' }).click();
  await expect(page.getByRole('link', { name: 'Bench' })).toBeVisible();
}

/** Goes to one of the places in the bar. */
export async function place(page: Page, name: string): Promise<void> {
  await page.getByRole('navigation', { name: 'Places' }).getByRole('link', { name }).click();
}

/** Changes a record through the system's own API, as another program would. */
export async function patchCompany(id: string, changes: Record<string, unknown>): Promise<void> {
  const { baseUrl, token } = stack().connections['customer-book'] ?? { baseUrl: '', token: '' };
  const response = await fetch(`${baseUrl}/api/companies/${id}`, {
    method: 'PATCH',
    headers: { authorization: `Bearer ${token}`, 'content-type': 'application/merge-patch+json' },
    body: JSON.stringify(changes),
  });
  expect(response.status).toBe(200);
}
