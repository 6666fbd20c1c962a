import { Router, text as textBody } from 'express';
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
import { inTransaction, type Pool } from '../db/pool';
import { HttpProblem, notFound, parsed, requiredRevision } from '../http/problem';
import type { RegistryCache } from '../registry/registry';
import { listRules } from '../rules/repository';
import { changeTable, refuseProblems } from '../tables/changeTable';
import { coverageOf } from '../coverage/coverageOf';
import {
  changesSince,
  insertTable,
  listChanges,
  lockTable,
  readTable,
  summariseTables,
  writeChanges,
  type KeptTable,
} from '../tables/repository';

/** Rows shown in the preview of a file, of each kind. */
const previewed = 200;
const csvLimit = '100mb';
/** Bodies of table changes may be larger than those of other requests. */
export const rowsLimit = '20mb';

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

/** Lookup tables: their rows, files in and out, history, coverage, and the rules that read them. */
export function tableRoutes(pool: Pool, registry: RegistryCache): Router {
  const router = Router();
  const existing = async (name: string): Promise<KeptTable> => {
    const table = await readTable(pool, name);
    if (!table) throw notFound(`table “${name}”`);
    return table;
  };
  const viewed = async (name: string): Promise<TableView> =>
    toView(await existing(name), await listRules(pool));

  router.get('/', async (_request, response) => {
    const [tables, rules] = await Promise.all([summariseTables(pool), listRules(pool)]);
    const summaries: TableSummary[] = tables.map(({ definition, rowCount, revision }) => ({
      ...definition,
      rowCount,
      revision,
      usedBy: usesOf(definition.name, rules),
    }));
    response.json(summaries);
  });

  router.get('/:name', async (request, response) => void response.json(await viewed(request.params.name)));

  router.post('/', async (request, response) => {
    const definition = checkedDefinition(request.body);
    if (await readTable(pool, definition.name)) {
      throw new HttpProblem(409, 'Name taken', `There is a table “${definition.name}” already.`);
    }
    await insertTable(pool, { ...definition, rows: [] });
    response.status(201).json(await viewed(definition.name));
  });

  // Columns are known by their names: a new one is blank in all rows, one that is left out takes its values with it.
  router.put('/:name', async (request, response) => {
    const { name } = request.params;
    const definition = checkedDefinition(request.body);
    if (definition.name !== name) {
      throw new HttpProblem(422, 'Not valid', 'A table keeps its name, since formulas call it by it.');
    }
    await inTransaction(pool, async (client) => {
      await lockTable(client, name);
      const table = await readTable(client, name);
      if (!table) throw notFound(`table “${name}”`);
      const rows = table.rows.map((row) => withColumns(row, table.definition, definition));
      refuseProblems({ definition }, rows);
      await client.query('UPDATE tables SET definition = $2 WHERE name = $1', [
        name,
        JSON.stringify(definition),
      ]);
      const sameColumns =
        JSON.stringify(definition.columns.map((column) => column.name)) ===
        JSON.stringify(table.definition.columns.map((column) => column.name));
      const changes = sameColumns
        ? []
        : rows.map((row, at) => ({ id: row.id, before: table.rows[at]?.cells ?? null, after: row.cells }));
      const by = request.session.user?.name ?? '';
      await writeChanges(client, name, changes, by, sameColumns ? 'Settings' : 'Columns');
    });
    response.json(await viewed(name));
  });

  router.delete('/:name', async (request, response) => {
    const { usedBy } = await viewed(request.params.name);
    if (usedBy.length > 0) {
      const names = usedBy.map((rule) => `“${rule.name}”`).join(', ');
      throw new HttpProblem(409, 'In use', `The table is read by ${names}.`);
    }
    await pool.query('DELETE FROM tables WHERE name = $1', [request.params.name]);
    response.status(204).end();
  });

  router.post('/:name/rows', async (request, response) => {
    const { what, changes } = parsed(rowsBody, request.body);
    const by = request.session.user?.name ?? '';
    const { done, table } = await changeTable(pool, request.params.name, by, what, () => changes);
    response.json({ done, revision: table.revision });
  });

  router.get('/:name/history', async (request, response) => {
    await existing(request.params.name);
    response.json(await listChanges(pool, request.params.name));
  });

  router.post('/:name/history/:id/restore', async (request, response) => {
    const { name } = request.params;
    const id = Number(request.params.id);
    if (!Number.isSafeInteger(id)) throw notFound('such change');
    const by = request.session.user?.name ?? '';
    await changeTable(pool, name, by, `Restored to before change ${id}`, async (_table, client) => {
      const since = await changesSince(client, name, id);
      return merged(since.flatMap((changes) => [...changes].reverse().map(invertRowChange)));
    });
    response.json(await viewed(name));
  });

  router.get('/:name/csv', async (request, response) => {
    const { definition, rows } = await existing(request.params.name);
    const csv = writeTableCsv(
      definition,
      rows.map(({ cells }) => cells),
    );
    response.type('text/csv; charset=utf-8').attachment(`${definition.name}.csv`).send(`\ufeff${csv}`);
  });

  router.post(
    '/:name/csv/preview',
    textBody({ type: 'text/csv', limit: csvLimit }),
    async (request, response) => {
      const table = await existing(request.params.name);
      const difference = compareRows(table.definition, table.rows, rowsOfFile(table, request.body));
      const preview: ImportPreview = {
        revision: table.revision,
        added: difference.added.slice(0, previewed),
        changed: difference.changed
          .slice(0, previewed)
          .map(({ row, after }) => ({ before: row.cells, after })),
        removed: difference.removed.slice(0, previewed).map(({ cells }) => cells),
        counts: {
          added: difference.added.length,
          changed: difference.changed.length,
          removed: difference.removed.length,
          same: difference.same,
        },
      };
      response.json(preview);
    },
  );

  // What was previewed is what is done: the table must be as it was then.
  router.post('/:name/csv', textBody({ type: 'text/csv', limit: csvLimit }), async (request, response) => {
    const { name } = request.params;
    const revision = requiredRevision(request.get('If-Match'));
    const remove = request.query['remove'] === 'yes';
    const by = request.session.user?.name ?? '';
    const { done } = await changeTable(pool, name, by, 'Imported from a file', (table) => {
      if (table.revision !== revision) {
        throw new HttpProblem(
          412,
          'Changed in between',
          'The table was changed since the preview; look at it again.',
        );
      }
      const difference = compareRows(table.definition, table.rows, rowsOfFile(table, request.body));
      return [
        ...(remove ? difference.removed.map((row) => ({ id: row.id, before: row.cells, after: null })) : []),
        ...difference.changed.map(({ row, after }) => ({ id: row.id, before: row.cells, after })),
        ...difference.added.map((after) => ({ id: null, before: null, after })),
      ];
    });
    response.json({ changes: done.length });
  });

  router.get('/:name/coverage', async (request, response) => {
    await existing(request.params.name);
    response.json(await coverageOf(request.params.name, await listRules(pool), await registry.get()));
  });
  return router;
}

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

/** A row under other columns, which are known by their names. */
function withColumns(row: KeptRow, from: TableDefinition, to: TableDefinition): KeptRow {
  const cells = to.columns.map(({ name }) => {
    const at = from.columns.findIndex((column) => column.name === name);
    return row.cells[at] ?? null;
  });
  return { id: row.id, cells };
}

/** Several changes of one row, one after the other, as one. */
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

/** The rules that read a table, as they run or as they are edited. */
function usesOf(table: string, rules: readonly RuleView[]): TableSummary['usedBy'] {
  return rules.flatMap(({ id, draft, published }) => {
    const at = new Set([
      ...tablesReadAt(draft, table),
      ...(published ? tablesReadAt(published.body, table) : []),
    ]);
    return at.size > 0 ? [{ id, name: draft.name, at: [...at] }] : [];
  });
}
