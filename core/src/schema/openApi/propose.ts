import type { Asked, Listening } from '../../connection';
import { isJsonObject, type JsonObject } from '../../model/json';
import type { Field } from '../../model/system';
import { fieldsOfSchema, type Resolve } from '../fieldsOfSchema';
import type { Proposal, ProposedType, Reason } from '../proposal';
import { changedField, idFieldOf, recordTypeOf, withReferences } from '../recordType';
import { answerOf, pathsOf, resolveIn, type Operation, type PathItem } from './document';
import { addressOf, takenFields, withWritable, writingOf } from './writing';
import { recordIn, recordsIn, type RecordsIn } from './lists';
import { askingOf, sinceParameter } from './paging';
import { signInOf } from './signIn';

/** A document could be read as one, or why not. */
export type ProposedFromDocument =
  { readonly ok: true; readonly proposal: Proposal } | { readonly ok: false; readonly because: string };

/**
 * Proposes what an OpenAPI document (3.0, 3.1) says of a system: record types with their fields from what its lists answer, and how they are
 * reached. References lead within the document; whoever reads it brings in what lies elsewhere. `address` is where it was read, for the
 * servers that it names relative to itself.
 */
export function proposeFromOpenApi(document: unknown, address?: string): ProposedFromDocument {
  if (!isJsonObject(document)) return { ok: false, because: 'It is no object, and so no OpenAPI document.' };
  const { openapi, swagger, info } = document;
  if (swagger !== undefined)
    return {
      ok: false,
      because: `It is a Swagger ${String(swagger)} document; OpenAPI 3.0 and 3.1 are read.`,
    };
  if (typeof openapi !== 'string')
    return { ok: false, because: 'It does not say that it is an OpenAPI document: “openapi” is missing.' };
  if (!/^3\.[01](\.|$)/.test(openapi))
    return { ok: false, because: `It is an OpenAPI ${openapi.slice(0, 20)} document; 3.0 and 3.1 are read.` };
  const resolve = resolveIn(document);
  const items = pathsOf(document, resolve);
  const leftOut: string[] = [];
  const found: ProposedType[] = [];
  const homes = new Map<string, string>();
  // A collection before what searches in it.
  const inOrder = [...items].sort((a, b) => Number(isSearch(a.path)) - Number(isSearch(b.path)));
  for (const item of inOrder) {
    const read = typeAt(item, items, resolve);
    const home = collectionPath(item.path);
    const known = homes.get(home);
    if (typeof read === 'string') leftOut.push(read);
    else if (read && known !== undefined)
      leftOut.push(`${item.path}: it gives the same records as ${known}.`);
    else if (read) {
      found.push(read);
      homes.set(home, item.path);
    }
  }
  const named = withOwnNames(found);
  const { types, reasons: references } = withReferences(named.map(({ type }) => type));
  const { signIn, reason } = signInOf(document, resolve);
  const title = isJsonObject(info) && typeof info['title'] === 'string' ? info['title'].trim() : '';
  return {
    ok: true,
    proposal: {
      name: title === '' ? undefined : title.slice(0, 80),
      baseUrl: serverOf(document, address),
      signIn,
      types: named.map((each, at) => {
        const type = types[at] ?? each.type;
        return { ...each, type, reasons: [...each.reasons, ...(references.get(type.name) ?? [])] };
      }),
      reasons: reason ? [reason] : [],
      leftOut,
    },
  };
}

/** Returns the record type whose list a path gives, why a list gives none, or nothing for a path that is no list. */
function typeAt(
  item: PathItem,
  all: readonly PathItem[],
  resolve: Resolve,
): ProposedType | string | undefined {
  const { path, operations } = item;
  const { get } = operations;
  const answer = get && answerOf(get, resolve);
  if (!get || !answer || path.endsWith('}')) return undefined;
  const base = collectionPath(path);
  const one = all.find(
    (each) =>
      isOneOf(each.path, base) && (each.operations.get || each.operations.patch || each.operations.put),
  );
  const oneAnswer = one?.operations.get && answerOf(one.operations.get, resolve);
  const alone = oneAnswer && recordIn(oneAnswer.schema, resolve);
  const described = recordsIn(answer.schema, resolve);
  // Where one record is described, and the list of them is not, it is there all the same.
  const undescribed = !described && alone && answer.schema['properties'] === undefined;
  const records: RecordsIn | undefined =
    described ??
    (undescribed ? { items: '', record: undefined, schema: alone.schema, beside: new Map() } : undefined);
  // What has an address of its own below it is a list, whatever else its answer holds; else it must be one.
  if (!records || (records.items.split('/').length > 2 && !one)) return undefined;
  if (path.includes('{')) return `${path}: its records lie below another one, and are not listed as a whole.`;
  const parameter = one && /\{([^}]+)\}$/.exec(one.path)?.[1];
  const listed = fieldsOfSchema(records.schema, resolve, 'words');
  const whole = alone ? fieldsOfSchema(alone.schema, resolve, 'words') : [];
  // Lists often hold less of a record than the record alone; its id is in both.
  const home = base === path ? item : all.find((each) => each.path === base);
  const post = home?.operations.post;
  const fields = withWritable(whole.length >= listed.length ? whole : listed, post, one, resolve);
  if (fields.length === 0) return `${path}: nothing is said of the fields of its records.`;
  const collection = collectionName(path, records);
  const id = idFieldOf(fields, collection, parameter);
  if (!id) return `${path}: no field of its records could be their id.`;
  const asking = askingOf(get.parameters, answer, records, fields);
  const { reasons: askingReasons, ...list } = asking;
  const writing = writingOf({ path, base, post, one }, { fields, answerAt: alone?.at, resolve });
  const listening = listeningOf(get, fields);
  const required = requiredOnly(get);
  const style: ProposedType['style'] = {
    path,
    list: {
      path: '{path}',
      items: records.items,
      ...(records.record !== undefined && { record: records.record }),
      paging: list.paging,
      filter: list.filter,
      ...(list.search !== undefined && { search: list.search }),
      ...(list.total !== undefined && { total: list.total }),
      ...(list.totalHeader !== undefined && { totalHeader: list.totalHeader }),
    },
    one: one?.operations.get
      ? {
          kind: 'address',
          path: addressOf(one.path, path),
          ...(alone?.at !== undefined && { record: alone.at }),
        }
      : { kind: 'list' },
    ...writing.style,
    listening,
  };
  const reasons: Reason[] = [
    undescribed
      ? {
          about: 'type',
          because: `nothing is said of what GET ${path} answers; press its records in the answer`,
          sure: 'guess',
        }
      : {
          about: 'type',
          because: `GET ${path} answers with a list of objects${where(records)}`,
          sure: 'said',
        },
    { about: id.about, because: `it is the id, because ${id.because}`, sure: id.sure },
    ...askingReasons,
    ...writing.reasons,
    ...(listening?.asked
      ? [
          {
            about: 'listening',
            because: `it has the parameter “${Object.keys(listening.asked.parameters)[0] ?? ''}”`,
            sure: 'likely' as const,
          },
        ]
      : []),
    ...required.map((name) => ({
      about: 'list',
      because: `it wants the parameter “${name}”, which is to be filled in`,
      sure: 'said' as const,
    })),
  ];
  const readOnlyId = !(post && takenFields(post, resolve).has(id.field));
  const type = recordTypeOf(collection, { fields, idField: id.field, readOnlyId });
  return { type, style, reasons, said: fields };
}

function where({ items, record }: RecordsIn): string {
  return `${items === '' ? '' : ` at ${items}`}${record === undefined ? '' : `, each in ${record}`}`;
}

/** Steps of a path that say what is done, and not what is there (common practice, no source). */
const doing = /^(search|find|list|all|query|index|filter|browse)(by.*)?$/i;

/** Returns the path of a collection: that of a list, without what it does. */
function collectionPath(path: string): string {
  const steps = path.split('/');
  return steps.length > 2 && doing.test(steps.at(-1) ?? '') ? steps.slice(0, -1).join('/') : path;
}

function isSearch(path: string): boolean {
  return collectionPath(path) !== path;
}

/** Returns what a collection is called: by the member that holds its records, where its path says only what it does. */
function collectionName(path: string, { items }: RecordsIn): string {
  const base = collectionPath(path);
  return (
    base
      .split('/')
      .filter((step) => step !== '')
      .at(-1) ??
    items.split('/').at(-1) ??
    path
  );
}

/** Returns whether a path is that of one record of a list. */
function isOneOf(path: string, list: string): boolean {
  return path.startsWith(`${list}/{`) && path.indexOf('}', list.length) === path.length - 1;
}

/** Parameters that a list wants and that are not for paging: they are to be filled in. */
function requiredOnly({ parameters }: Operation): readonly string[] {
  return parameters.filter((each) => each.in === 'query' && each.required).map(({ name }) => name);
}

/** Proposes to ask for changes where a parameter and a field are there for it. */
function listeningOf({ parameters }: Operation, fields: readonly Field[]): Listening {
  const since = sinceParameter(parameters);
  const field = changedField(fields);
  if (!since || !field) return { compared: { everySeconds: 3600 } };
  const form: Asked['form'] =
    field.type === 'integer'
      ? 'seconds'
      : since.schema['format'] === 'date'
        ? 'date'
        : since.schema['type'] === 'integer'
          ? 'seconds'
          : 'date-time';
  return {
    asked: {
      parameters: { [since.name]: '{since}' },
      field: field.name,
      form,
      overlapSeconds: 60,
      everySeconds: 60,
    },
    compared: { everySeconds: 86_400 },
  };
}

/** Two lists whose types would be called alike are called after more of their paths. */
function withOwnNames(found: readonly ProposedType[]): readonly ProposedType[] {
  const counts = new Map<string, number>();
  for (const { type } of found) counts.set(type.name, (counts.get(type.name) ?? 0) + 1);
  const taken = new Set<string>();
  return found.map((each) => {
    let name = each.type.name;
    if ((counts.get(name) ?? 0) > 1 || taken.has(name)) {
      const [before = ''] = (each.style?.path ?? '')
        .split('/')
        .filter((step) => step !== '')
        .slice(-2);
      name = `${before} ${name}`.trim();
    }
    for (let number = 2; taken.has(name); number++) name = `${each.type.name} ${number}`;
    taken.add(name);
    if (name === each.type.name) return each;
    const label = name.charAt(0).toUpperCase() + name.slice(1);
    return { ...each, type: { ...each.type, name, label, plural: `${label}: ${each.type.plural}` } };
  });
}

/** Returns the address of the first server that a document names, with the usual values of its variables. */
function serverOf(document: JsonObject, address: string | undefined): string | undefined {
  const [server] = Array.isArray(document['servers']) ? document['servers'] : [];
  const url = isJsonObject(server) && typeof server['url'] === 'string' ? server['url'] : '/';
  const variables = isJsonObject(server) && isJsonObject(server['variables']) ? server['variables'] : {};
  const filled = url.replace(/\{([^}]+)\}/g, (whole, name: string) => {
    const variable = variables[name];
    return isJsonObject(variable) && typeof variable['default'] === 'string' ? variable['default'] : whole;
  });
  if (/^https?:\/\//i.test(filled)) return filled.replace(/\/$/, '');
  if (address === undefined || !/^https?:\/\//i.test(address)) return undefined;
  const base = new URL(filled, address);
  return (base.origin + base.pathname).replace(/\/$/, '');
}
