import { changeMark } from '../connection';
import { readPath, type JsonObject } from '../model/json';
import type { RecordType } from '../model/system';
import { changedField } from './recordType';

/** A page of a list that was tried. */
export interface FoundPage {
  readonly records: readonly JsonObject[];
  readonly total: number | undefined;
  readonly next: string | null;
}

/** Returns what a page holds, as a sentence: “25 records, 3 more pages; ids are text; the newest changed yesterday.” */
export function foundSentence(
  { records, total, next }: FoundPage,
  type: RecordType | undefined,
  now: Date,
): string {
  const parts = [`${counted(records.length, 'record')}${more(records.length, total, next)}`];
  if (type && records.length > 0) {
    parts.push(...idsIn(records, type.idField));
    const newest = newestIn(records, type);
    if (newest !== undefined) parts.push(`the newest changed ${ago(newest, now.getTime())}`);
  }
  return `${parts.join('; ')}.`;
}

function counted(count: number, word: string): string {
  return `${count === 0 ? 'no' : count} ${word}${count === 1 ? '' : 's'}`;
}

function more(count: number, total: number | undefined, next: string | null): string {
  if (next === null)
    return total !== undefined && total > count ? ` of ${total}, and no way to the others` : '';
  if (total === undefined || count === 0) return ', and more pages';
  const pages = Math.ceil((total - count) / count);
  return pages <= 0 ? '' : ` of ${total}, ${counted(pages, 'more page')}`;
}

function idsIn(records: readonly JsonObject[], idField: string): readonly string[] {
  const ids = records.map((record) => readPath(record, idField));
  const missing = ids.filter((id) => id === undefined || id === null || id === '').length;
  const different = new Set(ids.map((id) => JSON.stringify(id))).size;
  if (missing === ids.length) return [`none has an id at “${idField}”`];
  const kind = ids.every((id) => typeof id === 'string')
    ? 'text'
    : ids.every((id) => typeof id === 'number')
      ? 'numbers'
      : 'of several kinds';
  return [
    `ids are ${kind}`,
    ...(missing > 0 ? [`${missing} without an id`] : []),
    ...(different < ids.length - Math.max(0, missing - 1) ? ['some have the same id'] : []),
  ];
}

function newestIn(records: readonly JsonObject[], type: RecordType): number | undefined {
  const field = changedField(type.fields);
  if (!field) return undefined;
  const form = field.type === 'integer' ? 'seconds' : 'date-time';
  const marks = records
    .map((record) => changeMark(form, readPath(record, field.name)))
    .filter((mark) => mark !== undefined);
  const greatest = marks.reduce((most, mark) => Math.max(most, mark), -Infinity);
  // Counts are no times.
  return greatest > 1e11 ? greatest : undefined;
}

const day = 86_400_000;

function ago(at: number, now: number): string {
  const days = Math.floor(now / day) - Math.floor(at / day);
  if (days <= 0) return 'today';
  if (days === 1) return 'yesterday';
  return days < 60 ? `${days} days ago` : `on ${new Date(at).toISOString().slice(0, 10)}`;
}
