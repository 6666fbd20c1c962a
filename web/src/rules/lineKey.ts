/** A line of the sheet, as addresses and the cursor know it: the place of the action and the path of the field. */
interface LineKey {
  readonly action: number;
  readonly field: string;
}

/** Returns a line from an address: `0/address.town`. */
export function parseLineKey(text: string): LineKey {
  const slash = text.indexOf('/');
  return { action: Number(text.slice(0, Math.max(0, slash))) || 0, field: text.slice(slash + 1) };
}

/** Returns a line as it stands in an address. */
export function printLineKey({ action, field }: LineKey): string {
  return `${action}/${field}`;
}
