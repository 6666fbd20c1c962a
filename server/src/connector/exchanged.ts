/** A request that was made, and what came back: as it went over the wire. What was sent to sign in is left out of it. */
export interface Exchanged {
  readonly at: string;
  readonly method: string;
  readonly url: string;
  /** What a database was asked, as SQL; its values are the body. */
  readonly statement?: string;
  readonly requestHeaders: Readonly<Record<string, string>>;
  readonly requestBody: string;
  /** Undefined where no answer came. */
  readonly status: number | undefined;
  /** Rows that a statement gave or changed. */
  readonly rows?: number;
  readonly answerHeaders: Readonly<Record<string, string>>;
  readonly answerBody: string;
  readonly milliseconds: number;
  /** Why there was no answer, or why it could not be read; blank where all went well. */
  readonly problem: string;
}

/** What stands where a secret was. */
export const hidden = '•••';

/** An exchange as whoever watches hears of it, with the secret that may stand in it still. */
export interface WatchedExchange {
  readonly exchanged: Exchanged;
  readonly secret: string;
}

/** Shorter secrets would be found in everything. */
const shortestSecret = 6;

/**
 * Returns an exchange to be shown. Systems repeat what they were asked with, in addresses of next pages or in what they say of a mistake;
 * so the secret is looked for everywhere.
 */
export function withoutSecret({ exchanged, secret }: WatchedExchange): Exchanged {
  if (secret.length < shortestSecret) return exchanged;
  const without = (text: string) =>
    text.replaceAll(secret, hidden).replaceAll(encodeURIComponent(secret), hidden);
  const inAll = (texts: Readonly<Record<string, string>>) =>
    Object.fromEntries(Object.entries(texts).map(([name, text]) => [name, without(text)]));
  return {
    ...exchanged,
    url: without(exchanged.url),
    requestHeaders: inAll(exchanged.requestHeaders),
    requestBody: without(exchanged.requestBody),
    answerHeaders: inAll(exchanged.answerHeaders),
    answerBody: without(exchanged.answerBody),
    problem: without(exchanged.problem),
  };
}
