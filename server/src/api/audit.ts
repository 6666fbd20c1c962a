import Joi from 'joi';
import { guardedCell, writeCsv, type AuditView } from '@vast-knot/core';
import { readAudit, type AuditFilter } from '../audit/chain';
import { parsed } from '../http/problem';
import { instant } from './params';
import { get, type Handle, type Route } from './route';

const filters = {
  person: Joi.string().max(80),
  kind: Joi.string().max(40),
  key: Joi.string().max(300),
  from: instant,
  to: instant,
  text: Joi.string().max(200),
};
const listQuery = Joi.object<AuditFilter & { before?: string }>({
  ...filters,
  before: Joi.string().pattern(/^\d{1,18}$/),
});
const exportQuery = Joi.object<AuditFilter & { as: 'csv' | 'jsonl' }>({
  ...filters,
  as: Joi.valid('csv', 'jsonl').required(),
});

const list: Handle<'/audit'> = async (request, response, { pool }) => {
  const { before, ...filter } = parsed(listQuery, request.query);
  response.json(await readAudit(pool, filter, { before, limit: 100 }));
};

const head = [
  'Number',
  'At',
  'Person',
  'Token',
  'From',
  'What',
  'Kind',
  'Key',
  'Name',
  'Result',
  'Because',
  'Changes',
];

const row = (entry: AuditView) =>
  [
    entry.id,
    entry.at,
    entry.person,
    entry.token ?? '',
    entry.from,
    entry.what,
    entry.kind,
    entry.key,
    entry.name ?? '',
    entry.result,
    entry.because ?? '',
    JSON.stringify(entry.changes),
  ].map(guardedCell);

/** All entries of a filter, the last one first: as CSV (RFC 4180), or an object of JSON on each line. */
const give: Handle<'/audit/file'> = async (request, response, { pool }) => {
  const { as, ...filter } = parsed(exportQuery, request.query);
  response.type(as === 'csv' ? 'text/csv; charset=utf-8' : 'application/jsonl; charset=utf-8');
  response.attachment(`audit.${as}`);
  if (as === 'csv') response.write(`${writeCsv([head])}\r\n`);
  let before: string | undefined;
  do {
    const page = await readAudit(pool, filter, { before, limit: 1000 });
    const text =
      as === 'csv'
        ? `${writeCsv(page.entries.map(row))}\r\n`
        : page.entries.map((entry) => `${JSON.stringify(entry)}\n`).join('');
    if (page.entries.length > 0) response.write(text);
    before = page.next ?? undefined;
  } while (before !== undefined && !response.destroyed);
  response.end();
};

export const auditRoutes: readonly Route[] = [
  get('/audit', 'audit.read', list, { query: listQuery }),
  get('/audit/file', 'audit.read', give, { query: exportQuery }),
];
