import { decoded } from '../../connection';
import { readPointer } from '../../formats/jsonPointer';
import { isJsonObject, type Json, type JsonObject } from '../../model/json';
import { plain, type Resolve } from '../fieldsOfSchema';

/** References that lead on to others; a longer way is a circle. */
const longestWay = 16;

/** Returns what follows the references of a document within itself; what leads elsewhere, or in a circle, is undefined. */
export function resolveIn(document: unknown): Resolve {
  return (schema) => {
    let here = schema;
    for (let steps = 0; isJsonObject(here) && typeof here['$ref'] === 'string'; steps++) {
      const ref = here['$ref'];
      if (steps === longestWay || !ref.startsWith('#')) return undefined;
      const pointer = decoded(ref.slice(1));
      here = pointer === undefined ? undefined : readPointer(document, pointer);
    }
    return here;
  };
}

const methods = ['get', 'post', 'put', 'patch', 'delete'] as const;
export type Method = (typeof methods)[number];

/** A parameter of an operation. */
export interface Parameter {
  readonly name: string;
  readonly in: string;
  readonly schema: JsonObject;
  readonly required: boolean;
}

/** What can be done at a path. */
export interface Operation {
  readonly json: JsonObject;
  readonly parameters: readonly Parameter[];
}

/** A path of a document with its operations. */
export interface PathItem {
  readonly path: string;
  readonly operations: Readonly<Partial<Record<Method, Operation>>>;
}

/** Returns the paths of a document. */
export function pathsOf(document: JsonObject, resolve: Resolve): readonly PathItem[] {
  const paths = isJsonObject(document['paths']) ? document['paths'] : {};
  return Object.entries(paths).flatMap(([path, item]): PathItem[] => {
    const own = resolve(item);
    if (!path.startsWith('/') || !isJsonObject(own)) return [];
    const shared = parametersOf(own['parameters'], resolve);
    const operations = methods.flatMap((method): [Method, Operation][] => {
      const json = resolve(own[method]);
      if (!isJsonObject(json)) return [];
      const parameters = [...parametersOf(json['parameters'], resolve), ...shared];
      return [[method, { json, parameters }]];
    });
    return [
      { path: path.length > 1 ? path.replace(/\/$/, '') : path, operations: Object.fromEntries(operations) },
    ];
  });
}

function parametersOf(list: Json | undefined, resolve: Resolve): readonly Parameter[] {
  return (Array.isArray(list) ? list : []).flatMap((each): Parameter[] => {
    const own = resolve(each);
    if (!isJsonObject(own) || typeof own['name'] !== 'string' || typeof own['in'] !== 'string') return [];
    const schema = plain(own['schema'], resolve) ?? {};
    return [{ name: own['name'], in: own['in'], schema, required: own['required'] === true }];
  });
}

/** What an operation answers where all goes well, as JSON. */
export interface AnswerOf {
  readonly schema: JsonObject;
  /** Names of its headers, in small letters. */
  readonly headers: readonly string[];
}

/** Returns what an operation answers where all goes well; undefined where that is no JSON. */
export function answerOf({ json }: Operation, resolve: Resolve): AnswerOf | undefined {
  const responses = isJsonObject(json['responses']) ? json['responses'] : {};
  for (const status of ['200', '201', '2XX', '202', 'default']) {
    const response = resolve(responses[status]);
    if (!isJsonObject(response)) continue;
    const schema = plain(contentOf(response['content']), resolve);
    if (!schema) continue;
    const headers = isJsonObject(response['headers']) ? Object.keys(response['headers']) : [];
    return { schema, headers: headers.map((name) => name.toLowerCase()) };
  }
  return undefined;
}

/** Returns the media types of what an operation takes. */
export function takenTypes({ json }: Operation, resolve: Resolve): readonly string[] {
  const body = resolve(json['requestBody']);
  return isJsonObject(body) && isJsonObject(body['content']) ? Object.keys(body['content']) : [];
}

/** Returns the schema of what an operation takes, as JSON. */
export function takenBy({ json }: Operation, resolve: Resolve): JsonObject | undefined {
  const body = resolve(json['requestBody']);
  return isJsonObject(body) ? plain(contentOf(body['content']), resolve) : undefined;
}

/** Returns the schema of the JSON among the media types of a content. */
function contentOf(content: Json | undefined): Json | undefined {
  if (!isJsonObject(content)) return undefined;
  const [, media] =
    Object.entries(content).find(([type]) => /^(application|text)\/([^;]*\+)?json\b|^\*\/\*/i.test(type)) ??
    [];
  return isJsonObject(media) ? media['schema'] : undefined;
}
