/** A value that was another before: absent where there was, or is, none. Long ones are cut. */
export interface JsonChange {
  /** Where, as a JSON Pointer (RFC 6901). */
  readonly at: string;
  readonly before?: string;
  readonly after?: string;
}

const longestValue = 500;
const most = 100;

/** The changes between two states, and how many more there are than are told. */
export interface Differences {
  readonly changes: readonly JsonChange[];
  readonly more: number;
}

/** Returns what is other between two states of a thing that are JSON; undefined stands for there being none. */
export function jsonDifferences(before: unknown, after: unknown): Differences {
  const changes: JsonChange[] = [];
  collect(before, after, '', changes);
  return { changes: changes.slice(0, most), more: Math.max(0, changes.length - most) };
}

function collect(before: unknown, after: unknown, at: string, changes: JsonChange[]): void {
  if (isBranch(before) && isBranch(after) && Array.isArray(before) === Array.isArray(after)) {
    for (const name of new Set([...Object.keys(before), ...Object.keys(after)]))
      collect(
        before[name],
        after[name],
        `${at}/${name.replaceAll('~', '~0').replaceAll('/', '~1')}`,
        changes,
      );
    return;
  }
  const [was, is] = [told(before), told(after)];
  if (was === is) return;
  changes.push({
    at,
    ...(was !== undefined && { before: cut(was) }),
    ...(is !== undefined && { after: cut(is) }),
  });
}

function isBranch(value: unknown): value is Readonly<Record<string, unknown>> {
  return typeof value === 'object' && value !== null;
}

function told(value: unknown): string | undefined {
  if (value === undefined || value === null) return undefined;
  return typeof value === 'string' ? value : JSON.stringify(value);
}

function cut(text: string): string {
  return text.length > longestValue ? `${text.slice(0, longestValue).toWellFormed()}…` : text;
}
