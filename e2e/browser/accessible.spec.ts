import AxeBuilder from '@axe-core/playwright';
import { expect, test, type Page } from '@playwright/test';
import { told, wcag, withoutTried } from './axe';
import { inWindow, signIn, stack } from './stack';

const views = [
  '/systems/freight-desk',
  '/systems/connect',
  '/records?left=customer-book/company/C-1001&right=freight-desk/booking',
  '/tables/Handling%20labels%20to%20codes',
  '/tables/Handling%20labels%20to%20codes?tab=coverage',
  '/tables/Countries%20to%20regions?tab=settings',
  '/rules',
  '/rules/0192f3a0-0001-7000-8000-000000000001',
  '/rules/0192f3a0-0004-7000-8000-000000000004?line=0/mainContactId&suggest=yes&group=state',
  '/rules/0192f3a0-0004-7000-8000-000000000004?column=0/paymentCode',
  '/rules/0192f3a0-0009-7000-8000-000000000009?guard=conditions',
  '/rules/0192f3a0-0012-7000-8000-000000000012',
  '/rules/0192f3a0-0017-7000-8000-000000000017',
  '/records?left=fleet-log/voyage/VY-5005&right=vast-knot/counterpart',
  '/systems/inlets',
  '/bench',
  '/bench/0192f3b0-0012-7000-8000-000000000012?against=drafts',
  '/bench?against=drafts&verdict=differs',
  '/bench?against=both',
  '/bench?by=rule',
  '/bench/new',
  '/bench/new?from=next',
  '/bench/new?from=json',
  '/bench/history',
  '/values?text=01632+960+104',
  '/records?left=freight-desk/booking/BK70002',
  '/records?left=freight-desk/booking/BK70009',
  '/rules/0192f3a0-0021-7000-8000-000000000021',
  '/bench/0192f3b1-0021-7000-8000-000000000051',
  '/runs',
  '/today',
  '/failures',
  '/reconcile',
  '/reconcile?rule=0192f3a0-0001-7000-8000-000000000001',
  '/telling',
  '/messages',
  '/addresses',
  '/rules?state=removed',
  '/rules/0192f3a0-0001-7000-8000-000000000001/versions',
  '/rules/new',
  '/reference?search=capital',
  '/reference/rules',
  '/reference/findings',
  '/reference/api',
  '/me',
  '/people',
  '/roles?role=new',
  '/environment',
  '/moving',
  '/arrivals',
  '/arrivals/forms',
  '/arrivals/sources',
  '/arrivals/forms/inlets/cargo%20questionnaire',
  '/audit',
];

/** Windows that people work in: a small one, a usual one, a large one. */
const sizes = [
  { width: 1280, height: 800 },
  { width: 1000, height: 700 },
  { width: 1600, height: 1000 },
] as const;

/** Rules that depend on where things are drawn; all others say the same of a view in any window. */
const ofLayout = ['target-size', 'scrollable-region-focusable', 'color-contrast'];
/** Rules that depend on colours; all others say the same of a view in light and in dark. */
const ofColours = ['color-contrast', 'link-in-text-block'];

test('no view breaks a rule of accessibility, in light colours and in dark ones, in a small window and in a large one', async ({
  browser,
}) => {
  // Every view is looked at in one story, so that one list names all that is wrong; two at a time, for the two cores.
  test.setTimeout(900_000);
  const left = [...views];
  const lane = async (page: Page) => {
    await signIn(page);
    const found: string[] = [];
    for (let view = left.shift(); view !== undefined; view = left.shift())
      found.push(...(await violationsOf(page, view)));
    return found;
  };
  const found = await Promise.all([inWindow(browser, lane), inWindow(browser, lane)]);
  expect(found.flat()).toEqual([]);
});

async function violationsOf(page: Page, view: string): Promise<string[]> {
  await page.emulateMedia({ colorScheme: 'light' });
  await page.goto(stack().url + view);
  await page.waitForLoadState('load');
  await expect(page.locator('main h1, main h2, main [role=listitem]').first()).toBeVisible();
  await page.waitForTimeout(400);
  await withoutTried(page);
  const found: string[] = [];
  for (const [at, size] of sizes.entries()) {
    const where = `${view} at ${size.width}`;
    await page.setViewportSize(size);
    await page.emulateMedia({ colorScheme: 'light' });
    await expect(page.locator('html')).toHaveAttribute('data-mantine-color-scheme', 'light');
    const asked = new AxeBuilder({ page });
    found.push(...told(where, await (at === 0 ? asked.withTags(wcag) : asked.withRules(ofLayout)).analyze()));
    if (at > 0) continue;
    await page.emulateMedia({ colorScheme: 'dark' });
    await expect(page.locator('html')).toHaveAttribute('data-mantine-color-scheme', 'dark');
    found.push(...told(`${where} in dark`, await new AxeBuilder({ page }).withRules(ofColours).analyze()));
  }
  return found;
}
