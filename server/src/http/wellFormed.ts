import type { RequestHandler } from 'express';
import { HttpProblem } from './problem';

/** Nothing that people write is nested deeper; what is, is made to exhaust a program. */
export const deepest = 100;

/** A place in JSON where something stands that cannot be kept, and what that is. */
export interface Unreadable {
  /** The names on the way, with slashes: `rule/actions/0`. */
  readonly at: string;
  readonly because: string;
}

/**
 * Returns the first place in JSON that cannot be kept: text with a NUL, which PostgreSQL does not take, or with half of a surrogate pair, which
 * is no Unicode; or what is nested too deep. Undefined where there is none.
 */
export function unreadableIn(json: unknown): Unreadable | undefined {
  const left: { readonly value: unknown; readonly path: readonly string[] }[] = [{ value: json, path: [] }];
  for (let next = left.pop(); next; next = left.pop()) {
    const { value, path } = next;
    const at = path.map((name) => name.slice(0, 80).toWellFormed().replaceAll('\0', '\ufffd')).join('/');
    const because = typeof value === 'string' ? textProblem(value) : undefined;
    if (because !== undefined) return { at, because };
    if (typeof value !== 'object' || value === null) continue;
    if (path.length >= deepest) return { at, because: `is nested deeper than ${deepest}` };
    for (const [name, member] of Object.entries(value)) {
      const wrongName = textProblem(name);
      if (wrongName !== undefined) return { at, because: `has a name that ${wrongName}` };
      left.push({ value: member, path: [...path, name] });
    }
  }
  return undefined;
}

function textProblem(text: string): string | undefined {
  if (text.includes('\0')) return 'holds the character NUL, which is no text';
  return text.isWellFormed() ? undefined : 'holds half of a character, which is no text';
}

/** Refuses an address that holds the character NUL, before anything reads it. */
export const wellFormedAddress: RequestHandler = (request, _response, next) => {
  if (/%00|\0/.test(request.url))
    throw new HttpProblem(400, 'Not understood', 'The address holds the character NUL, which is no text.');
  next();
};
