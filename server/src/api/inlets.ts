import express from 'express';
import { HttpProblem, notFound } from '../http/problem';
import { takeRows } from '../inlets/rows';
import { post, type Handle, type Route } from './route';

/** Longest file whose rows are taken at once, in bytes. */
const fileLimit = 8 * 1024 * 1024;

const rows: Handle<'/inlets/:system/:recordType/rows'> = async (request, response, { pool, registry }) => {
  const { system, recordType } = request.params;
  const current = await registry.get();
  const type = current.catalog.recordType(system, recordType);
  const connector = current.connectors.get(system);
  if (!connector || connector.records || !type) throw notFound(`inlet ${system} for ${recordType}`);
  const name = typeof request.query['name'] === 'string' ? request.query['name'].slice(0, 120) : 'file.csv';
  const text = typeof request.body === 'string' ? request.body : '';
  if (text.trim() === '') throw new HttpProblem(422, 'Not valid', 'The file is empty.');
  response
    .status(202)
    .json(await takeRows(pool, current, { system, type, name, text, receivedAt: new Date() }));
};

/** Where files come in whose rows start rules. */
export const inletRoutes: readonly Route[] = [
  post('/inlets/:system/:recordType/rows', 'files.send', rows, {
    csv: true,
    reads: [express.text({ type: () => true, limit: fileLimit, defaultCharset: 'utf-8' })],
  }),
];
