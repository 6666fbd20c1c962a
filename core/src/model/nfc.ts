/** Returns text in Unicode normalisation form C; plain ASCII is passed through without work. */
export function nfc(text: string): string {
  // Most text is ASCII, which has one form; a loop says so faster than a pattern does.
  for (let at = 0; at < text.length; at++) if (text.charCodeAt(at) > 0x7f) return text.normalize('NFC');
  return text;
}

/** The first character that can become one with the character before it: combining marks begin here. */
const firstCombining = 0x300;

/** Returns two texts in form C as one text in form C. */
export function joinNfc(a: string, b: string): string {
  return b.charCodeAt(0) >= firstCombining ? (a + b).normalize('NFC') : a + b;
}
