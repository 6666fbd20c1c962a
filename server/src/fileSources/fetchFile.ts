import { request as send, type Dispatcher } from 'undici';
import { refusedUrl } from '../connector/outbound';
import { singleHeaders } from '../connector/http/singleHeaders';

/** A file at an address, or why there is none. */
export type FetchedFile =
  | {
      readonly is: 'file';
      readonly name: string;
      readonly tag: string;
      readonly body: AsyncIterable<Uint8Array>;
    }
  /** It is the one that was fetched before (RFC 9110, 15.4.5). */
  | { readonly is: 'unchanged' }
  | { readonly is: 'not there'; readonly because: string };

interface FetchParts {
  readonly dispatcher: Dispatcher;
  readonly allowedOutbound: readonly string[];
}

/** The first byte is to come in so long, and all of it in so long. */
const [patienceMs, longestMs] = [30_000, 600_000];

/** Addresses that lead on to others are followed so often. */
const mostSteps = 5;
/** Answers that lead on with the same request (RFC 9110, 15.4); 303 leads to something else than the file. */
const leadsOn: ReadonlySet<number> = new Set([301, 302, 307, 308]);

interface Wanted {
  readonly headers: Readonly<Record<string, string>>;
  /** That of the file that was fetched before. */
  readonly tag: string | undefined;
}

/**
 * Begins to fetch a file. An address that leads on is followed, each one checked like the first; what the header carries is for the first
 * origin alone, and nothing goes from a secure address to one that is not.
 */
export async function fetchFile(
  address: string,
  wanted: Wanted,
  parts: FetchParts,
  steps = mostSteps,
): Promise<FetchedFile> {
  const { headers, tag } = wanted;
  const { dispatcher, allowedOutbound } = parts;
  const url = new URL(address);
  const refused = refusedUrl(url, allowedOutbound);
  if (refused) return { is: 'not there', because: `It cannot be reached: ${refused}` };
  try {
    const {
      statusCode,
      headers: answered,
      body,
    } = await send(url, {
      dispatcher,
      headers: { accept: '*/*', ...(tag !== undefined && { 'if-none-match': tag }), ...headers },
      headersTimeout: patienceMs,
      bodyTimeout: patienceMs,
      signal: AbortSignal.timeout(longestMs),
    });
    const told = singleHeaders(answered);
    if (statusCode === 200)
      return { is: 'file', name: nameOf(url, told['content-disposition']), tag: told['etag'] ?? '', body };
    await body.dump();
    if (statusCode === 304) return { is: 'unchanged' };
    const place = told['location'];
    if (leadsOn.has(statusCode) && place !== undefined && URL.canParse(place, url.href)) {
      const next = new URL(place, url);
      if (url.protocol === 'https:' && next.protocol !== 'https:')
        return { is: 'not there', because: `${url.host} leads to ${next.host}, which is not secure.` };
      if (steps === 0)
        return { is: 'not there', because: `${url.host} leads on, more than ${mostSteps} times.` };
      const own = next.origin === url.origin;
      return await fetchFile(next.href, own ? wanted : { headers: {}, tag }, parts, steps - 1);
    }
    return { is: 'not there', because: `${url.host} answered ${statusCode}.` };
  } catch (thrown) {
    const why = thrown instanceof Error ? thrown.message || thrown.name : String(thrown);
    return { is: 'not there', because: `${url.host} does not answer (${why}).` };
  }
}

/** Returns what a file is called: as its answer says (RFC 6266), or by the end of its address. */
function nameOf(url: URL, disposition: string | undefined): string {
  const said = /filename="?([^";]+)"?/i.exec(disposition ?? '')?.[1];
  const end = url.pathname
    .split('/')
    .filter((step) => step !== '')
    .at(-1);
  const name = (said ?? end ?? 'file').split(/[/\\]/).at(-1) ?? 'file';
  return (
    name
      .toWellFormed()
      .replaceAll(/\p{Cc}/gu, '')
      .trim()
      .slice(0, 200) || 'file'
  );
}
