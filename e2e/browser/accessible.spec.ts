import AxeBuilder from '@axe-core/playwright';
import { expect, test, type Page } from '@playwright/test';
import { told, wcag } from './axe';
import { signIn, stack } from './stack';

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
];

/** Rules that depend on colours; all others say the same of a view in light and in dark. */
const ofColours = ['color-contrast', 'link-in-text-block'];

test('no view breaks a rule of accessibility, in light colours and in dark ones', async ({ browser }) => {
  // Every view is looked at in one story, so that one list names all that is wrong; two at a time, for the two cores.
  test.setTimeout(300_000);
  const left = [...views];
  const lane = async () => {
    const page = await (await browser.newContext({ colorScheme: 'light' })).newPage();
    await signIn(page);
    const found: string[] = [];
    for (let view = left.shift(); view !== undefined; view = left.shift())
      found.push(...(await violationsOf(page, view)));
    return found;
  };
  const found = await Promise.all([lane(), lane()]);
  expect(found.flat()).toEqual([]);
});

async function violationsOf(page: Page, view: string): Promise<string[]> {
  await page.emulateMedia({ colorScheme: 'light' });
  await page.goto(stack().url + view);
  await page.waitForLoadState('load');
  await expect(page.locator('main h1, main h2, main [role=listitem]').first()).toBeVisible();
  await page.waitForTimeout(400);
  const light = await new AxeBuilder({ page }).withTags(wcag).analyze();
  await page.emulateMedia({ colorScheme: 'dark' });
  await expect(page.locator('html')).toHaveAttribute('data-mantine-color-scheme', 'dark');
  const dark = await new AxeBuilder({ page }).withRules(ofColours).analyze();
  return [...told(view, light), ...told(`${view} in dark`, dark)];
}
