import { readTagged, writeTagged, type TaggedRecord } from './tagged';

/** A tagged record that a system holds as a text, or why the text is none. */
export type HeldTagged =
  | {
      readonly ok: true;
      readonly record: TaggedRecord;
      /** Returns the text of another record, its lengths counted as those of this one are; or why it cannot be written so. */
      readonly write: (record: TaggedRecord) => { readonly text: string } | { readonly because: string };
    }
  | { readonly ok: false; readonly because: string };

/** A way in which the lengths of a record count its characters. */
interface Counting {
  readonly encode: (text: string) => Uint8Array | undefined;
  readonly decode: (bytes: Uint8Array) => string;
}

/** In UTF-8, as Unicode records do. */
const asUtf8: Counting = {
  encode: (text) => new TextEncoder().encode(text),
  decode: (bytes) => new TextDecoder().decode(bytes),
};

/** A byte for each character: systems that give an older record as Unicode text leave its lengths as they were. */
const byCharacter: Counting = {
  encode: (text) =>
    [...text].every((sign) => sign.charCodeAt(0) <= 0xff && sign.length === 1)
      ? Uint8Array.from([...text], (sign) => sign.charCodeAt(0))
      : undefined,
  decode: (bytes) => String.fromCharCode(...bytes),
};

/** Reads a tagged record (ISO 2709:2008) that a system holds in a field, as a text. */
export function readTaggedText(text: string): HeldTagged {
  let first: string | undefined;
  for (const counting of [asUtf8, byCharacter]) {
    const bytes = counting.encode(text.trim());
    const read = bytes && readTagged(bytes, counting);
    if (read?.ok) return { ok: true, record: read.record, write: (record) => written(record, counting) };
    first ??= read?.because;
  }
  return { ok: false, because: first ?? 'It is no tagged record.' };
}

function written(
  record: TaggedRecord,
  { encode, decode }: Counting,
): { readonly text: string } | { readonly because: string } {
  let unwritable = false;
  const result = writeTagged(record, (text) => {
    const bytes = encode(text);
    unwritable ||= bytes === undefined;
    return bytes ?? new Uint8Array(0);
  });
  if (unwritable) return { because: 'It has characters that a record of its coding has no room for.' };
  return result.ok ? { text: decode(result.bytes) } : { because: result.because };
}
