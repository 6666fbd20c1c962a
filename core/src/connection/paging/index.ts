import { schemaOfFamily } from '../style';
import { address, type AddressPaging } from './address';
import { cursor, type CursorPaging } from './cursor';
import { lastRecord, type LastRecordPaging } from './lastRecord';
import { link, type LinkPaging } from './link';
import { offset, type OffsetPaging } from './offset';
import { page, type NumberedPaging } from './page';
import type { PageLimit, PagingStyle } from './paging';
import { whole, type NoPaging } from './whole';

export type { PageAnswer, PageAsked, PageLimit } from './paging';

/** How a long list is given. */
export type Paging =
  CursorPaging | NumberedPaging | OffsetPaging | LinkPaging | AddressPaging | LastRecordPaging | NoPaging;

/** The styles of paging, in the order in which they are offered. */
export const pagings = [
  cursor,
  page,
  offset,
  link,
  address,
  lastRecord,
  whole,
] as unknown as readonly PagingStyle<Paging>[];

export const pagingSchema = schemaOfFamily(pagings);

/** Returns the style of a paging. */
export function pagingStyle(paging: Paging): PagingStyle<Paging> {
  return pagings.find(({ kind }) => kind === paging.kind) ?? (whole as unknown as PagingStyle<Paging>);
}

/** Returns how many records a page may have. */
export function limitOf(paging: Paging): PageLimit | undefined {
  return 'limit' in paging ? paging.limit : undefined;
}
