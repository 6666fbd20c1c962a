import { DatabaseError } from 'pg';
import type { Problem } from '@vast-knot/core';

/** What a statement that failed means, in our words; `away` where the database itself is not there. */
export interface SqlProblem {
  readonly code: Problem['code'];
  readonly because: string;
  readonly away: boolean;
}

/**
 * Returns what an error of a statement means, by its SQLSTATE (PostgreSQL's documentation, appendix A). What has none came from the line
 * and not from the database.
 */
export function sqlProblem(thrown: unknown): SqlProblem {
  if (!(thrown instanceof DatabaseError))
    return {
      code: 'unavailable',
      because: messageOf(thrown),
      away: true,
    };
  const { code = '', message, detail } = thrown;
  const whole = detail === undefined ? message : `${message}. ${detail.replace(/\.$/, '')}`;
  const refused = { code: 'refused', because: whole, away: false } as const;
  if (code === '57014') return { code: 'unavailable', because: 'it took too long', away: true };
  // Failures of the connection, of its resources, and an operator who intervenes.
  if (/^(08|53|57P|58|XX)/.test(code)) return { code: 'unavailable', because: message, away: true };
  if (/^(40|55P03)/.test(code)) return { code: 'unavailable', because: message, away: false };
  if (/^28|^3D000/.test(code)) return { ...refused, because: `it cannot be signed in to: ${message}` };
  if (code === '42501') return { ...refused, because: `its user may not do that: ${message}` };
  if (/^(42P01|42703|3F000)/.test(code))
    return { ...refused, because: `it is not as its connection describes: ${message}` };
  return refused;
}

/** What goes wrong below the line may come from another realm, and is told by its message all the same. */
function messageOf(thrown: unknown): string {
  const message: unknown = Object(thrown)['message'];
  return typeof message === 'string' && message !== '' ? message : String(thrown);
}

/** Values that the type of a column cannot hold: nothing is equal to them. */
export function isUnfitting(thrown: unknown): boolean {
  return thrown instanceof DatabaseError && /^22/.test(thrown.code ?? '');
}
