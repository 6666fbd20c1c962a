type Parameters = Readonly<Record<string, string>>;

/** Parameters as they are typed: `include=all&since={since}`, as they stand in an address but for what would be escaped there. */
export function parametersText(parameters: Parameters = {}): string {
  return Object.entries(parameters)
    .map(([name, value]) => `${name}=${value}`)
    .join('&');
}

/** Reads parameters as they are typed. */
export function readParameters(text: string): Parameters {
  return Object.fromEntries(
    text
      .split('&')
      .filter((part) => part.trim() !== '')
      .map((part) => {
        const at = part.indexOf('=');
        return at === -1 ? [part.trim(), ''] : [part.slice(0, at).trim(), part.slice(at + 1).trim()];
      }),
  );
}
