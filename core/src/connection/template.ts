/** Returns a template in which `{name}` is the value of that name; names without a value stay. */
export function fill(template: string, values: Readonly<Record<string, string>>): string {
  return template.replace(/\{(\w+)\}/g, (whole, name: string) =>
    Object.hasOwn(values, name) ? (values[name] ?? whole) : whole,
  );
}

/** What stands in the path of one record, in a template. */
export interface PathParts {
  /** The path of the record type, as the connection has it. */
  readonly path: string;
  readonly id?: string;
  /** The version of the record, where it is part of the address. */
  readonly version?: string;
}

/**
 * Returns the path of a template for a record, its id encoded (RFC 3986, 2.1). Undefined where it would lead somewhere else: a blank id
 * would leave the list, and a segment that is `.` or `..` is taken out of every address, however it is written (WHATWG URL, 4.1).
 */
export function fillPath(template: string, { path, id, version }: PathParts): string | undefined {
  if (id === '' || id?.isWellFormed() === false) return undefined;
  const filled = fill(template.replaceAll('{path}', path), {
    ...(id !== undefined && { id: encodeURIComponent(id) }),
    ...(version !== undefined && { version: encodeURIComponent(version) }),
  });
  const [way = ''] = filled.split('?');
  return id !== undefined && way.split('/').some((segment) => segment === '.' || segment === '..')
    ? undefined
    : filled;
}

/** Returns a JSON value in whose texts the names in braces are filled in. */
export function fillAll<T>(body: T, values: Readonly<Record<string, string>>): T {
  if (typeof body === 'string') return fill(body, values) as T;
  if (Array.isArray(body)) return body.map((each: unknown) => fillAll(each, values)) as T;
  if (typeof body !== 'object' || body === null) return body;
  return Object.fromEntries(
    Object.entries(body).map(([name, value]) => [name, fillAll(value as unknown, values)]),
  ) as T;
}

/** Returns a text whose escaped characters are read (RFC 3986, 2.1); undefined where a percent sign escapes nothing. */
export function decoded(text: string): string | undefined {
  try {
    return decodeURIComponent(text);
  } catch {
    return undefined;
  }
}
