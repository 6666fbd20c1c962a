import type { Paging } from '../../connection';
import { readPointer } from '../../formats/jsonPointer';
import { isJsonObject, readPath, type Json, type JsonObject } from '../../model/json';
import { scalarText } from '../../model/jsonText';
import type { Field, RecordType } from '../../model/system';
import type { Proposal, ProposedType, Reason } from '../proposal';
import { changedField, idFieldOf, recordTypeOf, versionField } from '../recordType';
import { wordsOf } from '../words';
import { collectionsIn, type Collection } from './collections';
import { fieldsOfValues, mostRecords } from './values';

/** Some records of a system, and where they come from. */
export interface GivenRecords {
  readonly body: Json;
  /** What the records are called, where the body does not say it: the last part of an address, the name of a file. */
  readonly name: string;
  /** The path at which they were read; undefined for what was pasted. */
  readonly path?: string;
  readonly headers?: Readonly<Record<string, string>>;
}

export type ProposedFromRecords =
  { readonly ok: true; readonly proposal: Proposal } | { readonly ok: false; readonly because: string };

/** Proposes record types from up to a thousand records of each, with what speaks for each field. */
export function proposeFromRecords(given: readonly GivenRecords[]): ProposedFromRecords {
  const learnt: { readonly read: ProposedType; readonly records: readonly JsonObject[] }[] = [];
  const leftOut: string[] = [];
  for (const each of given) {
    const collections = collectionsIn(each.body);
    if (collections.length === 0) {
      if (given.length === 1)
        return { ok: false, because: `There is no list of records in it: ${whatIsThere(each.body)}.` };
      leftOut.push(`${each.name}: there is no list of records in it.`);
    }
    for (const collection of collections) {
      const own =
        collections.length > 1
          ? (collection.items.split('/').at(-1) ?? each.name)
          : nameOf(collection, each.name);
      const read = typeOf(collection, own, each);
      if (typeof read === 'string') leftOut.push(read);
      else learnt.push({ read, records: collection.records.slice(0, mostRecords) });
    }
  }
  if (learnt.length === 0) return { ok: false, because: leftOut[0] ?? 'There are no records in it.' };
  return {
    ok: true,
    proposal: {
      name: undefined,
      baseUrl: undefined,
      signIn: undefined,
      types: withMatchingIds(learnt),
      reasons: [],
      leftOut,
    },
  };
}

/** Members that only hold a list say nothing of what is in it. */
function nameOf({ items }: Collection, given: string): string {
  const last = items.split('/').at(-1) ?? '';
  return /^(|data|items|results?|records|rows|value|values|entries|content|list|hits|docs)$/i.test(last)
    ? given
    : last;
}

function whatIsThere(body: Json): string {
  if (Array.isArray(body)) return body.length === 0 ? 'its list is empty' : 'its list holds single values';
  return isJsonObject(body)
    ? `it is an object with ${Object.keys(body).slice(0, 8).join(', ') || 'nothing in it'}`
    : 'it is a single value';
}

function typeOf(
  collection: Collection,
  name: string,
  { path, headers, body }: GivenRecords,
): ProposedType | string {
  const records = collection.records.slice(0, mostRecords);
  const { fields, reasons } = fieldsOfValues(records);
  const id = idIn(fields, records, name);
  if (!id)
    return `${name}: no field has another value in each of the ${records.length} records, so that none can be the id.`;
  const type = recordTypeOf(name, { fields, idField: id.field, readOnlyId: true });
  const version = versionField(fields) ?? changedField(fields);
  const paging = pagingIn(collection, body, headers ?? {});
  const style: ProposedType['style'] =
    path === undefined
      ? undefined
      : {
          path: path.split('?')[0] ?? path,
          list: {
            path: '{path}',
            items: collection.items,
            ...(collection.record !== undefined && { record: collection.record }),
            paging: paging.paging,
            filter: { kind: 'none' },
            ...(paging.total !== undefined && { total: paging.total }),
            ...(headers?.['x-total-count'] !== undefined && { totalHeader: 'X-Total-Count' }),
          },
          one: { kind: 'address', path: '{path}/{id}' },
          version: version ? { kind: 'field', field: version.name } : { kind: 'none' },
          listening: { compared: { everySeconds: 3600 } },
        };
  return {
    type,
    style,
    reasons: [
      {
        about: 'type',
        because: `${records.length} records${collection.items === '' ? '' : ` at ${collection.items}`}`,
        sure: 'said',
      },
      { about: id.field, because: `it is the id: ${id.because}`, sure: id.sure },
      ...(path === undefined ? [] : [paging.reason]),
      ...reasons,
    ],
  };
}

/** Returns the field that has another value in each record: one that is called as an id is, before any other. */
function idIn(
  fields: readonly Field[],
  records: readonly JsonObject[],
  name: string,
): (Reason & { field: string }) | undefined {
  const unique = fields.filter((field) => {
    const values = records.map((record) => readPath(record, field.name));
    const texts = values
      .filter((value) => value !== undefined && value !== null && value !== '')
      .map((value) => scalarText(value ?? null));
    return (
      (field.type === 'text' || field.type === 'integer') &&
      texts.length === records.length &&
      new Set(texts).size === texts.length
    );
  });
  const found =
    idFieldOf(unique, name) ??
    (unique[0] && { about: unique[0].name, field: unique[0].name, because: '', sure: 'guess' as const });
  return (
    found && {
      ...found,
      because: `another value in each of ${records.length} records`,
      sure: records.length < 5 ? 'guess' : 'likely',
    }
  );
}

/** Proposes how the next page is asked for, from what stands beside the records. */
function pagingIn(
  { items }: Collection,
  body: Json,
  headers: Readonly<Record<string, string>>,
): { readonly paging: Paging; readonly total: string | undefined; readonly reason: Reason } {
  const said = (paging: Paging, because: string, sure: Reason['sure']) => ({
    paging,
    total,
    reason: { about: 'list', because, sure },
  });
  const beside: string[] = [];
  const look = (value: Json | undefined, at: string, depth: number) => {
    if (!isJsonObject(value) || depth > 2) return;
    for (const [name, inner] of Object.entries(value)) {
      const pointer = `${at}/${name.replaceAll('~', '~0').replaceAll('/', '~1')}`;
      if (pointer === items) continue;
      beside.push(pointer);
      look(inner, pointer, depth + 1);
    }
  };
  look(body, '', 0);
  const called = (pattern: RegExp, fits: (value: unknown) => boolean) =>
    beside.find(
      (pointer) =>
        pattern.test(
          wordsOf(pointer.split('/').at(-1) ?? '')
            .join(' ')
            .toLowerCase(),
        ) && fits(readPointer(body, pointer)),
    );
  const total = called(
    /^(total|total count|total results?|total items?|total records?|count|total rows?)$/,
    (value) => typeof value === 'number',
  );
  if (/rel="?next/i.test(headers['link'] ?? ''))
    return said({ kind: 'link' }, 'the answer has the header “Link” with a next page', 'said');
  const address = called(
    /^(next|next link|next url|next page( url)?)$/,
    (value) => typeof value === 'string' && /^(https?:)?\//.test(value),
  );
  if (address !== undefined)
    return said(
      { kind: 'address', next: address },
      `the address of a next page stands at ${address}`,
      'likely',
    );
  const cursor = called(
    /next|cursor|continuation|after|bookmark/,
    (value) => typeof value === 'string' && value !== '',
  );
  if (cursor !== undefined)
    return said(
      { kind: 'cursor', next: cursor, parameter: 'cursor' },
      `what the next page is asked with may stand at ${cursor}; its parameter is to be named`,
      'guess',
    );
  return said({ kind: 'none' }, 'nothing beside the records tells of another page', 'guess');
}

/** Values that have to be ids of another type before a field counts as a reference to it. */
const fewestMatches = 3;

/** Makes references of the fields whose values are ids of another type. */
function withMatchingIds(
  learnt: readonly { readonly read: ProposedType; readonly records: readonly JsonObject[] }[],
): readonly ProposedType[] {
  const idsOf = new Map(
    learnt.map(({ read: { type }, records }) => [
      type.name,
      new Set(records.map((record) => textOf(readPath(record, type.idField)))),
    ]),
  );
  return learnt.map(({ read, records }) => {
    const reasons = [...read.reasons];
    const fields = read.type.fields.map((field): Field => {
      const mayRefer = field.type === 'text' || field.type === 'integer' || field.type === 'choice';
      if (!mayRefer || field.name === read.type.idField) return field;
      const values = new Set(
        records.map((record) => textOf(record[field.name])).filter((text) => text !== ''),
      );
      const best = bestMatch(values, idsOf, read.type, field);
      if (!best) return field;
      const at = reasons.findIndex(({ about }) => about === field.name);
      const because = `${best.hits} of ${values.size} different values are ids of ${best.type}`;
      reasons.splice(at === -1 ? reasons.length : at, at === -1 ? 0 : 1, {
        about: field.name,
        because,
        sure: best.hits === values.size ? 'likely' : 'guess',
      });
      const { maxLength: _most, min: _min, max: _max, options: _options, ...rest } = field;
      return { ...rest, type: 'reference', refersTo: [best.type] };
    });
    return { ...read, type: { ...read.type, fields }, reasons };
  });
}

function bestMatch(
  values: ReadonlySet<string>,
  idsOf: ReadonlyMap<string, ReadonlySet<string>>,
  own: RecordType,
  field: Field,
): { readonly type: string; readonly hits: number } | undefined {
  if (values.size < fewestMatches) return undefined;
  const counted = [...idsOf]
    .map(([type, ids]) => ({ type, hits: [...values].filter((value) => ids.has(value)).length }))
    // Small whole numbers are ids of everything; they have to be called so as well.
    .filter(
      ({ type }) =>
        field.type !== 'integer' ||
        wordsOf(field.name).join(' ').toLowerCase().includes(wordsOf(type).join(' ').toLowerCase()),
    )
    .filter(({ type, hits }) => hits * 10 >= values.size * 9 && !(type === own.name && hits < values.size));
  return counted.sort((a, b) => b.hits - a.hits)[0];
}

function textOf(value: Json | undefined): string {
  return value === undefined || value === null || typeof value === 'object' ? '' : scalarText(value);
}
