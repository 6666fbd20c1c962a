import type { applications } from '../standins/src/index';

export type Application = keyof typeof applications;

/** How each stand-in wants to be told the token. */
export const authOf: Readonly<Record<Application, (token: string) => Readonly<Record<string, string>>>> = {
  'customer-book': (token) => ({ authorization: `Bearer ${token}` }),
  'freight-desk': (token) => ({ 'x-desk-key': token }),
  'fleet-log': (token) => ({ 'log-pass': token }),
  'yard-planner': (token) => ({ authorization: `Key ${token}` }),
  'notice-post': (token) => ({ 'x-post-key': token }),
};
