import { createHash } from 'node:crypto';
import {
  csvRows,
  leafFields,
  writePath,
  type JsonObject,
  type RecordType,
  type RowsTaken,
} from '@vast-knot/core';
import type { Pool } from '../db/pool';
import { keepRejected, type ReceivedEvent } from '../inbox/inbox';
import { countTaken, takeAll } from '../intake/takeAll';
import type { Registry } from '../registry/registry';

/** Rows taken in one transaction. */
const batchSize = 500;

/** A file of rows for a record type of an inlet. */
interface FileOfRows {
  readonly system: string;
  readonly type: RecordType;
  readonly name: string;
  readonly text: string;
  /** When it came: the time of its rows. */
  readonly receivedAt: Date;
}

/** Returns the rows of a file as events of an inlet's record type: each once, however often the file is sent. */
export async function takeRows(
  pool: Pool,
  registry: Registry,
  { system, type, name, text, receivedAt }: FileOfRows,
): Promise<RowsTaken> {
  const digest = createHash('sha256').update(text).digest('hex').slice(0, 16);
  const source = `/inlets/${system}/${encodeURIComponent(name)}/${digest}`;
  const malformed: { row: number; because: string }[] = [];
  const events: ReceivedEvent[] = [];
  for await (const read of csvRows.read(inOneChunk(text))) {
    const { at: row } = read;
    if (!read.ok) {
      malformed.push({ row, because: read.because });
      await keepRejected(pool, {
        system,
        state: 'malformed',
        because: `Row ${row} of ${name}: ${read.because}`,
        body: read.text,
      });
      continue;
    }
    const record = recordOf(type, read.cells);
    const id = String(record[type.idField] ?? '') || `${digest}-${row}`;
    events.push({
      id: String(row),
      source,
      kind: 'file row',
      ref: { system, recordType: type.name, id },
      time: receivedAt.toISOString(),
      record: { ...record, [type.idField]: id },
      claimed: [],
    });
  }
  let taken = 0;
  for (let at = 0; at < events.length; at += batchSize) {
    taken += countTaken(await takeAll(pool, registry, events.slice(at, at + batchSize)));
  }
  return { taken, before: events.length - taken, malformed };
}

async function* inOneChunk(text: string) {
  yield await Promise.resolve(text);
}

/** Returns the record that a row tells of: each cell in the field that its title names, by API name or label. */
function recordOf(type: RecordType, cells: Readonly<Record<string, string>>): JsonObject {
  const leaves = leafFields(type.fields);
  return Object.entries(cells).reduce<JsonObject>((record, [title, cell]) => {
    const wanted = title.toLowerCase();
    const path = leaves.find(
      (leaf) => leaf.path.toLowerCase() === wanted || leaf.label.toLowerCase() === wanted,
    )?.path;
    return path === undefined || cell === '' ? record : writePath(record, path, cell);
  }, {});
}
