import { json, text } from 'express';
import Joi from 'joi';
import {
  compareRows,
  definitionProblems,
  invertRowChange,
  readTableCsv,
  rowCells,
  tableDefinitionSchema,
  tablesReadAt,
  writeTableCsv,
  type AskedRowChange,
  type ImportPreview,
  type KeptRow,
  type Row,
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
} from '../tables/repository';
import { computed } from './computed';
import { get, personOf, post, put, remove, type AppParts, type Handle, type Route } from './route';

/** Rows shown in the preview of a file, of each kind. */
const previewed = 200;
const csvLimit = '100mb';
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
  const definition = checkedDefinition(request.body);
  if (definition.name !== name) {
    throw new HttpProblem(422, 'Not valid', 'A table keeps its name, since formulas call it by it.');
  }
  await inTransaction(parts.pool, async (client) => {
    await lockTable(client, name);
    const table = await readTable(client, name);
    if (!table) throw notFound(`table “${name}”`);
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
  const { definition, rows } = await existing(request.params.name, parts);
  const csv = writeTableCsv(
    definition,
    rows.map(({ cells }) => cells),
  );
  response.type('text/csv; charset=utf-8').attachment(`${definition.name}.csv`).send(`\ufeff${csv}`);
};

const preview: Handle<'/tables/:name/csv/preview'> = async (request, response, parts) => {
  const table = await existing(request.params.name, parts);
  const { added, changed, removed, same } = compareRows(
    table.definition,
    table.rows,
    rowsOfFile(table, request.body),
  );
  response.json({
    revision: table.revision,
    added: added.slice(0, previewed),
    changed: changed.slice(0, previewed).map(({ row, after }) => ({ before: row.cells, after })),
    removed: removed.slice(0, previewed).map(({ cells }) => cells),
    counts: { added: added.length, changed: changed.length, removed: removed.length, same },
  } satisfies ImportPreview);
};

/** What was previewed is what is done: the table must be as it was then. */
const upload: Handle<'/tables/:name/csv'> = async (request, response, { pool }) => {
  const { name } = request.params;
  const revision = requiredRevision(request.get('If-Match'));
  const alsoRemoves = request.query['remove'] === 'yes';
  const change = { name, by: personOf(request), what: 'Imported from a file' };
  const { done } = await changeTable(pool, change, (table) => {
    if (table.revision !== revision) {
      throw new HttpProblem(
        412,
        'Changed in between',
        'The table was changed since the preview; look at it again.',
      );
    }
    const { added, changed, removed } = compareRows(
      table.definition,
      table.rows,
      rowsOfFile(table, request.body),
    );
    return [
      ...(alsoRemoves ? removed.map((row) => ({ id: row.id, before: row.cells, after: null })) : []),
      ...changed.map(({ row, after }) => ({ id: row.id, before: row.cells, after })),
      ...added.map((after) => ({ id: null, before: null, after })),
    ];
  });
  response.json({ changes: done.length });
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

function rowsOfFile(table: KeptTable, body: unknown): readonly Row[] {
  if (typeof body !== 'string') throw new HttpProblem(415, 'Not CSV', 'Send the file as text/csv.');
  const read = readTableCsv(table.definition, body);
  if (read.ok) return read.rows;
  const errors = read.problems.map(({ rows, column, message }) => ({
    at: [...rows, column ?? ''].join('/'),
    message,
  }));
  throw new HttpProblem(422, 'Not valid', errors[0]?.message ?? 'The file cannot be read.', errors);
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
const csvText = text({ type: 'text/csv', limit: csvLimit });

/** Lookup tables: their rows, files in and out, history, coverage, and the rules that read them. */
export const tableRoutes: readonly Route[] = [
  get('/tables', 'tables.read', list),
  get('/tables/:name', 'tables.read', read),
  post('/tables', 'tables.change', create),
  put('/tables/:name', 'tables.change', define, rowsJson),
  remove('/tables/:name', 'tables.change', removeOne),
  post('/tables/:name/rows', 'tables.change', changeRows, rowsJson),
  get('/tables/:name/history', 'tables.read', history),
  post('/tables/:name/history/:id/restore', 'tables.change', restore),
  get('/tables/:name/csv', 'tables.read', download),
  post('/tables/:name/csv/preview', 'tables.read', preview, csvText),
  post('/tables/:name/csv', 'tables.change', upload, csvText),
  get('/tables/:name/coverage', 'tables.read', coverage),
];
