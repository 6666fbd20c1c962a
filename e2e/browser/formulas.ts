import { expect, type Locator, type Page } from '@playwright/test';

export function formulaFor(page: Page, label: string): Locator {
  return page.getByLabel(`Formula for ${label}`, { exact: true });
}

/** Opens the line of a field and puts a formula in the place of what is there. */
export async function setFormula(page: Page, label: string, formula: string): Promise<void> {
  const cell = formulaFor(page, label);
  await cell.click();
  await expect(cell).toBeFocused();
  await page.keyboard.press('Control+A');
  await page.keyboard.insertText(formula);
}

/** A row of the ledger, by the API name of its field. */
export function rowOf(page: Page, field: string): Locator {
  return page.locator(`tr[data-field="${field}"]`);
}
