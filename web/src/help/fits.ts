/** Whether any of some texts has what is looked for, which is in small letters; everything has nothing. */
export function fits(texts: readonly string[], wanted: string): boolean {
  return wanted === '' || texts.some((text) => text.toLowerCase().includes(wanted));
}
