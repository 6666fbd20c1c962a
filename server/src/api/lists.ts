import Joi from 'joi';
import { fieldAt, leafFields, readPath, type Json } from '@vast-knot/core';
import { givenAs, paged, type GivenAs } from '../http/giveList';
import { notFound, parsed } from '../http/problem';
import { listMessages, type MessageFilter } from '../messages/log';
import { listRuns, type RunFilter } from '../runs/list';
import { listRules } from '../rules/repository';
import { readTable } from '../tables/repository';
import { findingsOf } from './computed';
import { giveList } from './giving';
import { messageFilterMembers } from './messages';
import { runFilterMembers } from './runs';
import { get, type Handle, type Route } from './route';

/** Rows that are read at a time. */
const atOnce = 500;

/** Returns columns that are called in a table as they are among the members of an object. */
const called = (...labels: readonly string[]) => labels.map((label) => ({ label, name: label }));

const runsQuery = Joi.object<RunFilter & GivenAs>({ ...runFilterMembers, ...givenAs });

const runs: Handle<'/lists/runs'> = async (request, response, parts) => {
  const { pool, registry } = parts;
  const { as, guard, ...filter } = parsed(runsQuery, request.query);
  const { rules } = await registry.get();
  const names = new Map(rules.map(({ rule }) => [rule.id, rule.name]));
  await giveList(
    response,
    parts,
    { as, ...(guard && { guard }) },
    {
      name: 'runs',
      columns: called(
        'Run',
        'Came',
        'System',
        'Record type',
        'Record',
        'What',
        'Changed',
        'State',
        'Result',
        'Why',
        'Rules',
        'Writes',
        'Ended',
      ),
      rows: paged<string>(undefined, async (before) => {
        const some = await listRuns(pool, { ...filter, ...(before !== undefined && { before }) }, atOnce);
        return {
          rows: some.map((run) => [
            run.id,
            run.receivedAt,
            run.system,
            run.ref?.recordType ?? null,
            run.ref?.id ?? null,
            run.kind,
            [...run.changed],
            run.state,
            run.result,
            run.because,
            run.rules.map((id) => names.get(id) ?? id),
            run.writes,
            run.finishedAt,
          ]),
          next: some.length < atOnce ? undefined : some.at(-1)?.id,
        };
      }),
    },
  );
};

const messagesQuery = Joi.object<MessageFilter & GivenAs>({ ...messageFilterMembers, ...givenAs });

const messages: Handle<'/lists/messages'> = async (request, response, parts) => {
  const { pool } = parts;
  const { as, guard, ...filter } = parsed(messagesQuery, request.query);
  await giveList(
    response,
    parts,
    { as, ...(guard && { guard }) },
    {
      name: 'messages',
      columns: called(
        'Message',
        'Made',
        'Rule',
        'Sent to',
        'Type',
        'Record',
        'State',
        'Attempts',
        'Last answer',
        'Run',
      ),
      rows: paged<string>(undefined, async (before) => {
        const some = await listMessages(pool, { ...filter, ...(before !== undefined && { before }) }, atOnce);
        return {
          rows: some.map(({ id, createdAt, rule, endpoint, type, ref, state, attempts, last, runId }) => [
            id,
            String(createdAt),
            rule,
            endpoint,
            type,
            ref.id,
            state,
            attempts,
            last,
            runId,
          ]),
          next: some.length < atOnce ? undefined : some.at(-1)?.seq,
        };
      }),
    },
  );
};

const findingsQuery = Joi.object<GivenAs>(givenAs);

const findings: Handle<'/lists/findings'> = async (request, response, parts) => {
  const { pool, registry, computer } = parts;
  const as = parsed(findingsQuery, request.query);
  const rules = await listRules(pool);
  const drafts = rules.map(({ id, draft }) => ({ ...draft, id, version: 0 }));
  const found = await findingsOf(drafts, drafts, await registry.get(), { computer });
  const all = drafts.flatMap(({ id, name }, at) =>
    (found[at] ?? []).map(({ severity, kind, at: place, message }): readonly Json[] => [
      name,
      severity,
      kind,
      place,
      message,
      id,
    ]),
  );
  await giveList(response, parts, as, {
    name: 'findings',
    columns: called('Rule', 'Severity', 'Kind', 'Where', 'What', 'Rule id'),
    rows: paged<number>(undefined, () => Promise.resolve({ rows: all, next: undefined })),
  });
};

const recordsQuery = Joi.object<GivenAs & { search: string; field?: string; value?: string }>({
  ...givenAs,
  search: Joi.string().allow('').max(200).default(''),
  field: Joi.string().max(200),
  value: Joi.string().allow('').max(500),
}).and('field', 'value');

const records: Handle<'/lists/records/:system/:recordType'> = async (request, response, parts) => {
  const { registry } = parts;
  const { as, guard, search, field, value } = parsed(recordsQuery, request.query);
  const { system, recordType } = request.params;
  const { stores, catalog } = await registry.get();
  const store = stores.get(system);
  const type = catalog.recordType(system, recordType);
  if (!store || !type) throw notFound(`record type ${recordType} in ${system}`);
  const leaves = leafFields(type.fields);
  const conditions =
    field === undefined || !fieldAt(type.fields, field) ? [] : [{ field, values: [value ?? ''] }];
  await giveList(
    response,
    parts,
    { as, ...(guard && { guard }) },
    {
      name: type.plural,
      columns: leaves.map(({ path, label }) => ({ label, name: path })),
      rows: paged<string>(undefined, async (cursor) => {
        const page = await store.page({ type: type.name, search, cursor, limit: atOnce, conditions });
        return {
          rows: page.records.map(({ record }) => leaves.map(({ path }) => readPath(record, path) ?? null)),
          next: page.next ?? undefined,
        };
      }),
    },
  );
};

const tableQuery = Joi.object<GivenAs>(givenAs);

const table: Handle<'/lists/tables/:name'> = async (request, response, parts) => {
  const { pool } = parts;
  const as = parsed(tableQuery, request.query);
  const found = await readTable(pool, request.params.name);
  if (!found) throw notFound(`table “${request.params.name}”`);
  const { definition, rows } = found;
  await giveList(response, parts, as, {
    name: definition.name,
    columns: definition.columns.map(({ label, name }) => ({ label, name })),
    rows: paged<number>(undefined, () =>
      Promise.resolve({ rows: rows.map(({ cells }) => cells), next: undefined }),
    ),
  });
};

/** Lists as files, narrowed as they are on the screen: CSV, XLSX, or JSON lines. */
export const listRoutes: readonly Route[] = [
  get('/lists/runs', 'runs.read', runs, { query: runsQuery }),
  get('/lists/messages', 'messages.read', messages, { query: messagesQuery }),
  get('/lists/findings', 'rules.read', findings, { query: findingsQuery }),
  get('/lists/records/:system/:recordType', 'records.read', records, { query: recordsQuery }),
  get('/lists/tables/:name', 'tables.read', table, { query: tableQuery }),
];
