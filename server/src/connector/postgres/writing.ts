import {
  printJson,
  scalarText,
  WorkspaceError,
  type ApplyResult,
  type GuardedChange,
  type JsonObject,
  type RowWrite,
  type SearchCondition,
  type StoredRecord,
} from '@vast-knot/core';
import { unanswered, writeByKind, type Guarded } from '../byKind';
import { createdBefore, eachAlone, editsHold, failed } from '../writing';
import type { Database } from './database';
import { deleteStatement, insertStatement, updateStatement, type RowEdit } from './statements';
import type { Tables, TypedTable } from './tables';
import { oids } from './values';

/** Rows that one statement changes. */
const mostWritten = 500;

/** What writing rows of a table needs of a connector. */
interface Writing {
  readonly tables: Tables;
  readonly database: Database;
  readonly get: (id: string) => Promise<StoredRecord | undefined>;
  readonly find: (conditions: readonly SearchCondition[]) => Promise<readonly StoredRecord[]>;
}

/** Changes, creates and removes rows of a table, as far as its connection lets them be. */
export function writeRows(
  table: TypedTable,
  changes: readonly GuardedChange[],
  writing: Writing,
): Promise<readonly ApplyResult[]> {
  const refused = (what: RowWrite, words: string): ApplyResult | undefined =>
    table.style.writes.includes(what)
      ? undefined
      : {
          ok: false,
          problem: writing.database.failure(
            'refused',
            `lets no rows of ${table.type.plural} be ${words}: its connection says so.`,
          ).problem,
        };
  return writeByKind(changes, {
    edit: (edits) => edit(writing, table, edits, refused('change', 'changed')),
    create: (creations) =>
      eachAlone(creations, (creation) => {
        const no = refused('create', 'created');
        return no ? Promise.resolve(no) : create(writing, table, creation);
      }),
    remove: (removals) =>
      eachAlone(removals, (removal) => {
        const no = refused('remove', 'removed');
        return no ? Promise.resolve(no) : remove(writing, table, removal);
      }),
  });
}

async function edit(
  writing: Writing,
  table: TypedTable,
  edits: readonly Guarded<'edit'>[],
  refused: ApplyResult | undefined,
): Promise<readonly ApplyResult[]> {
  if (refused) return edits.map(() => refused);
  const results = new Map<Guarded<'edit'>, ApplyResult>();
  let open = [...edits];
  while (open.length > 0) {
    // A statement changes a row once: of several edits of one, each has its turn.
    const turn = [...new Map([...open].reverse().map((edit) => [edit.change.ref.id, edit])).values()].slice(
      0,
      mostWritten,
    );
    open = open.filter((edit) => !turn.includes(edit));
    const done = await editRows(writing, table, turn);
    turn.forEach((edit, at) => results.set(edit, done[at] ?? unanswered));
  }
  return edits.map((edit) => results.get(edit) ?? unanswered);
}

async function editRows(
  writing: Writing,
  table: TypedTable,
  edits: readonly Guarded<'edit'>[],
): Promise<readonly ApplyResult[]> {
  const { tables, database } = writing;
  try {
    const types = await tables.typesOf(table);
    const rows = edits.map((guarded) => rowEdit(writing, table, types, guarded));
    const items = rows.map(({ key, ...rest }) => ({ ...rest, key: { [table.key]: key } }));
    const answer = await database.attempt(updateStatement(table, rows, printJson(items)));
    const found = new Map(
      answer.rows.map(([at, done, ...row]) => [
        Number(at),
        { done: done === true, now: tables.stored(table, row) },
      ]),
    );
    return edits.map((guarded, at) => edited(writing, table, guarded, found.get(at + 1)));
  } catch (thrown) {
    const away = thrown instanceof WorkspaceError && thrown.problem.code === 'unavailable';
    // The trouble of one is not that of the others.
    if (edits.length > 1 && !away)
      return eachAlone(edits, async (one) => (await editRows(writing, table, [one]))[0] ?? unanswered);
    return edits.map(() => failed(thrown instanceof WorkspaceError ? thrown : database.problem(thrown)));
  }
}

function rowEdit(
  { tables, database }: Writing,
  table: TypedTable,
  types: ReadonlyMap<string, number>,
  { change, version }: Guarded<'edit'>,
): RowEdit {
  const before: JsonObject = {};
  const set: JsonObject = {};
  for (const edit of change.edits) {
    const type = types.get(edit.path);
    if (type === undefined)
      throw database.failure(
        'refused',
        `has no column “${edit.path}” in ${table.style.table}: only whole columns are written.`,
      );
    set[edit.path] = tables.written(edit.after, type);
    // There is no telling whether two values of type json are the same.
    if (type !== oids.json) before[edit.path] = tables.written(edit.before, type);
  }
  return { key: change.ref.id, version, before, set };
}

function edited(
  { database }: Writing,
  { type }: TypedTable,
  { change, version }: Guarded<'edit'>,
  found: { readonly done: boolean; readonly now: StoredRecord } | undefined,
): ApplyResult {
  const label = `${type.label} ${change.ref.id}`;
  if (!found) return failed(database.failure('not found', `has no ${label}.`));
  const { record, version: then } = found.now;
  // What is there already may be our own write of before.
  if (found.done || editsHold(type, record, change.edits, 'after'))
    return { ok: true, record, ...(then !== undefined && { version: then }) };
  return failed(
    database.failure(
      'changed in between',
      `: ${label} was changed by somebody else in between${version === undefined ? '' : ` (${version} → ${then ?? 'none'})`}.`,
    ),
  );
}

async function create(
  { tables, database, get, find }: Writing,
  table: TypedTable,
  { change, again }: Guarded<'create'>,
): Promise<ApplyResult> {
  const { type, style, key } = table;
  const own = change.record[key];
  if (again) {
    const there =
      own !== undefined && own !== null && own !== ''
        ? await get(scalarText(own))
        : await createdBefore(
            {
              type,
              failure: (code, what) => database.failure(code, what),
              find: (values) =>
                find(Object.entries(values).map(([field, value]) => ({ field, values: [value ?? null] }))),
            },
            style.naturalKey,
            change.record,
          );
    if (there) return made(there);
  }
  const types = await tables.typesOf(table);
  const record: JsonObject = {};
  for (const [name, value] of Object.entries(change.record)) {
    const column = types.get(name);
    if (column === undefined) throw database.failure('refused', `has no column “${name}” in ${style.table}.`);
    record[name] = tables.written(value, column);
  }
  const { rows } = await database.run(insertStatement(table, record, printJson(record)));
  const [row] = rows;
  // Rules and triggers of the database may have put the row elsewhere.
  if (!row) throw database.failure('refused', `created no ${type.label}, and says no reason.`);
  return made(tables.stored(table, row));
}

async function remove(
  { database }: Writing,
  table: TypedTable,
  { change, version }: Guarded<'remove'>,
): Promise<ApplyResult> {
  const { rows } = await database.run(deleteStatement(table, change.ref.id, version));
  if (rows.length === 0) return { ok: true, record: undefined };
  throw database.failure(
    'changed in between',
    `: ${table.type.label} ${change.ref.id} was changed by somebody else in between.`,
  );
}

function made({ ref, record, version }: StoredRecord): ApplyResult {
  return { ok: true, id: ref.id, record, ...(version !== undefined && { version }) };
}
