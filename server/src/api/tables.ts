import { json, type Request } from 'express';
import Joi from 'joi';
import {
  definitionProblems,
  guardedCell,
  invertRowChange,
  rowCells,
  tableDefinitionSchema,
  tablesReadAt,
  writeTableCsv,
  type AskedRowChange,
  type KeptRow,
  type RuleView,
  type TableDefinition,
  type TableSummary,
  type TableView,
} from '@vast-knot/core';
import { inTransaction } from '../db/pool';
import { HttpProblem, notFound, parsed, requiredRevision } from '../http/problem';
import { listRules } from '../rules/repository';
import { changeTable, refuseProblems } from '../tables/changeTable';
import {
  changesSince,
  insertTable,
  keepDefinition,
  listChanges,
  lockTable,
  readTable,
  removeTable,
  summariseTables,
  writeChanges,
  type KeptTable,
  definedSince,
} from '../tables/repository';
import { computed } from './computed';
import { guardQuery } from './params';
import { get, personOf, post, put, remove, type AppParts, type Handle, type Route } from './route';

const longestFile = 100 * 1024 * 1024;
/** Bodies of table changes may be larger than those of other requests. */
const rowsLimit = '20mb';

const rowsBody = Joi.object<{ what: string; changes: AskedRowChange[] }>({
  what: Joi.string().max(200).required(),
  changes: Joi.array()
    .items(
      Joi.object<AskedRowChange>({
        id: Joi.number().integer().allow(null).required(),
        before: rowCells.allow(null).required(),
        after: rowCells.allow(null).required(),
      }),
    )
    .max(100_000)
    .required(),
});

async function existing(name: string, { pool }: AppParts): Promise<KeptTable> {
  const table = await readTable(pool, name);
  if (!table) throw notFound(`table “${name}”`);
  return table;
}

async function viewed(name: string, parts: AppParts): Promise<TableView> {
  return toView(await existing(name, parts), await listRules(parts.pool));
}

const list: Handle<'/tables'> = async (_request, response, { pool }) => {
  const [tables, rules] = await Promise.all([summariseTables(pool), listRules(pool)]);
  response.json(
    tables.map(({ definition, rowCount, revision }): TableSummary => ({
      ...definition,
      rowCount,
      revision,
      usedBy: usesOf(definition.name, rules),
    })),
  );
};

const read: Handle<'/tables/:name'> = async (request, response, parts) => {
  response.json(await viewed(request.params.name, parts));
};

const create: Handle<'/tables'> = async (request, response, parts) => {
  const definition = checkedDefinition(request.body);
  if (await readTable(parts.pool, definition.name)) {
    throw new HttpProblem(409, 'Name taken', `There is a table “${definition.name}” already.`);
  }
  await insertTable(parts.pool, { ...definition, rows: [] });
  response.status(201).json(await viewed(definition.name, parts));
};

/** Columns are known by their names: a new one is blank in all rows, one that is left out takes its values with it. */
const define: Handle<'/tables/:name'> = async (request, response, parts) => {
  const { name } = request.params;
  const seen = requiredRevision(request.get('if-match'));
  const definition = checkedDefinition(request.body);
  if (definition.name !== name) {
    throw new HttpProblem(422, 'Not valid', 'A table keeps its name, since formulas call it by it.');
  }
  await inTransaction(parts.pool, async (client) => {
    await lockTable(client, name);
    const table = await readTable(client, name);
    if (!table) throw notFound(`table “${name}”`);
    const other = await definedSince(client, name, seen);
    if (other) {
      const detail = `${other.by} changed the settings of “${name}” meanwhile. Look at them before you save yours.`;
      throw new HttpProblem(412, 'Changed in between', detail);
    }
    const rows = table.rows.map((row) => withColumns(row, table.definition, definition));
    refuseProblems({ definition }, rows);
    await keepDefinition(client, definition);
    const sameColumns =
      JSON.stringify(definition.columns.map((column) => column.name)) ===
      JSON.stringify(table.definition.columns.map((column) => column.name));
    await writeChanges(client, name, {
      by: personOf(request),
      what: sameColumns ? 'Settings' : 'Columns',
      changes: sameColumns
        ? []
        : rows.map((row, at) => ({ id: row.id, before: table.rows[at]?.cells ?? null, after: row.cells })),
    });
  });
  response.json(await viewed(name, parts));
};

const removeOne: Handle<'/tables/:name'> = async (request, response, parts) => {
  const { usedBy } = await viewed(request.params.name, parts);
  if (usedBy.length > 0) {
    const names = usedBy.map((rule) => `“${rule.name}”`).join(', ');
    throw new HttpProblem(409, 'In use', `The table is read by ${names}.`);
  }
  await removeTable(parts.pool, request.params.name);
  response.status(204).end();
};

const changeRows: Handle<'/tables/:name/rows'> = async (request, response, { pool }) => {
  const { what, changes } = parsed(rowsBody, request.body);
  const { name } = request.params;
  const { done, table } = await changeTable(pool, { name, by: personOf(request), what }, () => changes);
  response.json({ done, revision: table.revision });
};

const history: Handle<'/tables/:name/history'> = async (request, response, parts) => {
  await existing(request.params.name, parts);
  response.json(await listChanges(parts.pool, request.params.name));
};

const restore: Handle<'/tables/:name/history/:id/restore'> = async (request, response, parts) => {
  const { name } = request.params;
  const id = Number(request.params.id);
  if (!Number.isSafeInteger(id)) throw notFound('such change');
  const change = { name, by: personOf(request), what: `Restored to before change ${id}` };
  await changeTable(parts.pool, change, async (_table, client) => {
    const since = await changesSince(client, name, id);
    return merged(since.flatMap((changes) => [...changes].reverse().map(invertRowChange)));
  });
  response.json(await viewed(name, parts));
};

const download: Handle<'/tables/:name/csv'> = async (request, response, parts) => {
  const { guard } = parsed(guardQuery, request.query);
  const { definition, rows } = await existing(request.params.name, parts);
  const csv = writeTableCsv(
    definition,
    rows.map(({ cells }) => cells),
    guard === 'yes' ? guardedCell : undefined,
  );
  response.type('text/csv; charset=utf-8').attachment(`${definition.name}.csv`).send(`\ufeff${csv}`);
};

const preview: Handle<'/tables/:name/csv/preview'> = async (request, response, { files }) => {
  const { name } = request.params;
  response.json(await files.do({ do: 'look', name }, fileIn(request)));
};

const uploadQuery = Joi.object<{ remove?: 'yes' }>({ remove: Joi.valid('yes') });

const upload: Handle<'/tables/:name/csv'> = async (request, response, { files }) => {
  const { name } = request.params;
  const revision = requiredRevision(request.get('If-Match'));
  const removes = parsed(uploadQuery, request.query).remove === 'yes';
  const by = personOf(request);
  response.json(await files.do({ do: 'take', name, revision, removes, by }, fileIn(request)));
};

const coverage: Handle<'/tables/:name/coverage'> = async (request, response, parts) => {
  await existing(request.params.name, parts);
  const [rules, current] = await Promise.all([listRules(parts.pool), parts.registry.get()]);
  const asEdited = rules.map(({ id, draft }) => ({ id, draft }));
  response.json(await computed(parts, 'coverage', { table: request.params.name, rules: asEdited }, current));
};

function checkedDefinition(body: unknown): TableDefinition {
  const definition = parsed(tableDefinitionSchema, body);
  const problems = definitionProblems(definition);
  const [first] = problems;
  if (first) {
    throw new HttpProblem(
      422,
      'Not valid',
      first.message,
      problems.map(({ message }) => ({ at: 'definition', message })),
    );
  }
  return definition;
}

/** Returns the file that comes with a request, part by part. Throws where it is none. */
function fileIn(request: Request): AsyncIterable<Uint8Array> {
  if (!request.is('text/csv')) throw new HttpProblem(415, 'Not CSV', 'Send the file as text/csv.');
  return bounded(request as AsyncIterable<Buffer>);
}

/** Throws where a file becomes too large. */
async function* bounded(parts: AsyncIterable<Buffer>): AsyncGenerator<Uint8Array> {
  let left = longestFile;
  for await (const part of parts) {
    left -= part.length;
    if (left < 0) throw new HttpProblem(413, 'Too large', 'The file is larger than is taken here.');
    yield part;
  }
}

/** Returns a row under other columns, which are known by their names. */
function withColumns(row: KeptRow, from: TableDefinition, to: TableDefinition): KeptRow {
  const cells = to.columns.map(({ name }) => {
    const at = from.columns.findIndex((column) => column.name === name);
    return row.cells[at] ?? null;
  });
  return { id: row.id, cells };
}

/** Returns several changes of one row, one after the other, as one. */
function merged(changes: readonly AskedRowChange[]): readonly AskedRowChange[] {
  const byId = new Map<number | null, AskedRowChange>();
  for (const change of changes) {
    const known = byId.get(change.id);
    byId.set(change.id, known ? { ...change, before: known.before } : change);
  }
  return [...byId.values()].filter(({ before, after }) => before !== null || after !== null);
}

function toView({ definition, rows, revision }: KeptTable, rules: readonly RuleView[]): TableView {
  return {
    ...definition,
    rows: rows.map(({ cells }) => cells),
    rowIds: rows.map(({ id }) => id),
    rowCount: rows.length,
    revision,
    usedBy: usesOf(definition.name, rules),
  };
}

/** Returns the rules that read a table, as they run or as they are edited. */
function usesOf(table: string, rules: readonly RuleView[]): TableSummary['usedBy'] {
  return rules.flatMap(({ id, draft, published }) => {
    const at = new Set([
      ...tablesReadAt(draft, table),
      ...(published ? tablesReadAt(published.body, table) : []),
    ]);
    return at.size > 0 ? [{ id, name: draft.name, at: [...at] }] : [];
  });
}

const rowsJson = json({ limit: rowsLimit });
/** Lookup tables: their rows, files in and out, history, coverage, and the rules that read them. */
export const tableRoutes: readonly Route[] = [
  get('/tables', 'tables.read', list),
  get('/tables/:name', 'tables.read', read),
  post('/tables', 'tables.change', create, { body: tableDefinitionSchema }),
  put('/tables/:name', 'tables.change', define, {
    body: tableDefinitionSchema,
    revision: true,
    reads: [rowsJson],
  }),
  remove('/tables/:name', 'tables.change', removeOne),
  post('/tables/:name/rows', 'tables.change', changeRows, { body: rowsBody, reads: [rowsJson] }),
  get('/tables/:name/history', 'tables.read', history),
  post('/tables/:name/history/:id/restore', 'tables.change', restore),
  get('/tables/:name/csv', 'tables.read', download, { query: guardQuery }),
  post('/tables/:name/csv/preview', 'tables.read', preview, { csv: true, reads: [] }),
  post('/tables/:name/csv', 'tables.change', upload, {
    csv: true,
    revision: true,
    query: uploadQuery,
    reads: [],
  }),
  get('/tables/:name/coverage', 'tables.read', coverage),
];
