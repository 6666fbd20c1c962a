import { isDeepStrictEqual } from 'node:util';
import type { Form, FormView, RecordType, System } from '@vast-knot/core';
import type { InletConnection } from '../connector/inlet';
import { inTransaction, type Client, type Pool } from '../db/pool';
import type { Seal } from '../db/seal';
import { identityFor } from '../drafts/begin';
import { addSystem, changeSystem, lockSystem } from '../systems/repository';
import type { FormNamed } from './answers';

/** A system that only tells, with its record types and their pages. */
interface Inlet {
  readonly definition: System;
  readonly connection: InletConnection;
}

/** What a record type and its page are to be. */
type TypeWithForm = Pick<FormView, 'type' | 'form'>;

/** What became of a change. */
export type Changed =
  | { readonly is: 'changed' }
  | { readonly is: 'no inlet' }
  /** Somebody else changed it in between; null where it is gone. */
  | { readonly is: 'moved'; readonly theirs: TypeWithForm | null }
  /** Another type has the name, or another page the address. */
  | { readonly is: 'taken' };

/** Adds a record type, with its page, to a system that only tells. Makes the first such system where there is none. */
export async function addFormType(
  pool: Pool,
  seal: Seal,
  others: readonly System[],
  key: string,
  wanted: TypeWithForm,
): Promise<Changed> {
  return inTransaction(pool, async (client) => {
    if (!others.some((each) => each.key === key)) {
      const definition = { ...identityFor('Files and forms', others), key, recordTypes: [] };
      const told = { kind: 'cloud events', types: {}, record: '/record' } as const;
      await addSystem(client, { definition, connection: { kind: 'inlet', told } });
    }
    const inlet = await lockedInlet(client, seal, key);
    if (!inlet) return { is: 'no inlet' };
    return inlet.definition.recordTypes.some(({ name }) => name === wanted.type.name)
      ? { is: 'taken' }
      : kept(client, inlet, [...inlet.definition.recordTypes, wanted.type], wanted);
  });
}

/** Gives a record type and its page what they are to be, where they are as they were seen. */
export async function changeFormType(
  pool: Pool,
  seal: Seal,
  { system, recordType }: FormNamed,
  { seen, ...wanted }: TypeWithForm & { readonly seen: TypeWithForm },
): Promise<Changed> {
  return inTransaction(pool, async (client) => {
    const inlet = await lockedInlet(client, seal, system);
    if (!inlet) return { is: 'no inlet' };
    const theirs = typeIn(inlet, recordType);
    if (!theirs || !isDeepStrictEqual(plain(theirs), plain(seen)))
      return { is: 'moved', theirs: theirs ?? null };
    const types = inlet.definition.recordTypes.map((type) => (type.name === recordType ? wanted.type : type));
    return kept(client, inlet, types, wanted);
  });
}

/** Takes a record type out, with its page. Returns what it was; undefined where there is none. */
export async function removeFormType(
  pool: Pool,
  seal: Seal,
  { system, recordType }: FormNamed,
): Promise<TypeWithForm | undefined> {
  return inTransaction(pool, async (client) => {
    const inlet = await lockedInlet(client, seal, system);
    const was = inlet && typeIn(inlet, recordType);
    if (!inlet || !was) return undefined;
    const types = inlet.definition.recordTypes.filter(({ name }) => name !== recordType);
    await kept(client, inlet, types, { type: was.type, form: null });
    return was;
  });
}

async function lockedInlet(client: Client, seal: Seal, key: string): Promise<Inlet | undefined> {
  const found = await lockSystem(client, seal, key);
  if (!found || found.connection.kind !== 'inlet') return undefined;
  return { definition: found.definition, connection: found.connection };
}

function typeIn({ definition, connection }: Inlet, name: string): TypeWithForm | undefined {
  const type = definition.recordTypes.find((each) => each.name === name);
  return type && { type, form: connection.forms?.[name] ?? null };
}

/** As it is when it is written and read again: members that are undefined are none. */
const plain = (value: TypeWithForm): unknown => JSON.parse(JSON.stringify(value));

async function kept(
  client: Client,
  { definition, connection }: Inlet,
  recordTypes: readonly RecordType[],
  { type: { name }, form }: TypeWithForm,
): Promise<Changed> {
  const { [name]: _before, ...others } = connection.forms ?? {};
  if (form && (await isTaken(client, form, definition.key, name))) return { is: 'taken' };
  const forms = form ? { ...others, [name]: form } : others;
  await changeSystem(client, {
    definition: { ...definition, recordTypes },
    connection: { ...connection, forms },
  });
  return { is: 'changed' };
}

/** Held while the address of a page is given, so that of two who want it one gets it. */
const addressLock = 4607;

async function isTaken(
  client: Client,
  { address }: Form,
  system: string,
  recordType: string,
): Promise<boolean> {
  await client.query('SELECT pg_advisory_xact_lock($1, hashtext($2))', [addressLock, address]);
  const { rowCount } = await client.query(
    `SELECT 1 FROM systems, jsonb_each(coalesce(connection->'forms', '{}')) AS page (name, form)
     WHERE form->>'address' = $1 AND (systems.key, page.name) <> ($2, $3)`,
    [address, system, recordType],
  );
  return rowCount !== 0;
}
