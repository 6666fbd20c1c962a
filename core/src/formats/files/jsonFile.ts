import { Tokenizer, TokenParser, TokenType } from '@streamparser/json';
import Joi from 'joi';
import { isJsonObject, type Json } from '../../model/json';
import { jsonNumber, printJson } from '../../model/jsonText';
import { beginningAsText, Decoding, encodingSchema, type Encoding } from './text';
import { pointerAddress, shownObject, withResult } from './jsonParts';
import { excerpt, longestRecord, type FileFormat, type FileRow, type FormatSettings } from './format';

/** Where in a JSON file its records stand. */
export interface JsonSettings extends FormatSettings {
  readonly kind: 'json';
  readonly encoding: Encoding;
  /** The names that lead to the list of records, parted by dots; blank where the file is the list. */
  readonly list: string;
}

/** JSON files (RFC 8259): the objects of one list, wherever in the file it stands. */
export const jsonFile: FileFormat<JsonSettings> = {
  kind: 'json',
  name: 'JSON',
  mediaTypes: ['application/json'],
  endings: ['.json'],
  example: '/name/of/a/member',
  usual: { kind: 'json', encoding: 'utf-8', list: '' },
  settings: Joi.object<JsonSettings>({
    kind: Joi.valid('json').required(),
    encoding: encodingSchema.required(),
    list: Joi.string()
      .allow('')
      .max(200)
      .pattern(/^[^.[\]*]+(\.[^.[\]*]+)*$/, 'names parted by dots')
      .required(),
  }),

  recognise({ bytes }) {
    const { text, encoding } = beginningAsText(bytes);
    const start = text.trimStart();
    if (!start.startsWith('[') && !start.startsWith('{')) return undefined;
    const list = listIn(start);
    return list === undefined ? undefined : { kind: 'json', encoding, list };
  },

  async *read(bytes, { encoding, list }) {
    let found: Json[] = [];
    const parser = parserOf(({ value }) => found.push(value), [list === '' ? '$.*' : `$.${list}.*`]);
    let at = 0;
    let sinceRecord = 0;
    const rows = (): readonly FileRow[] => {
      const values = found;
      found = [];
      return values.map((value) => rowOf(value, ++at));
    };
    const broken = (because: string): FileRow => ({
      ok: false,
      at: at + 1,
      place: `record ${at + 1}`,
      because,
      text: '',
    });
    try {
      for await (const text of new Decoding(encoding).text(bytes)) {
        parser.write(text);
        sinceRecord = found.length > 0 ? 0 : sinceRecord + text.length;
        if (sinceRecord > longestRecord) throw new TooLong();
        yield rows();
      }
      if (!parser.hasEnded()) throw new SyntaxError('The file is cut off.');
    } catch (thrown) {
      yield rows();
      const because =
        thrown instanceof TooLong
          ? `There is no record within ${longestRecord.toLocaleString('en')} characters; choose which list holds the records.`
          : 'It is no JSON from here on, or the file is cut off; what comes after it cannot be read.';
      yield [broken(because)];
      return;
    }
    yield rows();
    const none =
      list === ''
        ? 'The file is no list, or an empty one.'
        : `There is no list at “${list}”, or an empty one.`;
    if (at === 0) yield [broken(none)];
  },
  async *result(rows, { list }) {
    const encoder = new TextEncoder();
    const names = list === '' ? [] : list.split('.');
    yield encoder.encode(names.map((name) => `{${JSON.stringify(name)}:`).join('') + '[');
    let mark = '\n';
    for await (const row of rows) {
      yield encoder.encode(mark + printJson(withResult(row)));
      mark = ',\n';
    }
    yield encoder.encode(`\n]${'}'.repeat(names.length)}\n`);
  },
  address: pointerAddress,
  shown: (value) => shownObject(value),
};

class TooLong extends Error {}

function rowOf(value: Json, at: number): FileRow {
  const place = `record ${at}`;
  return isJsonObject(value)
    ? { ok: true, at, place, value }
    : { ok: false, at, place, because: 'It is no object with names.', text: excerpt(printJson(value)) };
}

/** Deeper JSON is refused, so that whatever walks it ends. */
const deepest = 200;

/** Reads numbers with all their digits. The package says `number` of what it passes on as it is. */
class ExactTokenizer extends Tokenizer {
  override parseNumber(text: string): number {
    return jsonNumber(text) as number;
  }
}

/** A value on its way, with the names and places that lead to it, from the top of the file. */
interface FoundValue {
  readonly value: Json;
  readonly steps: readonly (string | number | undefined)[];
}

/** Returns what takes the text of a file, part by part, and tells of the values at the paths; of all where no paths are given. */
function parserOf(onValue: (found: FoundValue) => void, paths?: string[]) {
  const tokenizer = new ExactTokenizer();
  const values = new TokenParser({ keepStack: false, ...(paths && { paths }) });
  let depth = 0;
  tokenizer.onToken = (token) => {
    if (token.token === TokenType.LEFT_BRACE || token.token === TokenType.LEFT_BRACKET) depth++;
    if (token.token === TokenType.RIGHT_BRACE || token.token === TokenType.RIGHT_BRACKET) depth--;
    if (depth > deepest) throw new SyntaxError(`JSON may be nested ${deepest} deep.`);
    values.write(token);
  };
  values.onValue = ({ value, stack, key }) =>
    onValue({ value: value as Json, steps: [...stack.map((each) => each.key), key] });
  return { write: (text: string) => tokenizer.write(text), hasEnded: () => values.isEnded };
}

/** Returns which list of a beginning holds objects: of several the one that is nearest to the top. Undefined where there is none. */
function listIn(text: string): string | undefined {
  let best: readonly (string | number | undefined)[] | undefined;
  const parser = parserOf(({ value, steps }) => {
    const lists = steps.filter((step) => typeof step === 'number').length;
    // A list within a list has no name of its own.
    if (!isJsonObject(value) || lists !== 1 || typeof steps.at(-1) !== 'number') return;
    if (!best || steps.length < best.length) best = steps;
  });
  try {
    parser.write(text);
  } catch {
    // What was seen before the fault is enough to propose how the file is read.
  }
  return best?.flatMap((step) => (typeof step === 'string' ? [step] : [])).join('.');
}
