/** Returns whether a name fits a pattern in which `*` stands for any characters; walks both once for each `*`, so that no pattern takes long. */
export function fits(name: string, pattern: string): boolean {
  const [head = '', ...parts] = pattern.split('*');
  if (parts.length === 0) return name === pattern;
  const tail = parts.pop() ?? '';
  if (!name.startsWith(head) || !name.endsWith(tail) || name.length < head.length + tail.length) return false;
  let at = head.length;
  const end = name.length - tail.length;
  for (const part of parts) {
    const found = name.indexOf(part, at);
    if (found < 0 || found + part.length > end) return false;
    at = found + part.length;
  }
  return true;
}
