import Joi from 'joi';
import LinkHeader from 'http-link-header';
import { limitParameter, limitSchema, type PageLimit, type PagingStyle } from './paging';

/** A `Link` header names the next page (RFC 8288). */
export interface LinkPaging {
  readonly kind: 'link';
  readonly limit?: PageLimit;
}

export const link: PagingStyle<LinkPaging> = {
  kind: 'link',
  label: 'by a Link header',
  meaning: 'The header “Link” of a page names the address of the next one, with rel="next" (RFC 8288).',
  ownAddress: true,
  schema: Joi.object<LinkPaging>({ kind: Joi.valid('link').required(), limit: limitSchema }),
  parameters: ({ limit }, asked) => limitParameter(limit, asked.limit),
  next: (_paging, { headers }) => {
    const text = headers['link'];
    if (text === undefined) return null;
    try {
      return LinkHeader.parse(text).rel('next')[0]?.uri ?? null;
    } catch {
      // A header that is no list of links names no next page.
      return null;
    }
  },
};
