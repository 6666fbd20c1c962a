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

/** Pastes text where the focus is, as if it came from another program. */
export async function pasteText(page: Page, text: string): Promise<void> {
  // What runs in the page is given as text: the types of the browser are not those of the tests.
  await page.evaluate(`{
    const data = new DataTransfer();
    data.setData('text/plain', ${JSON.stringify(text)});
    const event = new ClipboardEvent('paste', { clipboardData: data, bubbles: true, cancelable: true });
    (document.activeElement ?? document).dispatchEvent(event);
  }`);
}

/** Drags as a hand does: past the point from which it counts as dragging, and over the target before letting go. */
export async function drag(page: Page, from: Locator, to: Locator): Promise<void> {
  // Near an edge the sheet would scroll by itself while something is dragged.
  await to.evaluate((element) => element.scrollIntoView({ block: 'center' }));
  const [start, end] = [await from.boundingBox(), await to.boundingBox()];
  if (!start || !end) throw new Error('There is nothing to drag, or nothing to drag it to.');
  await page.mouse.move(start.x + start.width / 2, start.y + start.height / 2);
  await page.mouse.down();
  await page.mouse.move(end.x + end.width / 3, end.y + end.height / 2, { steps: 12 });
  await page.waitForTimeout(100);
  await page.mouse.up();
}
