/** Returns the key of something new: after its name, or `otherwise` where that has no letters, and none that there is. */
export function keyFor(name: string, otherwise: string, known: readonly { readonly key: string }[]): string {
  const base =
    name
      .normalize('NFKD')
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, '-')
      .replace(/^[^a-z]+|-+$/g, '')
      .slice(0, 34) || otherwise;
  const taken = (key: string) => known.some((each) => each.key === key);
  let key = base;
  for (let at = 2; taken(key); at++) key = `${base}-${at}`;
  return key;
}
