/** Returns whether text is typed where an event happened, so that copying and pasting mean that text. */
export function takesText(target: EventTarget | null): boolean {
  if (!(target instanceof HTMLElement)) return false;
  if (target instanceof HTMLInputElement) return target.type !== 'checkbox' && target.type !== 'radio';
  return target instanceof HTMLTextAreaElement || target.isContentEditable;
}

/** Returns whether keys go into a text at the moment, so that letters are no commands. */
export function isTyping(target: EventTarget | null): boolean {
  return (
    target instanceof HTMLElement &&
    (target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName))
  );
}
