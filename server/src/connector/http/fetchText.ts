import { request as send, type Dispatcher } from 'undici';
import { refusedUrl } from '../outbound';
import { readBody } from './answerBody';
import { singleHeaders } from './singleHeaders';

/** A text that was fetched, or why not. */
export type FetchedText =
  | {
      readonly ok: true;
      readonly text: string;
      readonly headers: Readonly<Record<string, string>>;
      /** Where it was found in the end. */
      readonly address: string;
    }
  | { readonly ok: false; readonly because: string };

/** How outside addresses are reached. */
export interface FetchParts {
  readonly dispatcher: Dispatcher;
  readonly allowedOutbound: readonly string[];
  readonly headers?: Readonly<Record<string, string>>;
}

const mostRedirects = 3;
const patienceMs = 20_000;

/** Fetches a document from an address that a person typed: through the guarded agent, and on to the same origin three times at most. */
export async function fetchText(address: string, parts: FetchParts): Promise<FetchedText> {
  if (!URL.canParse(address)) return { ok: false, because: `“${address.slice(0, 200)}” is no address.` };
  const signal = AbortSignal.timeout(patienceMs);
  let url = new URL(address);
  const { origin } = url;
  for (let redirects = 0; ; redirects++) {
    const refused = refusedUrl(url, parts.allowedOutbound);
    if (refused) return { ok: false, because: `It cannot be reached: ${refused}` };
    try {
      const { statusCode, headers, body } = await send(url, {
        dispatcher: parts.dispatcher,
        headers: { accept: 'application/json, application/yaml;q=0.9, */*;q=0.5', ...parts.headers },
        signal,
      });
      const told = singleHeaders(headers);
      const read = await readBody(body, told);
      const { location } = told;
      if (statusCode >= 300 && statusCode < 400 && location !== undefined) {
        if (redirects === mostRedirects)
          return {
            ok: false,
            because: `It sends on from one address to the next more than ${mostRedirects} times.`,
          };
        if (!URL.canParse(location, url.href))
          return { ok: false, because: `It sends on to “${location.slice(0, 200)}”.` };
        url = new URL(location, url);
        if (url.origin !== origin)
          return { ok: false, because: `It sends on to ${url.origin}. If that is meant, give that address.` };
        continue;
      }
      if (read.is === 'too large') return { ok: false, because: 'It is larger than 32 MB.' };
      if (statusCode < 200 || statusCode >= 300)
        return { ok: false, because: `${url.host} answered ${statusCode}.` };
      return { ok: true, text: read.text, headers: told, address: url.href };
    } catch (thrown) {
      const why = thrown instanceof Error ? thrown.message || thrown.name : String(thrown);
      const waited = signal.aborted ? `nothing came within ${patienceMs / 1000} seconds` : why;
      return { ok: false, because: `${url.host} does not answer (${waited}).` };
    }
  }
}
