// eslint-disable-next-line no-control-regex -- the ASCII range is what is meant
const ascii = /^[\x00-\x7f]*$/;

/** Returns text in Unicode normalisation form C; plain ASCII is passed through without work. */
export function nfc(text: string): string {
  return ascii.test(text) ? text : text.normalize('NFC');
}

/** The first character that can become one with the character before it: combining marks begin here. */
const firstCombining = 0x300;

/** Returns two texts in form C as one text in form C. */
export function joinNfc(a: string, b: string): string {
  return b.charCodeAt(0) >= firstCombining ? (a + b).normalize('NFC') : a + b;
}
