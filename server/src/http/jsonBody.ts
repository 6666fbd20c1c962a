import express, { type RequestHandler } from 'express';
import { parseJson } from '@vast-knot/core';
import { HttpProblem } from './problem';
import { unreadableIn } from './wellFormed';

/** Reads the body of a request as JSON, and keeps the digits of its numbers. Throws an HttpProblem where it is none. */
export function jsonBody(limit: string | number): readonly RequestHandler[] {
  return [
    express.text({ type: 'application/json', limit, defaultCharset: 'utf-8' }),
    (request, _response, next) => {
      const text: unknown = request.body;
      if (typeof text === 'string') request.body = text.trim() === '' ? undefined : parsedBody(text);
      refuseUnreadable(request.body);
      next();
    },
  ];
}

/** Throws a 422 where something in a body cannot be kept. */
export function refuseUnreadable(body: unknown): void {
  const unreadable = unreadableIn(body);
  if (!unreadable) return;
  const { at, because } = unreadable;
  const detail = `${at === '' ? 'The body' : at} ${because}.`;
  throw new HttpProblem(422, 'Not valid', detail, [{ at, message: because }]);
}

function parsedBody(text: string): unknown {
  try {
    return parseJson(text);
  } catch (thrown) {
    const why = thrown instanceof Error ? thrown.message : 'it cannot be read';
    throw new HttpProblem(400, 'Not JSON', `The body is not JSON: ${why}.`);
  }
}
