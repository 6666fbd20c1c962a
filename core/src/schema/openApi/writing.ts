import type { Changing, Creating, OwnStyle, Versioning } from '../../connection';
import type { Field } from '../../model/system';
import { fieldsOfSchema, type Resolve } from '../fieldsOfSchema';
import type { Reason } from '../proposal';
import { changedField, versionField } from '../recordType';
import { answerOf, takenBy, takenTypes, type Operation, type PathItem } from './document';
import { recordIn, recordsIn } from './lists';

/** Where the records of a type are. */
interface Place {
  /** The path of their list. */
  readonly path: string;
  /** The path of their collection: that of the list, but for a word of what it does. */
  readonly base: string;
  readonly post: Operation | undefined;
  /** The path of one record. */
  readonly one: PathItem | undefined;
}

/** Returns the address of one record as a template. */
export function addressOf(one: string, path: string): string {
  return (one.startsWith(`${path}/`) ? `{path}${one.slice(path.length)}` : one).replace(
    /\{(?!path\})[^}]+\}$/,
    '{id}',
  );
}

/** Proposes how records are changed, created and removed, and what guards that. */
export function writingOf(
  { path, base, post, one }: Place,
  {
    fields,
    answerAt,
    resolve,
  }: { readonly fields: readonly Field[]; readonly answerAt: string | undefined; readonly resolve: Resolve },
): {
  readonly style: Pick<OwnStyle, 'changing' | 'creating' | 'removing' | 'version'>;
  readonly reasons: readonly Reason[];
} {
  const own = new Set(fields.map(({ name }) => name));
  const reasons: Reason[] = [];
  const at = one ? addressOf(one.path, path) : '{path}/{id}';
  const { patch, put, delete: remove } = one?.operations ?? {};
  const changer = patch ?? put;
  let changing: Changing | undefined;
  if (changer) {
    const types = takenTypes(changer, resolve);
    const envelope = envelopeOf(changer, resolve, own);
    const answer = answerIn(changer, resolve, answerAt, own);
    const shared = { ...(at !== '{path}/{id}' && { path: at }), ...envelope, ...answer };
    if (!patch) changing = { kind: 'whole record', ...shared };
    else if (types.some((type) => /json-patch\+json/.test(type)))
      changing = { kind: 'json patch', ...shared };
    else {
      const merge = types.some((type) => /merge-patch\+json/.test(type));
      changing = { kind: 'merge patch', ...shared, ...(!merge && { mediaType: 'application/json' }) };
    }
    reasons.push({
      about: 'changing',
      because: `there is ${patch ? 'PATCH' : 'PUT'} ${one?.path ?? ''}`,
      sure: 'said',
    });
  }
  let creating: Creating | undefined;
  const made = post && answerOf(post, resolve);
  // What answers with a list looks for records, and makes none.
  if (post && !(made && recordsIn(made.schema, resolve))) {
    const keyHeader = post.parameters.find(
      (each) => each.in === 'header' && /idempotency|request-id/i.test(each.name),
    )?.name;
    const inner = made && recordIn(made.schema, resolve, own);
    creating = {
      method: 'POST',
      path: base === path ? '{path}' : base,
      ...envelopeOf(post, resolve, own),
      ...(inner?.at !== undefined && { answer: inner.at }),
      ...(!inner && { location: true }),
      ...(keyHeader !== undefined && { keyHeader }),
    };
    reasons.push({ about: 'creating', because: `there is POST ${base}`, sure: 'said' });
  }
  if (remove)
    reasons.push({ about: 'removing', because: `there is DELETE ${one?.path ?? ''}`, sure: 'said' });
  const { version, reason } = versionOf(changer, one, fields, resolve);
  reasons.push(reason);
  return {
    style: {
      version,
      ...(changing && { changing }),
      ...(creating && { creating }),
      ...(remove && { removing: { method: 'DELETE', path: at } }),
    },
    reasons,
  };
}

function envelopeOf(
  operation: Operation,
  resolve: Resolve,
  own: ReadonlySet<string>,
): { readonly envelope?: string } {
  const taken = takenBy(operation, resolve);
  const inner = taken && recordIn(taken, resolve, own);
  return inner?.at === undefined ? {} : { envelope: inner.at };
}

function answerIn(
  operation: Operation,
  resolve: Resolve,
  usual: string | undefined,
  own: ReadonlySet<string>,
): { readonly answer?: string } {
  const answer = answerOf(operation, resolve);
  if (!answer) return { answer: 'none' };
  const at = recordIn(answer.schema, resolve, own)?.at ?? usual;
  return at === undefined ? {} : { answer: at };
}

function versionOf(
  changer: Operation | undefined,
  one: PathItem | undefined,
  fields: readonly Field[],
  resolve: Resolve,
): { readonly version: Versioning; readonly reason: Reason } {
  const takesMatch =
    changer?.parameters.some((each) => each.in === 'header' && /^if-match$/i.test(each.name)) ?? false;
  const answer = one?.operations.get && answerOf(one.operations.get, resolve);
  const counted = versionField(fields);
  const say = (because: string, sure: Reason['sure']): Reason => ({ about: 'version', because, sure });
  if (takesMatch || answer?.headers.includes('etag'))
    return {
      version: { kind: 'etag' },
      reason: say(
        takesMatch ? 'a change takes the header “If-Match”' : 'the answer has the header “ETag”',
        'said',
      ),
    };
  if (counted)
    return {
      version: { kind: 'field', field: counted.name },
      reason: say(`the field “${counted.name}” is called so`, 'likely'),
    };
  const changed = changedField(fields);
  if (changed)
    return {
      version: { kind: 'field', field: changed.name },
      reason: say(`the field “${changed.name}” has the time of the last change`, 'likely'),
    };
  return { version: { kind: 'none' }, reason: say('nothing in a record says its version', 'guess') };
}

/** Marks the fields that can only be read: where it is said what can be written, all others. */
export function withWritable(
  fields: readonly Field[],
  post: Operation | undefined,
  one: PathItem | undefined,
  resolve: Resolve,
): readonly Field[] {
  const bodies = [post, one?.operations.patch, one?.operations.put].flatMap((each) =>
    each ? [takenFields(each, resolve)] : [],
  );
  const written = new Map(bodies.flatMap((each) => [...each]));
  if (written.size === 0) return fields;
  return fields.map((field) => {
    const taken = written.get(field.name);
    if (!taken) return { ...field, readOnly: true };
    const { required: _shown, ...rest } = field;
    // What has to be given is what a creation asks for, not what an answer always has.
    return {
      ...rest,
      ...(taken.required && { required: true }),
      ...(field.maxLength === undefined &&
        taken.maxLength !== undefined &&
        field.type === 'text' && { maxLength: taken.maxLength }),
    };
  });
}

/** Returns the fields that an operation takes, by name. */
export function takenFields(operation: Operation, resolve: Resolve): ReadonlyMap<string, Field> {
  const taken = takenBy(operation, resolve);
  const inner = taken && recordIn(taken, resolve);
  return new Map(
    (inner ? fieldsOfSchema(inner.schema, resolve, 'words') : []).map((field) => [field.name, field]),
  );
}
