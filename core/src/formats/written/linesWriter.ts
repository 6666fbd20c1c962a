import type { Json } from '../../model/json';
import { printJson } from '../../model/jsonText';
import type { RowWriter } from './rowWriter';

/** JSON lines: an object for each row, its numbers with all their digits. */
export const linesWriter: RowWriter = {
  kind: 'json lines',
  name: 'JSON lines',
  mediaType: 'application/jsonl; charset=utf-8',
  ending: '.jsonl',
  async *write({ columns, rows }) {
    const encoder = new TextEncoder();
    for await (const row of rows) {
      const object: [string, Json][] = columns.map(({ name }, at) => [name, row[at] ?? null]);
      yield encoder.encode(`${printJson(Object.fromEntries(object))}\n`);
    }
  },
};
