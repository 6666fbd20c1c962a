import { createHmac, randomBytes, timingSafeEqual } from 'node:crypto';
import { Webhook } from 'standardwebhooks';
import type { Signing } from '@vast-knot/core';

/** Returns a new secret with which messages are signed, as Standard Webhooks writes them. */
export const newSigningSecret = () => `whsec_${randomBytes(24).toString('base64')}`;

/** A message whose sender is to be known. */
export interface SignedMessage {
  readonly headers: Readonly<Record<string, string>>;
  readonly body: string;
  readonly now: Date;
}

/** Returns why a message is not from its system; undefined where it is. */
export function notSigned(signing: Signing, secret: string, message: SignedMessage): string | undefined {
  if (signing.kind === 'none') return undefined;
  if (secret === '') return 'This system has no signing secret yet.';
  switch (signing.kind) {
    case 'standard webhooks':
      return notStandard(secret, message);
    case 'hmac':
      return notHmac(signing, secret, message);
    case 'token':
      return notToken(signing, secret, message);
  }
}

function notStandard(secret: string, { headers, body }: SignedMessage): string | undefined {
  if (headers['webhook-signature'] === undefined)
    return 'The signature is missing (webhook-id, webhook-timestamp, webhook-signature).';
  try {
    new Webhook(secret).verify(body, headers, { jsonParse: false });
    return undefined;
  } catch (thrown) {
    // The package throws for every way in which a signature can be wrong.
    return `The signature is wrong: ${thrown instanceof Error ? thrown.message : String(thrown)}.`;
  }
}

function notHmac(
  { header, hash, encoding, prefix = '', signed, time }: Extract<Signing, { kind: 'hmac' }>,
  secret: string,
  { headers, body, now }: SignedMessage,
): string | undefined {
  const given = headers[header.toLowerCase()];
  if (given === undefined) return `The signature is missing (${header}).`;
  if (!given.startsWith(prefix)) return `The signature in ${header} does not begin with “${prefix}”.`;
  const sentAt = time && headers[time.header.toLowerCase()];
  if (time) {
    if (sentAt === undefined) return `The time of sending is missing (${time.header}).`;
    const at = /^\d{9,11}$/.test(sentAt) ? Number(sentAt) * 1000 : Date.parse(sentAt);
    if (Number.isNaN(at)) return `The time of sending in ${time.header} is not understood.`;
    if (Math.abs(now.getTime() - at) > time.seconds * 1000)
      return `It was sent more than ${time.seconds} seconds ago, or by a clock that is wrong.`;
  }
  // In this order, so that nothing in a body is filled in.
  const [before = '', after = ''] = signed.replaceAll('{time}', sentAt ?? '').split('{body}');
  const right = createHmac(hash, secret).update(before).update(body).update(after).digest(encoding);
  const asGiven = given.slice(prefix.length);
  return sameText(encoding === 'hex' ? asGiven.toLowerCase() : asGiven, right)
    ? undefined
    : `The signature in ${header} is wrong.`;
}

function notToken(
  { header, prefix = '' }: Extract<Signing, { kind: 'token' }>,
  secret: string,
  { headers }: SignedMessage,
): string | undefined {
  const given = headers[header.toLowerCase()];
  if (given === undefined) return `The token is missing (${header}).`;
  return sameText(given, prefix + secret) ? undefined : `The token in ${header} is wrong.`;
}

/** Compares in a time that tells nothing of where texts differ. */
function sameText(a: string, b: string): boolean {
  const digest = (text: string) => createHmac('sha256', 'compare').update(text).digest();
  return timingSafeEqual(digest(a), digest(b));
}
