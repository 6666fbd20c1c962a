import Joi from 'joi';
import { SaxesParser } from 'saxes';
import type { JsonObject } from '../../model/json';
import { oneOrList } from './oneOrList';
import { beginningAsText, Decoding, encodingSchema, notInEncoding, type Encoding } from './text';
import {
  excerpt,
  longestRecord,
  type AddressRead,
  type FileFormat,
  type FileRow,
  type FormatSettings,
  type ShownPart,
} from './format';

/** Which elements of an XML file are its records. */
export interface XmlSettings extends FormatSettings {
  readonly kind: 'xml';
  readonly encoding: Encoding;
  /** The names of the elements that lead to a record, from the top: `order-list/order`. */
  readonly each: string;
}

/** An element as it is kept in a record. What stands between its elements is its text. */
// A type, not an interface, so that it is an object of JSON as well.
type XmlElement = {
  readonly name: string;
  readonly attributes: Readonly<Record<string, string>>;
  text: string;
  readonly children: XmlElement[];
};

/** Returns a record of this format as what `read` made it. */
function elementIn(value: JsonObject): XmlElement {
  if (!isElement(value)) throw new TypeError('This is no element.');
  return value;
}

const isElement = (value: JsonObject): value is XmlElement =>
  typeof value['name'] === 'string' && Array.isArray(value['children']);

/** Elements may stand so deep in one another. */
const deepest = 100;

/**
 * XML files (XML 1.0, fifth edition): each element of one path is a record. No document type is followed, so no entity is known but those that XML
 * itself has, and none unfolds.
 */
export const xmlFile: FileFormat<XmlSettings> = {
  kind: 'xml',
  name: 'XML',
  mediaTypes: ['application/xml', 'text/xml'],
  endings: ['.xml'],
  example: 'name/of/an/element or @attribute',
  usual: { kind: 'xml', encoding: 'utf-8', each: 'list/record' },
  settings: Joi.object<XmlSettings>({
    kind: Joi.valid('xml').required(),
    encoding: encodingSchema.required(),
    each: Joi.string()
      .max(500)
      .pattern(/^[^/\s]+(\/[^/\s]+)*$/, 'names of elements parted by /')
      .required(),
  }),

  recognise({ bytes }) {
    const { text, encoding } = beginningAsText(bytes);
    if (!text.trimStart().startsWith('<')) return undefined;
    const declared = /^\s*<\?xml[^>]*encoding=["']([\w-]+)["']/.exec(text)?.[1]?.toLowerCase();
    const each = repeatedIn(text);
    const stated = declared === 'iso-8859-1' ? 'windows-1252' : declared;
    const isStated = encodingSchema.validate(stated).error === undefined && stated !== undefined;
    return each === undefined
      ? undefined
      : { kind: 'xml', encoding: isStated ? (stated as Encoding) : encoding, each };
  },

  async *read(bytes, { encoding, each }) {
    const steps = each.split('/');
    const open: string[] = [];
    const building: XmlElement[] = [];
    let found: FileRow[] = [];
    let at = 0;
    let size = 0;
    let isUnclear = false;
    const decoding = new Decoding(encoding);
    const parser = new SaxesParser({ position: true });
    const wrong = (because: string): FileRow => ({
      ok: false,
      at: at + 1,
      place: `record ${at + 1}, line ${parser.line}`,
      because,
      text: '',
    });
    parser.on('error', (thrown) => {
      throw thrown;
    });
    parser.on('opentag', ({ name, attributes }) => {
      open.push(name);
      if (open.length > deepest) throw new Error(`elements stand more than ${deepest} deep in one another.`);
      const parent = building.at(-1);
      const isRecord = open.length === steps.length && open.every((step, n) => step === steps[n]);
      if (!parent && !isRecord) return;
      if (!parent) [size, isUnclear] = [0, false];
      const element: XmlElement = {
        name,
        attributes: attributes as Record<string, string>,
        text: '',
        children: [],
      };
      parent?.children.push(element);
      building.push(element);
    });
    const onText = (text: string) => {
      const element = building.at(-1);
      if (!element) return;
      element.text += text;
      isUnclear ||= decoding.isUnclear(text);
      size += text.length;
      if (size > longestRecord)
        throw new Error(`it is longer than ${longestRecord.toLocaleString('en')} characters.`);
    };
    parser.on('text', onText);
    parser.on('cdata', onText);
    parser.on('closetag', () => {
      open.pop();
      const element = building.pop();
      if (!element || building.length > 0) return;
      at++;
      found.push(
        isUnclear
          ? {
              ok: false,
              at,
              place: `record ${at}`,
              because: notInEncoding(encoding),
              text: excerpt(element.text),
            }
          : { ok: true, at, place: `record ${at}`, value: kept(element) },
      );
    });
    try {
      for await (const text of decoding.text(bytes)) {
        parser.write(text);
        yield found;
        found = [];
      }
      parser.close();
    } catch (thrown) {
      yield found;
      const message = thrown instanceof Error ? thrown.message.replace(/^\d+:\d+:\s*/, '') : String(thrown);
      yield [wrong(`It is no XML that can be read: ${message} What comes after it is not read.`)];
      return;
    }
    yield found;
    if (at === 0) yield [wrong(`There is no element “${each}”.`)];
  },
  async *result(rows, { each }) {
    const encoder = new TextEncoder();
    const above = each.split('/').slice(0, -1);
    const name = each.split('/').at(-1) ?? 'record';
    yield encoder.encode(
      `<?xml version="1.0" encoding="UTF-8"?>\n${above.map((step) => `<${step}>`).join('')}\n`,
    );
    for await (const { value, text, says, ids } of rows) {
      const element = value ? elementIn(value) : { name, attributes: {}, text, children: [] };
      const result: XmlElement = { name: 'result', attributes: { ids }, text: says, children: [] };
      yield encoder.encode(`${printed({ ...element, children: [...element.children, result] })}\n`);
    }
    yield encoder.encode(
      `${above
        .reverse()
        .map((step) => `</${step}>`)
        .join('')}\n`,
    );
  },
  address: elementAddress,
  shown: (value) => shownWithin(elementIn(value), ''),
};

const escapes: Readonly<Record<string, string>> = { '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' };
const escaped = (text: string) => text.replaceAll(/[&<>"]/g, (character) => escapes[character] ?? character);

/** Writes an element; its text stands before the elements within it. */
function printed({ name, attributes, text, children }: XmlElement): string {
  const said = Object.entries(attributes).map(([attribute, value]) => ` ${attribute}="${escaped(value)}"`);
  return `<${name}${said.join('')}>${escaped(text)}${children.map(printed).join('')}</${name}>`;
}

/** Returns an element without what is empty in it. */
function kept({ name, attributes, text, children }: XmlElement): JsonObject {
  return {
    name,
    attributes: { ...attributes },
    text: text.trim(),
    children: children.map(kept),
  };
}

const stepPattern = /^(@?[^@/[\]\s]+)(?:\[(\d+)\])?$/;

/**
 * Returns what a path means within a record: the abbreviated location path of XPath 1.0, as far as it goes down by names: `line/weight`, `line[2]/@unit`,
 * `@number`. Several elements of one name give a list.
 */
function elementAddress(text: string): AddressRead {
  const path = text.trim();
  const steps: { readonly name: string; readonly at?: number }[] = [];
  for (const step of path.split('/')) {
    const [, name, at] = stepPattern.exec(step) ?? [];
    if (name === undefined)
      return {
        ok: false,
        because: `“${path}” is no path of elements: “${step}” is no name, as in line[2]/@unit.`,
      };
    if (steps.at(-1)?.name.startsWith('@') === true)
      return { ok: false, because: `“${path}” goes on after an attribute, which holds nothing further.` };
    if (at === '0') return { ok: false, because: `“${path}”: the first element is [1].` };
    steps.push({ name, ...(at !== undefined && { at: Number(at) }) });
  }
  return {
    ok: true,
    address: {
      text: path,
      read: (value) => {
        let here: readonly XmlElement[] = [elementIn(value)];
        for (const { name, at } of steps) {
          if (name.startsWith('@'))
            return oneOrList(here.map(({ attributes }) => attributes[name.slice(1)] ?? null));
          here = here.flatMap(({ children }) => {
            const named = children.filter((child) => child.name === name);
            return at === undefined ? named : named.slice(at - 1, at);
          });
        }
        return oneOrList(here.map((element) => element.text));
      },
    },
  };
}

function shownWithin({ attributes, children }: XmlElement, prefix: string): readonly ShownPart[] {
  const counts = new Map<string, number>();
  for (const { name } of children) counts.set(name, (counts.get(name) ?? 0) + 1);
  const seen = new Map<string, number>();
  return [
    ...Object.entries(attributes).map(([name, text]) => ({
      label: `@${name}`,
      text,
      address: `${prefix}@${name}`,
    })),
    ...children.map((child) => {
      const { name, text } = child;
      const at = (seen.get(name) ?? 0) + 1;
      seen.set(name, at);
      const address = `${prefix}${name}${(counts.get(name) ?? 0) > 1 ? `[${at}]` : ''}`;
      const parts = shownWithin(child, `${address}/`);
      return { label: name, address, text, ...(parts.length > 0 && { parts }) };
    }),
  ];
}

/** Returns the path of the elements of a beginning that are most likely its records: those nearest to the top of which there are several. */
function repeatedIn(text: string): string | undefined {
  const counts = new Map<string, number>();
  const open: string[] = [];
  let firstPath: string | undefined;
  const parser = new SaxesParser();
  parser.on('error', (thrown) => {
    throw thrown;
  });
  parser.on('opentag', ({ name }) => {
    open.push(name);
    if (open.length > deepest) throw new Error('too deep');
    const path = open.join('/');
    counts.set(path, (counts.get(path) ?? 0) + 1);
    if (open.length === 2) firstPath ??= path;
  });
  parser.on('closetag', () => open.pop());
  try {
    parser.write(text);
  } catch {
    // What was seen before the fault is enough to propose how the file is read.
  }
  const several = [...counts].filter(([, count]) => count > 1).map(([path]) => path);
  const depth = (path: string) => path.split('/').length;
  return several.sort((one, other) => depth(one) - depth(other))[0] ?? firstPath;
}
