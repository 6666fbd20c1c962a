import { createHmac } from 'node:crypto';
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

/** What is sent: the text of a message, or the bytes of a file with what they are. */
export interface Sent {
  readonly id: string;
  readonly at: Date;
  readonly body: string | Uint8Array;
  readonly mediaType?: string;
  /** What a file is called. */
  readonly name?: string;
}

/** Signs and sends a body, as Standard Webhooks asks. Returns what the receiver answered. */
export async function postTo(
  { url, secret, former }: Endpoint,
  { id, body, at, mediaType = 'application/cloudevents+json', name }: Sent,
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
        'content-type': mediaType,
        ...(name !== undefined && { 'content-disposition': `attachment; filename*=UTF-8''${encoded(name)}` }),
        'webhook-id': id,
        'webhook-timestamp': String(Math.floor(at.getTime() / 1000)),
        'webhook-signature': secrets.map((each) => signature(each, { id, at, body })).join(' '),
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

/** Returns a text as the value of a header's parameter (RFC 8187, section 3.2.1). */
function encoded(text: string): string {
  return encodeURIComponent(text).replace(
    /['()*]/g,
    (sign) => `%${sign.charCodeAt(0).toString(16).toUpperCase()}`,
  );
}

/** Signs text and bytes alike (Standard Webhooks, Signature scheme: HMAC-SHA256 over id, time stamp and body with points between). */
function signature(secret: string, { id, at, body }: Pick<Sent, 'id' | 'at' | 'body'>): string {
  if (typeof body === 'string') return new Webhook(secret).sign(id, at, body);
  const key = Buffer.from(secret.replace(/^whsec_/, ''), 'base64');
  const stamped = createHmac('sha256', key).update(`${id}.${Math.floor(at.getTime() / 1000)}.`);
  return `v1,${stamped.update(body).digest('base64')}`;
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
