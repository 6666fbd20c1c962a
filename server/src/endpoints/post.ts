import { request as send, type Dispatcher } from 'undici';
import { Webhook } from 'standardwebhooks';
import { refusedUrl } from '../connector/outbound';
import { storable } from '../db/storable';
import type { Endpoint } from './repository';

/** Of an answer so many bytes are kept. */
const keptAnswer = 4096;

interface Outbound {
  readonly dispatcher: Dispatcher;
  readonly allowedOutbound: readonly string[];
}

/** What a receiver answered to one try. */
export interface Answer {
  readonly status: number | null;
  readonly answer: string | null;
  readonly problem: string | null;
}

/** Signs and sends a body, as Standard Webhooks asks. Returns what the receiver answered. */
export async function postTo(
  { url, secret, former }: Endpoint,
  { id, body, at }: { readonly id: string; readonly body: string; readonly at: Date },
  { dispatcher, allowedOutbound }: Outbound,
): Promise<Answer> {
  const refused = refusedUrl(new URL(url), allowedOutbound);
  if (refused) return { status: null, answer: null, problem: refused };
  // Several signatures stand in one header with spaces between (Standard Webhooks, Signature scheme).
  const secrets = [secret, ...(former && former.until > at ? [former.secret] : [])];
  try {
    const response = await send(url, {
      method: 'POST',
      dispatcher,
      headers: {
        'content-type': 'application/cloudevents+json',
        'webhook-id': id,
        'webhook-timestamp': String(Math.floor(at.getTime() / 1000)),
        'webhook-signature': secrets.map((each) => new Webhook(each).sign(id, at, body)).join(' '),
      },
      body,
      signal: AbortSignal.timeout(15_000),
    });
    const answer = await firstOf(response.body);
    const { statusCode: status } = response;
    const taken = status >= 200 && status < 300;
    return { status, answer, problem: taken ? null : `The receiver answered ${status}.` };
  } catch (thrown) {
    const why = thrown instanceof Error ? thrown.message || thrown.name : String(thrown);
    return { status: null, answer: null, problem: `The receiver does not answer (${why}).` };
  }
}

/** Returns the beginning of an answer; the rest is not read. */
async function firstOf(body: AsyncIterable<Buffer>): Promise<string> {
  const chunks: Buffer[] = [];
  let size = 0;
  for await (const chunk of body) {
    chunks.push(chunk);
    size += chunk.length;
    if (size >= keptAnswer) break;
  }
  return storable(Buffer.concat(chunks).subarray(0, keptAnswer).toString('utf8'));
}
