import Joi from 'joi';
import { encodingSchema, noCharacter, notInEncoding, type Encoding } from './text';
import { taggedAddress } from './taggedAddress';
import {
  isDivided,
  isUnicode,
  readTagged,
  taggedIn,
  taggedRecords,
  writeTagged,
  type TaggedField,
} from './tagged';
import { excerpt, type FileFormat, type FileRow, type FormatSettings, type ShownPart } from './format';

/** The leader of a record of ours that says only that it is Unicode. */
const blankLeader = '00000nam a2200000   4500';

type Decoder = InstanceType<typeof TextDecoder>;

/** How a file of tagged records is written. */
export interface TaggedSettings extends FormatSettings {
  readonly kind: 'tagged';
  /** How characters are written where a record does not say itself that it is Unicode. */
  readonly encoding: Encoding;
}

/** Files of tagged records (ISO 2709), as libraries, archives and parts catalogues exchange them. */
export const taggedFile: FileFormat<TaggedSettings> = {
  kind: 'tagged',
  name: 'Tagged records (ISO 2709)',
  mediaTypes: ['application/marc'],
  endings: ['.mrc', '.iso', '.iso2709'],
  example: '954$c, 310[2]$b or 007/3-5',
  usual: { kind: 'tagged', encoding: 'utf-8' },
  settings: Joi.object<TaggedSettings>({
    kind: Joi.valid('tagged').required(),
    encoding: encodingSchema.required(),
  }),

  recognise({ bytes }) {
    const start = new TextDecoder('windows-1252').decode(bytes.subarray(0, 24));
    if (!/^\d{5}.{7}\d{5}.{3}\d{3}.$/s.test(start)) return undefined;
    return { kind: 'tagged', encoding: isUnicode(bytes) ? 'utf-8' : 'windows-1252' };
  },

  async *read(bytes, { encoding }) {
    const decoders = new Map<Encoding, Decoder>();
    const decoderFor = (each: Encoding) => {
      const known = decoders.get(each) ?? new TextDecoder(each, { ignoreBOM: true });
      decoders.set(each, known);
      return known;
    };
    let at = 0;
    for await (const records of taggedRecords(bytes))
      yield records.map(({ bytes: record, isWhole }) => {
        at++;
        const written = isUnicode(record) ? 'utf-8' : encoding;
        return rowOf(record, at, { written, isWhole, decoder: decoderFor(written) });
      });
    if (at === 0)
      yield [{ ok: false, at: 1, place: 'record 1', because: 'The file holds no record.', text: '' }];
  },
  async *result(rows) {
    const encoder = new TextEncoder();
    for await (const { place, value, says, ids } of rows) {
      const record = value ? taggedIn(value) : { leader: blankLeader, fields: [{ tag: '001', data: place }] };
      const result: TaggedField = {
        tag: '999',
        indicators: '  ',
        subfields: [
          ['a', says],
          ['b', ids],
        ],
      };
      const leader = `${record.leader.slice(0, 9)}a${record.leader.slice(10)}`;
      const encode = (text: string) => encoder.encode(text);
      const written = writeTagged({ leader, fields: [...record.fields, result] }, encode);
      // A record that has no room for its result comes without the rest of it.
      const short = written.ok
        ? written
        : writeTagged({ leader, fields: [...record.fields.slice(0, 1), result] }, encode);
      if (short.ok) yield short.bytes;
    }
  },
  address: taggedAddress,
  shown: (value) => {
    const { leader, fields } = taggedIn(value);
    const counts = new Map<string, number>();
    for (const { tag } of fields) counts.set(tag, (counts.get(tag) ?? 0) + 1);
    const seen = new Map<string, number>();
    return [
      { label: 'leader', text: leader, address: 'leader' },
      ...fields.map((field) => {
        const at = (seen.get(field.tag) ?? 0) + 1;
        seen.set(field.tag, at);
        return shownField(field, (counts.get(field.tag) ?? 0) > 1 ? `${field.tag}[${at}]` : field.tag);
      }),
    ];
  },
};

interface HowWritten {
  readonly written: Encoding;
  readonly isWhole: boolean;
  readonly decoder: Decoder;
}

function rowOf(record: Uint8Array, at: number, { written, isWhole, decoder }: HowWritten): FileRow {
  const place = `record ${at}`;
  let isWrong = false;
  const decode = (bytes: Uint8Array) => {
    const decoded = decoder.decode(bytes);
    // The character may stand in the file itself: only bytes that are none are wrong.
    isWrong ||= decoded.includes(noCharacter) && !isIn(bytes, written);
    return decoded;
  };
  const read = isWhole
    ? readTagged(record, { decode })
    : { ok: false as const, because: 'The file is cut off within it.' };
  const text = () =>
    excerpt(
      decoder
        .decode(record)
        .split(/\p{Cc}/u)
        .join(' '),
    );
  if (!read.ok) return { ok: false, at, place, because: read.because, text: text() };
  if (isWrong) return { ok: false, at, place, because: notInEncoding(written), text: text() };
  return { ok: true, at, place, value: read.record };
}

/** Returns whether bytes are characters of an encoding. */
function isIn(bytes: Uint8Array, encoding: Encoding): boolean {
  try {
    new TextDecoder(encoding, { fatal: true }).decode(bytes);
    return true;
  } catch {
    return false;
  }
}

function shownField(field: TaggedField, address: string): ShownPart {
  if (!isDivided(field)) return { label: field.tag, text: field.data, address };
  const counts = new Map<string, number>();
  for (const [code] of field.subfields) counts.set(code, (counts.get(code) ?? 0) + 1);
  const seen = new Map<string, number>();
  return {
    label: `${field.tag} ${field.indicators.replaceAll(' ', '#')}`,
    address,
    parts: field.subfields.map(([code, text]) => {
      const at = (seen.get(code) ?? 0) + 1;
      seen.set(code, at);
      const several = (counts.get(code) ?? 0) > 1;
      return { label: `$${code}`, text, address: `${address}$${code}${several ? `[${at}]` : ''}` };
    }),
  };
}
