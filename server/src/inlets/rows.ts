import { createHash } from 'node:crypto';
import {
  leafFields,
  readCsv,
  writePath,
  type JsonObject,
  type RecordType,
  type RowsTaken,
} from '@vast-knot/core';
import type { Pool } from '../db/pool';
import { HttpProblem } from '../http/problem';
import { keepRejected, type ReceivedEvent } from '../inbox/inbox';
import { takeAll } from '../intake/takeAll';
import type { Registry } from '../registry/registry';

/** Rows taken in one transaction. */
const batchSize = 500;

/** A file of rows for a record type of an inlet. */
export interface FileOfRows {
  readonly system: string;
  readonly type: RecordType;
  readonly name: string;
  readonly text: string;
}

/** The rows of a file as events of an inlet's record type: each once, however often the file is sent. */
export async function takeRows(
  pool: Pool,
  registry: Registry,
  { system, type, name, text }: FileOfRows,
): Promise<RowsTaken> {
  const digest = createHash('sha256').update(text).digest('hex').slice(0, 16);
  const source = `/inlets/${system}/${encodeURIComponent(name)}/${digest}`;
  const csv = readCsv(text);
  if ('problem' in csv) throw new HttpProblem(422, 'Not understood', csv.problem);
  const [head = [], ...rows] = csv.lines;
  const fields = fieldsOf(type, head);
  const malformed: { row: number; because: string }[] = [];
  const events: ReceivedEvent[] = [];
  for (const [index, cells] of rows.entries()) {
    const row = index + 2;
    const because = whyNot(cells, head);
    if (because !== undefined) {
      malformed.push({ row, because });
      await keepRejected(pool, {
        system,
        state: 'malformed',
        because: `Row ${row} of ${name}: ${because}`,
        body: cells.join(','),
      });
      continue;
    }
    const record = recordOf(fields, cells);
    const id = String(record[type.idField] ?? '') || `${digest}-${row}`;
    events.push({
      id: String(row),
      source,
      kind: 'file row',
      ref: { system, recordType: type.name, id },
      time: new Date().toISOString(),
      record: { ...record, [type.idField]: id },
      claimed: [],
    });
  }
  let taken = 0;
  for (let at = 0; at < events.length; at += batchSize) {
    const ids = await takeAll(pool, registry, events.slice(at, at + batchSize));
    taken += ids.filter((id) => id !== undefined).length;
  }
  return { taken, before: events.length - taken, malformed };
}

/** The path of the field that each column fills, by its API name or its label; undefined for a column that fills none. */
function fieldsOf(type: RecordType, head: readonly string[]): readonly (string | undefined)[] {
  const leaves = leafFields(type.fields);
  return head.map((title) => {
    const wanted = title.trim().toLowerCase();
    return leaves.find(({ path, label }) => path.toLowerCase() === wanted || label.toLowerCase() === wanted)
      ?.path;
  });
}

function whyNot(cells: readonly string[], head: readonly string[]): string | undefined {
  return cells.length === head.length
    ? undefined
    : `it has ${cells.length} cells, and the first row has ${head.length}.`;
}

function recordOf(fields: readonly (string | undefined)[], cells: readonly string[]): JsonObject {
  return fields.reduce<JsonObject>((record, path, at) => {
    const cell = cells[at] ?? '';
    return path === undefined || cell === '' ? record : writePath(record, path, cell);
  }, {});
}
