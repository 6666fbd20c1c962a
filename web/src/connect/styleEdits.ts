import {
  labelOf,
  pluralLabel,
  styleOf,
  type ConnectionDraft,
  type HttpDraft,
  type HttpConnection,
  type RecordTypeStyle,
  type TypeStyle,
} from '@vast-knot/core';

/** One part of how records are reached. */
export type Part = keyof RecordTypeStyle;

/** Returns the style of a record type; where the draft does not take the type, what is usual. */
export function styleIn({ connection }: HttpDraft, type: string): TypeStyle {
  return styleOf(connection, type) ?? { ...connection.usual, path: '/' };
}

/** Returns whether a record type has a part of its own. */
export function hasOwn({ connection }: HttpDraft, type: string, part: Part): boolean {
  const own = connection.recordTypes[type];
  return own !== undefined && part in own;
}

/** Changes a part where it stands: in the record type, where that has its own, or in what is usual. Without a value it is taken out. */
export function withPart<P extends Part>(
  draft: HttpDraft,
  type: string,
  part: P,
  value: RecordTypeStyle[P] | undefined,
): HttpDraft {
  const { connection } = draft;
  const own = connection.recordTypes[type];
  if (own && part in own)
    return withConnection(draft, {
      recordTypes: { ...connection.recordTypes, [type]: { ...own, [part]: value ?? null } },
    });
  const { [part]: _before, ...others } = connection.usual;
  const usual = value === undefined ? others : { ...others, [part]: value };
  return withConnection(draft, { usual: usual as HttpConnection['usual'] });
}

/** Gives a record type a part of its own, as it is now; or lets it have what is usual again. */
export function withOwn(draft: HttpDraft, type: string, part: Part, own: boolean): HttpDraft {
  const { connection } = draft;
  const known = connection.recordTypes[type];
  if (!known) return draft;
  const { [part]: _before, ...others } = known;
  const next = own ? { ...known, [part]: connection.usual[part] ?? null } : others;
  return withConnection(draft, {
    recordTypes: { ...connection.recordTypes, [type]: next as HttpConnection['recordTypes'][string] },
  });
}

/** Changes parts of the connection that concern the system as a whole. */
export function withConnection<D extends ConnectionDraft>(draft: D, parts: Partial<D['connection']>): D {
  return { ...draft, connection: { ...draft.connection, ...parts } };
}

/**
 * Takes a record type into the connection as it was proposed or was left out, or leaves it out and keeps how it was reached. `unknown` is how
 * one is reached of which nothing was proposed; without it, it is not taken.
 */
export function withTaken<D extends ConnectionDraft>(
  draft: D,
  type: string,
  taken: boolean,
  unknown?: D['proposed'][string],
): D {
  const { [type]: own, ...others } = draft.connection.recordTypes;
  if (!taken)
    return {
      ...draft,
      connection: { ...draft.connection, recordTypes: others },
      proposed: { ...draft.proposed, ...(own && { [type]: own }) },
    };
  const known = own ?? draft.proposed[type] ?? unknown;
  if (!known) return draft;
  return { ...draft, connection: { ...draft.connection, recordTypes: { ...others, [type]: known } } };
}

/** Adds a record type of which only the name is known. */
export function withNewType(draft: HttpDraft, name: string): HttpDraft {
  const label = labelOf(name);
  const fields = [{ name: 'id', label: 'Id', type: 'text' as const, readOnly: true }];
  const type = { name, label, plural: pluralLabel(label), idField: 'id', nameField: 'id', fields };
  return withTaken({ ...draft, recordTypes: [...draft.recordTypes, type] }, name, true, {
    path: `/${encodeURIComponent(name)}`,
  });
}
