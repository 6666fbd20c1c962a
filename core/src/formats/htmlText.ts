const escapes: Readonly<Record<string, string>> = {
  '&': '&amp;',
  '<': '&lt;',
  '>': '&gt;',
  '"': '&quot;',
  "'": '&#39;',
};

/** Returns a text as it stands in HTML, between tags or inside quotes. */
export function htmlText(value: string): string {
  return value.replaceAll(/[&<>"']/g, (character) => escapes[character] ?? character);
}
