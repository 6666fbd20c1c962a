/** Returns headers with their names in small letters, each with one value: those that came several times stand in one list (RFC 9110, 5.3). */
export function singleHeaders(
  headers: Readonly<Record<string, string | string[] | undefined>>,
): Record<string, string> {
  return Object.fromEntries(
    Object.entries(headers).flatMap(([name, value]) =>
      value === undefined ? [] : [[name.toLowerCase(), Array.isArray(value) ? value.join(', ') : value]],
    ),
  );
}
