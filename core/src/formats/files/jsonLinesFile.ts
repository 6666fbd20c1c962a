import Joi from 'joi';
import { isJsonObject, type Json } from '../../model/json';
import { parseJson, printJson } from '../../model/jsonText';
import { beginningAsText, Decoding, encodingSchema, notInEncoding, type Encoding } from './text';
import { jsonFile } from './jsonFile';
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
  usual: { kind: 'json lines', encoding: 'utf-8' },
  settings: Joi.object<JsonLinesSettings>({
    kind: Joi.valid('json lines').required(),
    encoding: encodingSchema.required(),
  }),

  recognise(beginning) {
    const { text, encoding } = beginningAsText(beginning.bytes);
    const [first = '', second = ''] = text.trimStart().split(/\r?\n/);
    if (!first.startsWith('{') || !('value' in lineAsObject(first))) return undefined;
    // One object alone may be a file of JSON, whose records stand within it.
    const isAlone = second.trim() === '';
    return isAlone && jsonFile.recognise(beginning) ? undefined : { kind: 'json lines', encoding };
  },

  async *read(bytes, { encoding }) {
    let at = 0;
    const decoding = new Decoding(encoding);
    for await (const lines of linesIn(decoding.text(bytes)))
      yield lines.flatMap((line): readonly FileRow[] => {
        at++;
        if (line !== null)
          return line.trim() === ''
            ? []
            : [rowOf(line, at, decoding.isUnclear(line) ? notInEncoding(encoding) : undefined)];
        const because = `It is longer than ${longestRecord.toLocaleString('en')} characters.`;
        return [{ ok: false, at, place: `line ${at}`, because, text: '' }];
      });
  },
  async *result(rows) {
    const encoder = new TextEncoder();
    for await (const row of rows) yield encoder.encode(`${printJson(withResult(row))}\n`);
  },
  address: pointerAddress,
  shown: (value) => shownObject(value),
};

function rowOf(line: string, at: number, unclear: string | undefined): FileRow {
  const place = `line ${at}`;
  const read = lineAsObject(line);
  if ('because' in read) return { ok: false, at, place, because: read.because, text: excerpt(line) };
  if (unclear !== undefined) return { ok: false, at, place, because: unclear, text: excerpt(line) };
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

/** Returns the lines of a text, those of a part together, whatever they end with; null for one that is too long to be a record. */
async function* linesIn(parts: AsyncIterable<string>): AsyncGenerator<readonly (string | null)[]> {
  let rest = '';
  let isTooLong = false;
  for await (const part of parts) {
    const lines = (rest + part).split('\n');
    rest = lines.pop() ?? '';
    yield lines.map((line) => {
      const whole = isTooLong ? null : line.replace(/\r$/, '');
      isTooLong = false;
      return whole;
    });
    if (rest.length > longestRecord) {
      isTooLong = true;
      rest = '';
    }
  }
  if (isTooLong) yield [null];
  else if (rest !== '') yield [rest];
}
