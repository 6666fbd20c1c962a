import Joi from 'joi';
import { isJsonObject, type Json } from '../../model/json';
import { parseJson, printJson } from '../../model/jsonText';
import { beginningAsText, encodingSchema, noCharacter, notInEncoding, textOf, type Encoding } from './text';
import { pointerAddress, shownObject, withResult } from './jsonParts';
import { excerpt, longestRecord, type FileFormat, type FileRow, type FormatSettings } from './format';

/** How JSON lines are written. */
export interface JsonLinesSettings extends FormatSettings {
  readonly kind: 'json lines';
  readonly encoding: Encoding;
}

/** Files with a JSON object (RFC 8259) on each line. */
export const jsonLinesFile: FileFormat<JsonLinesSettings> = {
  kind: 'json lines',
  name: 'JSON lines',
  mediaTypes: ['application/x-ndjson', 'application/jsonl'],
  endings: ['.jsonl', '.ndjson'],
  example: '/name/of/a/member',
  settings: Joi.object<JsonLinesSettings>({
    kind: Joi.valid('json lines').required(),
    encoding: encodingSchema.required(),
  }),

  recognise({ bytes }) {
    const { text, encoding } = beginningAsText(bytes);
    const [first = ''] = text.trimStart().split(/\r?\n/);
    if (!first.startsWith('{')) return undefined;
    return 'value' in lineAsObject(first) ? { kind: 'json lines', encoding } : undefined;
  },

  async *read(bytes, { encoding }) {
    let at = 0;
    for await (const line of linesIn(textOf(bytes, encoding))) {
      at++;
      const place = `line ${at}`;
      if (line === null) {
        const because = `It is longer than ${longestRecord.toLocaleString('en')} characters.`;
        yield { ok: false, at, place, because, text: '' };
      } else if (line.trim() !== '') yield rowOf(line, at, encoding);
    }
  },
  async *result(rows) {
    const encoder = new TextEncoder();
    for await (const row of rows) yield encoder.encode(`${printJson(withResult(row))}\n`);
  },
  address: pointerAddress,
  shown: (value) => shownObject(value),
};

function rowOf(line: string, at: number, encoding: Encoding): FileRow {
  const place = `line ${at}`;
  const read = lineAsObject(line);
  if ('because' in read) return { ok: false, at, place, because: read.because, text: excerpt(line) };
  if (line.includes(noCharacter))
    return { ok: false, at, place, because: notInEncoding(encoding), text: excerpt(line) };
  return { ok: true, at, place, value: read.value };
}

function lineAsObject(line: string) {
  let json: Json;
  try {
    json = parseJson(line);
  } catch (thrown) {
    return { because: `It is no JSON: ${thrown instanceof Error ? thrown.message : String(thrown)}` };
  }
  return isJsonObject(json) ? { value: json } : { because: 'It is no object with names.' };
}

/** Returns the lines of a text, whatever they end with; null for one that is too long to be a record. */
async function* linesIn(parts: AsyncIterable<string>): AsyncGenerator<string | null> {
  let rest = '';
  let isTooLong = false;
  for await (const part of parts) {
    const lines = (rest + part).split('\n');
    rest = lines.pop() ?? '';
    for (const line of lines) {
      yield isTooLong ? null : line.replace(/\r$/, '');
      isTooLong = false;
    }
    if (rest.length > longestRecord) {
      isTooLong = true;
      rest = '';
    }
  }
  if (isTooLong) yield null;
  else if (rest !== '') yield rest;
}
