import type { Request, Response } from 'express';
import type { AuditEntry } from '@vast-knot/core';
import { append, beginAct, endAct, ended, forgetAct, type Begun } from '../audit/chain';
import type { Pool } from '../db/pool';
import { HttpProblem } from '../http/problem';
import type { Audited } from './audited';
import type { Handle } from './route';

/** Returns who asks for something, as the audit says it. */
export function whoOf(
  request: Pick<Request, 'person' | 'ip'>,
): Pick<AuditEntry, 'at' | 'person' | 'token' | 'from'> {
  const { person, ip = '' } = request;
  return {
    at: new Date().toISOString(),
    person: person?.name ?? '',
    ...(person?.token !== undefined && { token: person.token }),
    from: ip,
  };
}

/**
 * Returns the handler of an address with what the audit says of it. How the thing stands is noted before it is touched and read again after
 * that, so that an end of the process in between leaves who began what. What changed nothing, because it was refused as it was asked for,
 * leaves nothing.
 */
export function acting({ what, thing, said }: Audited, handle: Handle): Handle {
  return async (request, response, parts) => {
    const named = (request.params as Readonly<Record<string, string>>)[thing.param ?? ''] ?? '';
    const before = await thing.read?.(parts, named);
    const begun: Begun = { ...whoOf(request), what, kind: thing.kind, key: named };
    const id = await beginAct(parts.pool, begun, before);
    const answer = heard(response);
    try {
      await handle(request, response, parts);
    } catch (thrown) {
      if (thrown instanceof HttpProblem && thrown.status === 403)
        await tellRefused(
          parts.pool,
          request,
          `${request.method.toLowerCase()} ${request.path}`,
          thrown.detail,
        );
      if (thrown instanceof HttpProblem || isProblem(thrown)) await forgetAct(parts.pool, id);
      else
        await endAct(
          parts.pool,
          id,
          ended(begun, { result: 'failed', because: 'It failed on the server.' }, before, before),
        );
      throw thrown;
    }
    const key = named === '' && thing.param !== undefined ? madeKey(answer.body, thing.param) : named;
    const after = await thing.read?.(parts, key);
    const because = said?.(request);
    const rest = { result: 'done', ...(because !== undefined && { because }) } as const;
    const name = nameIn(after) ?? nameIn(before);
    await endAct(
      parts.pool,
      id,
      ended({ ...begun, key, ...(name !== undefined && { name }) }, rest, before, after),
    );
  };
}

/** Hears what a handler answers with: what it made has a key of its own. */
function heard(response: Response): { body: unknown } {
  const answer: { body: unknown } = { body: undefined };
  const json = response.json.bind(response);
  response.json = (body: unknown) => {
    answer.body = body;
    return json(body);
  };
  return answer;
}

/** Failures of systems and of the database are told as problems too. */
function isProblem(thrown: unknown): boolean {
  return (
    typeof thrown === 'object' &&
    thrown !== null &&
    ('problem' in thrown || ('status' in thrown && Number(thrown.status) < 500))
  );
}

function madeKey(body: unknown, param: string): string {
  if (typeof body !== 'object' || body === null) return '';
  const members = body as Readonly<Record<string, unknown>>;
  const key = members[param] ?? members['id'] ?? members['key'] ?? members['name'];
  return typeof key === 'string' || typeof key === 'number' ? String(key) : '';
}

function nameIn(state: unknown): string | undefined {
  if (typeof state !== 'object' || state === null || !('name' in state)) return undefined;
  return typeof state.name === 'string' ? state.name : undefined;
}

/** Of those who are refused again and again, so many are written down in a minute: one who tries everything does not fill the audit. */
const mostRefused = 20;
const refusedLately = new Map<string, { count: number; until: number }>();

/** Appends that somebody was not let do something. */
export async function tellRefused(
  pool: Pool,
  request: Request,
  address: string,
  because: string,
): Promise<void> {
  const who = whoOf(request);
  const lately = refusedLately.get(who.person);
  const now = Date.now();
  const counted = lately && lately.until > now ? lately : { count: 0, until: now + 60_000 };
  refusedLately.set(who.person, counted);
  if (++counted.count > mostRefused) return;
  await append(pool, {
    ...who,
    what: 'was not let',
    kind: 'address',
    key: address,
    result: 'refused',
    because,
    changes: [],
  });
}
