import type { Sample } from '@vast-knot/core';
import type { Runner } from '../db/pool';

interface SampleRow extends Omit<Sample, 'expected'> {
  readonly expected: Sample['expected'] | null;
}

/** Samples, all or one, in the order in which they were made. */
export async function readSamples(runner: Runner, id?: string): Promise<readonly Sample[]> {
  const { rows } = await runner.query<SampleRow>(
    `SELECT id, name, note, tags, event, records, expected FROM samples
     WHERE ($1::uuid IS NULL OR id = $1) ORDER BY created_at, id`,
    [id ?? null],
  );
  return rows.map(({ expected, ...sample }) => ({ ...sample, ...(expected && { expected }) }));
}

export async function insertSample(
  runner: Runner,
  { id, name, note, tags = [], event, records, expected }: Sample,
): Promise<void> {
  await runner.query(
    `INSERT INTO samples (id, name, note, tags, event, records, expected) VALUES ($1, $2, $3, $4, $5, $6, $7)`,
    [
      id,
      name,
      note,
      tags,
      JSON.stringify(event),
      JSON.stringify(records),
      expected === undefined ? null : JSON.stringify(expected),
    ],
  );
}
