import AxeBuilder from '@axe-core/playwright';
import type { Page } from '@playwright/test';

/** WCAG 2.2 AA, as far as the rules of axe-core find it by themselves. */
export const wcag = ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa'];

/** Returns what is wrong with a view as it stands, in sentences. */
export async function findingsIn(page: Page, where: string): Promise<string[]> {
  await withoutTried(page);
  return told(where, await new AxeBuilder({ page }).withTags(wcag).analyze());
}

/** Takes a page out that is only tried beside its sheet: without scripts axe-core cannot look into it, and as it is given it is looked at by itself. */
export async function withoutTried(page: Page): Promise<void> {
  await page.locator('iframe[sandbox]').evaluateAll((frames) => frames.forEach((frame) => frame.remove()));
}

/** Returns what axe-core found, as sentences. */
export function told(where: string, { violations }: Awaited<ReturnType<AxeBuilder['analyze']>>): string[] {
  return violations.flatMap(({ id, nodes }) =>
    nodes.slice(0, 3).map(({ html }) => `${where} ${id}: ${html.slice(0, 160)}`),
  );
}
