import { printPart, readPart, type RulePart } from '@vast-knot/core';
import { tell, tellTrouble } from '../../parts/toast';

/** Where the part that was copied last is kept, so that it can be pasted in another rule where the browser keeps the clipboard to itself. */
const key = 'vast-knot copied part';

/** Copies a part of a rule, for the clipboard and for “Paste”. */
export function copyPart(part: RulePart | undefined, called: string): void {
  if (!part) return;
  const text = printPart(part);
  keepCopied(text);
  const done = () => tell(`Copied ${called}. Paste it into this rule or another with Ctrl+V, or below.`);
  // Without the clipboard it can still be pasted within this window.
  navigator.clipboard.writeText(text).then(done, done);
}

export function keepCopied(text: string): void {
  try {
    sessionStorage.setItem(key, text);
  } catch {
    tellTrouble('The browser keeps nothing for this page; what was copied can be pasted with Ctrl+V alone.');
  }
}

/** Returns the part that was copied last in this window. */
export function copiedPart(): RulePart | undefined {
  const read = readPart(sessionStorage.getItem(key) ?? '');
  return typeof read === 'string' ? undefined : read;
}
