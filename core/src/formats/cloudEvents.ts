import Joi from 'joi';
import { isJsonObject, type Json } from '../model/json';
import { parseJson } from '../model/jsonText';

/** A CloudEvents 1.0 envelope with JSON data. */
export interface CloudEvent {
  readonly specversion: '1.0';
  readonly id: string;
  readonly source: string;
  readonly type: string;
  readonly subject?: string;
  readonly time?: string;
  readonly datacontenttype?: string;
  readonly dataschema?: string;
  readonly data?: Json;
  /** Extension attributes, by name. */
  readonly extensions: Readonly<Record<string, string | number | boolean>>;
}

type ParsedEvent =
  { readonly ok: true; readonly event: CloudEvent } | { readonly ok: false; readonly because: string };

const attribute = Joi.string().min(1).max(2048);
/** RFC 3339 with an offset; Joi's own `isoDate` would accept times without one. */
const rfc3339 = /^\d{4}-\d{2}-\d{2}[Tt]\d{2}:\d{2}:\d{2}(\.\d+)?([Zz]|[+-]\d{2}:\d{2})$/;

const envelope = Joi.object({
  specversion: Joi.valid('1.0').required(),
  id: attribute.required(),
  source: attribute.required(),
  type: attribute.required(),
  subject: attribute,
  time: Joi.string().pattern(rfc3339, 'a date-time of RFC 3339'),
  datacontenttype: Joi.string().pattern(/^application\/([^\s;]+\+)?json\s*(;.*)?$/i, 'a JSON media type'),
  dataschema: attribute,
  data: Joi.any(),
  extensions: Joi.object().pattern(
    Joi.string().pattern(/^[a-z0-9]{1,64}$/),
    Joi.alternatives(Joi.string().allow(''), Joi.number(), Joi.boolean()),
  ),
});

const core = [
  'specversion',
  'id',
  'source',
  'type',
  'subject',
  'time',
  'datacontenttype',
  'dataschema',
  'data',
];

/**
 * Reads a change event from an HTTP message, in structured or in binary content mode (CloudEvents HTTP protocol
 * binding 1.0.2, section 3). Header names are taken in any case; batches are refused.
 */
export function parseCloudEvent(
  headers: Readonly<Record<string, string | undefined>>,
  body: string,
): ParsedEvent {
  const byName = new Map(Object.entries(headers).map(([name, value]) => [name.toLowerCase(), value ?? '']));
  const contentType = byName.get('content-type') ?? '';
  if (/^application\/cloudevents-batch/i.test(contentType)) {
    return { ok: false, because: 'Batches of events are not taken; send each event by itself.' };
  }
  const attributes = /^application\/cloudevents\+json/i.test(contentType)
    ? readStructured(body)
    : readBinary(byName, contentType, body);
  return typeof attributes === 'string' ? { ok: false, because: attributes } : validate(attributes);
}

function readStructured(body: string): Record<string, unknown> | string {
  const parsed = bodyJson(body);
  if (typeof parsed === 'string') return parsed;
  if (!isJsonObject(parsed.json)) return 'The body is not a JSON object.';
  if (parsed.json['data_base64'] !== undefined)
    return 'Binary data (data_base64) is not taken; send JSON data.';
  return parsed.json;
}

function readBinary(
  headers: ReadonlyMap<string, string>,
  contentType: string,
  body: string,
): Record<string, unknown> | string {
  if (!headers.has('ce-specversion')) {
    return 'This is no CloudEvent: neither the content type application/cloudevents+json nor ce-specversion is there.';
  }
  const attributes: Record<string, unknown> = {};
  for (const [name, value] of headers) {
    if (!name.startsWith('ce-')) continue;
    const decoded = percentDecode(value);
    if (decoded === undefined) return `The header ${name} is not percent-encoded UTF-8.`;
    attributes[name.slice(3)] = decoded;
  }
  if (contentType !== '') attributes['datacontenttype'] = contentType;
  if (body === '') return attributes;
  const parsed = bodyJson(body);
  if (typeof parsed === 'string') return parsed;
  return { ...attributes, data: parsed.json };
}

function validate(attributes: Record<string, unknown>): ParsedEvent {
  const known: Record<string, unknown> = {};
  const extensions: Record<string, unknown> = {};
  for (const [name, value] of Object.entries(attributes)) {
    if (core.includes(name)) known[name] = value;
    // A member that is null is the same as one that is absent (CloudEvents JSON format 1.0.2, 2.1).
    else if (value !== null) extensions[name] = value;
  }
  const checked = envelope.validate({ ...known, extensions }, { convert: false });
  return checked.error
    ? { ok: false, because: `The event's envelope is wrong: ${checked.error.message}.` }
    : { ok: true, event: checked.value as CloudEvent };
}

function bodyJson(body: string): { readonly json: Json } | string {
  try {
    return { json: parseJson(body) };
  } catch (thrown) {
    return `The body is not JSON: ${thrown instanceof Error ? thrown.message : String(thrown)}.`;
  }
}

/** Header values are percent-encoded UTF-8, some of them in double quotes (HTTP binding 1.0.2, 3.1.3.2). */
function percentDecode(value: string): string | undefined {
  const bare = /^".*"$/s.test(value) ? value.slice(1, -1).replace(/\\(.)/gs, '$1') : value;
  try {
    return decodeURIComponent(bare.replace(/%(?![0-9A-Fa-f]{2})/g, '%25'));
  } catch {
    // decodeURIComponent throws for bytes that are not UTF-8.
    return undefined;
  }
}
