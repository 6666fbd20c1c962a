import express, { type RequestHandler } from 'express';
import { jsonBody, refuseUnreadable } from './jsonBody';

/** Most names that one form sends. */
const mostNames = 2000;

/**
 * Reads the body of a request as JSON, or as a form encodes it (`application/x-www-form-urlencoded`, as the WHATWG URL Standard has it): names
 * that come several times have a list.
 */
export function formBody(limit: string | number): readonly RequestHandler[] {
  return [
    ...jsonBody(limit),
    express.text({
      type: 'application/x-www-form-urlencoded',
      limit,
      defaultCharset: 'utf-8',
    }),
    (request, _response, next) => {
      if (request.is('application/x-www-form-urlencoded') && typeof request.body === 'string') {
        request.body = decoded(request.body);
        refuseUnreadable(request.body);
      }
      next();
    },
  ];
}

function decoded(text: string): Readonly<Record<string, string | readonly string[]>> {
  const params = new URLSearchParams(text);
  const names = [...new Set(params.keys())].slice(0, mostNames + 1);
  return Object.fromEntries(
    names.map((name) => {
      const values = params.getAll(name);
      return [name, values.length === 1 ? (values[0] ?? '') : values];
    }),
  );
}
