import { Webhook } from 'standardwebhooks';
import { sameSecret } from '../kit/api';
import type { Application, Document, Received } from '../kit/definition';
import { noticePostRecords } from './definition';

/** Where notices of other programs are received; what arrived can be listed, and whether its signature was right. */
export const noticePost: Application = {
  dialect: {
    name: 'notice-post',
    title: 'Notice Post',
    base: '/post',
    versionField: 'version',
    updatedField: 'received_at',
    auth: {
      header: 'X-Post-Key',
      accepts: (value, token) => sameSecret(value, token),
      scheme: { type: 'apiKey', in: 'header', name: 'X-Post-Key' },
    },
    list: {
      limit: 'limit',
      cursor: 'cursor',
      search: 'q',
      filters: (query) =>
        new Map(
          Object.entries(query)
            .filter(([name]) => !['limit', 'cursor', 'q'].includes(name))
            .map(([name, value]) => [name, [value].flat().map(String)]),
        ),
      filterDoc: { name: 'type', in: 'query', schema: { type: 'string' } },
      body: (items, next) => ({ messages: items, next }),
    },
    bulk: {
      method: 'patch',
      path: (records) => records,
      items: () => 'Messages stay as they arrived.',
      body: () => ({}),
      itemDoc: {},
    },
    events: {
      mode: 'structured',
      type: (recordType, kind) => `notice-post.${recordType}.${kind}`,
      data: (record) => ({ record }),
    },
  },
  records: noticePostRecords,
  seed: () => new Map(),
  receiver: { path: '/inbox', recordType: 'message', read: readNotice },
};

/** Keeps a message as a record; one whose signature is wrong is kept too, and answered with 401. */
function readNotice(
  { headers, body }: Received,
  secret: string,
): { readonly doc: Document; readonly taken: boolean } {
  const signature = verify(headers, body, secret);
  const { type, subject, id, data } = parsed(body);
  return {
    taken: signature === 'right',
    doc: {
      messageId: String(headers['webhook-id'] ?? id ?? '').slice(0, 80),
      about: String(subject ?? 'nothing that could be read').slice(0, 200),
      type: String(type ?? '').slice(0, 120),
      signature: signature.slice(0, 200),
      text: JSON.stringify(data ?? null).slice(0, 4000),
    },
  };
}

function verify(headers: Received['headers'], body: string, secret: string): string {
  try {
    new Webhook(secret).verify(body, headers, { jsonParse: false });
    return 'right';
  } catch (thrown) {
    // The package throws for every way in which a signature can be wrong.
    return `wrong: ${thrown instanceof Error ? thrown.message : String(thrown)}`;
  }
}

function parsed(body: string): Record<string, unknown> {
  try {
    const value: unknown = JSON.parse(body);
    return typeof value === 'object' && value !== null ? (value as Record<string, unknown>) : {};
  } catch {
    // What is no JSON is kept as a message about nothing that could be read.
    return {};
  }
}
