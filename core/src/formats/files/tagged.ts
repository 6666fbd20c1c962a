import type { JsonObject } from '../../model/json';
import { joined } from './joined';

/** A field with data alone, as those whose tags begin with 00 are. */
export type PlainField = { readonly tag: string; readonly data: string };

/** A field with indicators and subfields, each subfield with its code. */
export type DividedField = {
  readonly tag: string;
  readonly indicators: string;
  readonly subfields: [code: string, text: string][];
};

export type TaggedField = PlainField | DividedField;

/** A record as ISO 2709 exchanges it. */
export type TaggedRecord = {
  /** The first 24 characters. What they say of lengths is computed anew when the record is written. */
  readonly leader: string;
  readonly fields: TaggedField[];
};

export const isDivided = (field: TaggedField): field is DividedField => 'subfields' in field;

/** Returns a record of a tagged file as what its reader made it. Throws where it is of another kind of file. */
export function taggedIn(value: JsonObject): TaggedRecord {
  if (!isTagged(value)) throw new TypeError('This is no tagged record.');
  return value;
}

const isTagged = (value: JsonObject): value is TaggedRecord =>
  typeof value['leader'] === 'string' && Array.isArray(value['fields']);

/** Ends a record, ends a field, and begins a subfield (ISO 2709:2008, section 4: IS3, IS2, IS1 of ISO/IEC 646). */
const [recordEnd, fieldEnd, subfieldMark] = [0x1d, 0x1e, 0x1f];
const leaderLength = 24;

/** A record that was read, or why it could not be. */
export type TaggedRead =
  { readonly ok: true; readonly record: TaggedRecord } | { readonly ok: false; readonly because: string };

/** Turns bytes into text, and back. */
export interface Characters {
  readonly decode: (bytes: Uint8Array) => string;
}

const ascii = (bytes: Uint8Array, from: number, to: number) =>
  String.fromCharCode(...bytes.subarray(from, Math.min(to, bytes.length)));

/** Returns digits as a number; undefined where one of them is none. */
function digits(text: string): number | undefined {
  return /^\d+$/.test(text) ? Number(text) : undefined;
}

/** Returns how the bytes of a record say that its characters are written: position 9 of the leader is `a` for Unicode (common practice, no source). */
export function isUnicode(bytes: Uint8Array): boolean {
  return bytes[9] === 0x61;
}

/**
 * Reads one record (ISO 2709:2008): a leader, a directory with an entry for each field, and the fields. How long indicators, codes of subfields and the
 * parts of an entry are is taken from the leader.
 *
 * @param bytes The record with the character that ends it
 */
export function readTagged(bytes: Uint8Array, { decode }: Characters): TaggedRead {
  const no = (because: string): TaggedRead => ({ ok: false, because });
  if (bytes.length < leaderLength + 2) return no(`It has ${bytes.length} bytes; a record has 26 at least.`);
  const leader = ascii(bytes, 0, leaderLength);
  const stated = digits(leader.slice(0, 5));
  if (stated === undefined)
    return no(`Its leader begins with “${leader.slice(0, 5)}”, where its length in five digits stands.`);
  if (stated !== bytes.length)
    return no(`Its leader says that it has ${stated} bytes, and it has ${bytes.length}.`);
  const base = digits(leader.slice(12, 17));
  if (base === undefined || base <= leaderLength || base > bytes.length)
    return no(
      `Its leader says that its fields begin at “${leader.slice(12, 17)}”, and there is no such place.`,
    );
  const indicatorLength = digits(leader[10] ?? '') ?? 2;
  const codeLength = digits(leader[11] ?? '') ?? 2;
  const lengthDigits = digits(leader[20] ?? '') || 4;
  const startDigits = digits(leader[21] ?? '') || 5;
  const ownDigits = digits(leader[22] ?? '') ?? 0;
  const entryLength = 3 + lengthDigits + startDigits + ownDigits;
  if (bytes[base - 1] !== fieldEnd) return no('Its directory does not end where its fields begin.');
  if ((base - 1 - leaderLength) % entryLength !== 0)
    return no(
      `Its directory has ${base - 1 - leaderLength} characters, which are no whole entries of ${entryLength}.`,
    );
  const fields: TaggedField[] = [];
  for (let at = leaderLength; at < base - 1; at += entryLength) {
    const tag = ascii(bytes, at, at + 3);
    const length = digits(ascii(bytes, at + 3, at + 3 + lengthDigits));
    const start = digits(ascii(bytes, at + 3 + lengthDigits, at + 3 + lengthDigits + startDigits));
    const end = base + (start ?? 0) + (length ?? 0);
    if (length === undefined || start === undefined || length === 0 || end > bytes.length)
      return no(`Its directory has an entry for field ${tag} that leads beyond the record.`);
    if (bytes[end - 1] !== fieldEnd) return no(`Field ${tag} does not end where its directory says.`);
    fields.push(fieldOf(tag, bytes.subarray(base + start, end - 1), { decode, indicatorLength, codeLength }));
  }
  return { ok: true, record: { leader, fields } };
}

interface Lengths extends Characters {
  readonly indicatorLength: number;
  readonly codeLength: number;
}

function fieldOf(
  tag: string,
  data: Uint8Array,
  { decode, indicatorLength, codeLength }: Lengths,
): TaggedField {
  const isPlain = tag.startsWith('00') || data[indicatorLength] !== subfieldMark;
  if (isPlain) return { tag, data: decode(data) };
  const subfields: [string, string][] = [];
  let from = indicatorLength + 1;
  while (from <= data.length) {
    const next = data.indexOf(subfieldMark, from);
    const to = next === -1 ? data.length : next;
    // The mark counts as a part of the code.
    const code = ascii(data, from, from + codeLength - 1);
    subfields.push([code, decode(data.subarray(from + codeLength - 1, to))]);
    from = to + 1;
  }
  return { tag, indicators: ascii(data, 0, indicatorLength), subfields };
}

/** A record in bytes, or why it cannot be written so. */
export type TaggedWritten =
  { readonly ok: true; readonly bytes: Uint8Array } | { readonly ok: false; readonly because: string };

/** Writes a record (ISO 2709:2008), its fields in their order, its lengths computed anew. */
export function writeTagged(
  { leader, fields }: TaggedRecord,
  encode: (text: string) => Uint8Array,
): TaggedWritten {
  const no = (because: string): TaggedWritten => ({ ok: false, because });
  if (leader.length !== leaderLength) return no(`The leader has ${leader.length} characters, and not 24.`);
  const lengthDigits = digits(leader[20] ?? '') || 4;
  const startDigits = digits(leader[21] ?? '') || 5;
  const own = '0'.repeat(digits(leader[22] ?? '') ?? 0);
  const datas: Uint8Array[] = [];
  let directory = '';
  let start = 0;
  for (const field of fields) {
    const text = isDivided(field)
      ? field.indicators + field.subfields.map(([code, part]) => `\u001f${code}${part}`).join('')
      : field.data;
    const data = encode(`${text}\u001e`);
    const tooLong = String(data.length).length > lengthDigits;
    if (tooLong) return no(`Field ${field.tag} has ${data.length} bytes, more than its directory can say.`);
    if (!/^[\x21-\x7e]{3}$/.test(field.tag))
      return no(`“${field.tag}” is no tag: a tag has three characters.`);
    directory +=
      field.tag +
      String(data.length).padStart(lengthDigits, '0') +
      String(start).padStart(startDigits, '0') +
      own;
    datas.push(data);
    start += data.length;
  }
  const base = leaderLength + directory.length + 1;
  const length = base + start + 1;
  if (length > 99_999) return no(`The record has ${length} bytes; the format ends at 99,999.`);
  const head =
    String(length).padStart(5, '0') +
    leader.slice(5, 12) +
    String(base).padStart(5, '0') +
    leader.slice(17) +
    directory;
  const bytes = new Uint8Array(length);
  for (let at = 0; at < head.length; at++) bytes[at] = head.charCodeAt(at);
  bytes[base - 1] = fieldEnd;
  let at = base;
  for (const data of datas) {
    bytes.set(data, at);
    at += data.length;
  }
  bytes[at] = recordEnd;
  return { ok: true, bytes };
}

/** A record as its bytes, to the character that ends it; not whole where the file ends within it. */
export interface TaggedBytes {
  readonly bytes: Uint8Array;
  readonly isWhole: boolean;
}

/** Returns the records of a file, those of a part together. What stands between records (line ends) is left out. */
export async function* taggedRecords(
  bytes: AsyncIterable<Uint8Array>,
): AsyncGenerator<readonly TaggedBytes[]> {
  /** No record is longer: its length is told in five digits. */
  const longest = 99_999;
  let held: Uint8Array[] = [];
  let length = 0;
  const take = (last: Uint8Array): Uint8Array => {
    const whole = joined([...held, last]);
    held = [];
    length = 0;
    let from = 0;
    while (whole[from] === 0x0a || whole[from] === 0x0d) from++;
    return whole.subarray(from);
  };
  for await (const part of bytes) {
    let from = 0;
    const found: TaggedBytes[] = [];
    for (let end = part.indexOf(recordEnd); end !== -1; end = part.indexOf(recordEnd, from)) {
      found.push({ bytes: take(part.subarray(from, end + 1)), isWhole: true });
      from = end + 1;
    }
    yield found;
    const rest = part.subarray(from);
    // What is longer than any record is told of by its beginning; the rest is passed over until a record ends.
    if (length < 2 * longest && rest.length > 0) {
      held.push(rest.slice(0, 2 * longest));
      length += Math.min(rest.length, 2 * longest);
    }
  }
  const rest = take(new Uint8Array(0));
  if (rest.length > 0 && rest.some((byte) => byte > 0x20)) yield [{ bytes: rest, isWhole: false }];
}
