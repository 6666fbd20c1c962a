import Joi from 'joi';

/** How characters are written as bytes: labels of the WHATWG Encoding Standard, each with what people call it. */
export const encodings = [
  { value: 'utf-8', label: 'Unicode (UTF-8)' },
  { value: 'utf-16le', label: 'Unicode (UTF-16, low byte first)' },
  { value: 'utf-16be', label: 'Unicode (UTF-16, high byte first)' },
  { value: 'windows-1252', label: 'Western Europe (Windows-1252)' },
  { value: 'iso-8859-15', label: 'Western Europe with € (ISO 8859-15)' },
  { value: 'windows-1250', label: 'Central Europe (Windows-1250)' },
  { value: 'iso-8859-2', label: 'Central Europe (ISO 8859-2)' },
  { value: 'windows-1251', label: 'Cyrillic (Windows-1251)' },
  { value: 'windows-1253', label: 'Greek (Windows-1253)' },
] as const;
export type Encoding = (typeof encodings)[number]['value'];

export const encodingSchema = Joi.valid(...encodings.map(({ value }) => value));

/** Stands where bytes are no characters of the encoding (U+FFFD). A file may hold it as any other character, too. */
export const noCharacter = '\ufffd';

/** Bytes that are read as text, also where a character stands in two parts. A byte order mark is left out. */
export class Decoding {
  private isWrong = false;

  constructor(private readonly encoding: Encoding) {}

  /** Returns whether bytes that are no characters stand where a text says that there is no character. */
  isUnclear(text: string): boolean {
    return this.isWrong && text.includes(noCharacter);
  }

  async *text(bytes: AsyncIterable<Uint8Array>): AsyncGenerator<string> {
    const decoder = new TextDecoder(this.encoding);
    const strict = new TextDecoder(this.encoding, { fatal: true });
    for await (const part of bytes) {
      this.check(strict, part);
      yield decoder.decode(part, { stream: true });
    }
    yield decoder.decode();
  }

  private check(strict: InstanceType<typeof TextDecoder>, part: Uint8Array): void {
    if (this.isWrong) return;
    try {
      strict.decode(part, { stream: true });
    } catch {
      this.isWrong = true;
    }
  }
}

/**
 * Returns in which encoding a beginning is written: as its byte order mark says; UTF-16 where every other byte is 0; UTF-8 where it is that; and
 * otherwise Windows-1252, in which every byte means something.
 */
export function encodingOf(bytes: Uint8Array): Encoding {
  const [first, second, third, fourth] = bytes;
  if (first === 0xff && second === 0xfe) return 'utf-16le';
  if (first === 0xfe && second === 0xff) return 'utf-16be';
  if (second === 0 && fourth === 0 && first !== 0 && third !== 0) return 'utf-16le';
  if (first === 0 && third === 0 && second !== 0 && fourth !== 0) return 'utf-16be';
  try {
    // A character may be cut at the end of the beginning.
    new TextDecoder('utf-8', { fatal: true }).decode(bytes, { stream: true });
    return 'utf-8';
  } catch {
    return 'windows-1252';
  }
}

/** Returns a beginning as text, in the encoding that it seems to have. */
export function beginningAsText(bytes: Uint8Array): { readonly text: string; readonly encoding: Encoding } {
  const encoding = encodingOf(bytes);
  return { text: new TextDecoder(encoding).decode(bytes, { stream: true }), encoding };
}

/** Returns what people call an encoding. */
export function encodingName(encoding: Encoding): string {
  return encodings.find(({ value }) => value === encoding)?.label ?? encoding;
}

/** Returns why a text holds characters that are none, as a sentence. */
export function notInEncoding(encoding: Encoding): string {
  return `It holds bytes that are no characters in ${encodingName(encoding)}; choose how the file is written.`;
}
