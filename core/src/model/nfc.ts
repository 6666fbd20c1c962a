// eslint-disable-next-line no-control-regex -- the ASCII range is what is meant
const ascii = /^[\x00-\x7f]*$/;

/** Returns text in Unicode normalisation form C; plain ASCII is passed through without work. */
export function nfc(text: string): string {
  return ascii.test(text) ? text : text.normalize('NFC');
}
