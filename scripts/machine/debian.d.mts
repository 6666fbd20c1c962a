/** The types of `debian.mjs`. */
export function chromium(): Promise<string>;
