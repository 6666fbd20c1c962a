import type { Filter, Paging, PageLimit } from '../../connection';
import type { JsonObject } from '../../model/json';
import type { Field } from '../../model/system';
import type { Reason } from '../proposal';
import { plainName, wordsOf } from '../words';
import type { AnswerOf, Parameter } from './document';
import type { RecordsIn } from './lists';

/** Names of parameters and members as many APIs have them (common practice, no source). */
const names = {
  size: /^(per page|page size|limit|size|page limit|max results?|take|count|top|first|maxitems|page length)$/,
  cursor:
    /^(cursor|page token|next token|continuation( token)?|after|starting after|page cursor|start cursor|next cursor|marker|bookmark|page after|scroll id)$/,
  page: /^(page|page number|p|current page|page no|page index)$/,
  offset: /^(offset|skip|start|start index|from|page offset)$/,
  nextCursor:
    /^(next cursor|next page token|next token|next|continuation( token)?|after|cursor|end cursor|bookmark|marker|scroll id)$/,
  nextAddress: /^(next|next link|next url|next page( url)?|odata next link)$/,
  total: /^(total|total count|total results?|total items?|total records?|count|total row|total element)$/,
  search: /^(q|query|search|search text|keyword|text|term)$/,
};

const spoken = (name: string) => wordsOf(name).join(' ').toLowerCase();

/** What a list is asked with, and why. */
export interface Asking {
  readonly paging: Paging;
  readonly filter: Filter;
  readonly search: string | undefined;
  readonly total: string | undefined;
  readonly totalHeader: string | undefined;
  readonly reasons: readonly Reason[];
}

/** Proposes how a list is paged, filtered and searched, from its parameters and what its answer holds beside the records. */
export function askingOf(
  parameters: readonly Parameter[],
  answer: AnswerOf,
  records: RecordsIn,
  fields: readonly Field[],
): Asking {
  const asked = parameters.filter((each) => each.in === 'query');
  const called = (pattern: RegExp) => asked.find(({ name }) => pattern.test(spoken(name)));
  const beside = (pattern: RegExp, fits: (schema: JsonObject) => boolean) =>
    [...records.beside].find(
      ([pointer, schema]) =>
        !pointer.startsWith(`${records.items}/`) &&
        pattern.test(spoken(pointer.split('/').at(-1) ?? '')) &&
        fits(schema),
    )?.[0];
  const isText = ({ type }: JsonObject) =>
    [type].flat().some((each) => each === 'string' || each === undefined);
  const isNumber = ({ type }: JsonObject) =>
    [type].flat().some((each) => each === 'integer' || each === 'number');
  const reasons: Reason[] = [];
  const say = (because: string, sure: Reason['sure'] = 'likely') =>
    void reasons.push({ about: 'list', because, sure });

  const size = called(names.size);
  const limit = size && limitOf(size);
  const withLimit = limit ? { limit } : {};
  const [cursor, page, offset] = [called(names.cursor), called(names.page), called(names.offset)];
  const nextCursor = beside(names.nextCursor, (schema) => isText(schema) && schema['format'] !== 'uri');
  const nextAddress = beside(names.nextAddress, isText);
  const total = beside(names.total, isNumber);
  const totalHeader = answer.headers.find((name) => /^x-(total(-count)?|count)$/.test(name));

  let paging: Paging;
  if (cursor && nextCursor !== undefined) {
    paging = { kind: 'cursor', parameter: cursor.name, next: nextCursor, ...withLimit };
    say(`the parameter “${cursor.name}” takes what stands at ${nextCursor}`);
  } else if (answer.headers.includes('link')) {
    paging = { kind: 'link', ...withLimit };
    say('its answer has the header “Link”', 'said');
  } else if (page) {
    const first = page.schema['default'] === 0 || page.schema['minimum'] === 0 ? 0 : 1;
    paging = { kind: 'page', parameter: page.name, first, ...withLimit };
    say(`it has the parameter “${page.name}”`);
  } else if (offset) {
    paging = { kind: 'offset', parameter: offset.name, ...withLimit };
    say(`it has the parameter “${offset.name}”`);
  } else if (nextAddress !== undefined) {
    paging = { kind: 'address', next: nextAddress, ...withLimit };
    say(`its answer has the next page at ${nextAddress}`);
  } else {
    paging = { kind: 'none' };
    say('no parameter asks for another page', 'guess');
  }

  const taken = [size, cursor, page, offset, called(names.search)];
  const filtered = filterOf(
    asked.filter((each) => !taken.includes(each)),
    fields,
  );
  if (filtered.kind !== 'none')
    say(`it has parameters that are called as its fields: ${(filtered.fields ?? []).join(', ')}`);
  return { paging, filter: filtered, search: called(names.search)?.name, total, totalHeader, reasons };
}

/** Records of a page where nothing is said. */
const usualMost = 100;

function limitOf({ name, schema }: Parameter): PageLimit {
  const most = [schema['maximum'], schema['default']].find(
    (value) => typeof value === 'number' && value >= 1,
  );
  return { name, most: Math.min(Number(most ?? usualMost), 100_000) };
}

/** Returns the filter whose parameters are called after fields: `town`, or `filter[town]` (common practice, no source). */
function filterOf(asked: readonly Parameter[], fields: readonly Field[]): Filter {
  for (const [pattern, template] of [
    [/^filter\[([^\]]+)\]$/, 'filter[{field}]'],
    [/^filter\.(.+)$/, 'filter.{field}'],
    [/^(.+)$/, '{field}'],
  ] as const) {
    const found = asked.flatMap(({ name }) => {
      const field = pattern.exec(name)?.[1];
      return field !== undefined && fields.some((each) => each.name === field) ? [field] : [];
    });
    if (found.length > 0)
      return { kind: 'parameter per field', name: template, several: 'one at a time', fields: found };
  }
  return { kind: 'none' };
}

/** Returns the parameter that asks for what changed since a time. */
export function sinceParameter(parameters: readonly Parameter[]): Parameter | undefined {
  return parameters.find(
    ({ name, in: where }) =>
      where === 'query' &&
      /^(updated|modified|changed|last (updated|modified|changed))( at)? (since|after|from|gte|gt|min|start)$|^(since|changed since|if modified since|min (updated|modified)( at| date)?)$/.test(
        plainName(name).replace(/^filter /, ''),
      ),
  );
}
