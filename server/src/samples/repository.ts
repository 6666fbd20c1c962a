import type { Sample } from '@vast-knot/core';
import type { Runner } from '../db/pool';

interface SampleRow extends Omit<Sample, 'expected' | 'masked'> {
  readonly masked: readonly string[] | null;
  readonly expected: Sample['expected'] | null;
}

/** Samples, all or one, in the order in which they were made. */
export async function readSamples(runner: Runner, id?: string): Promise<readonly Sample[]> {
  const { rows } = await runner.query<SampleRow>(
    `SELECT id, name, note, tags, event, records, masked, expected FROM samples
     WHERE ($1::uuid IS NULL OR id = $1) ORDER BY created_at, id`,
    [id ?? null],
  );
  return rows.map(({ expected, masked, ...sample }) => ({
    ...sample,
    ...(masked && { masked }),
    ...(expected && { expected }),
  }));
}

export async function insertSample(
  runner: Runner,
  { id, name, note, tags = [], event, records, masked, expected }: Sample,
): Promise<void> {
  await runner.query(
    `INSERT INTO samples (id, name, note, tags, event, records, masked, expected) VALUES ($1, $2, $3, $4, $5, $6, $7, $8)`,
    [
      id,
      name,
      note,
      tags,
      JSON.stringify(event),
      JSON.stringify(records),
      masked ?? null,
      expected === undefined ? null : JSON.stringify(expected),
    ],
  );
}

/** Puts a masked sample in the place of what it was. */
export async function replaceSample(
  runner: Runner,
  { id, event, records, masked, expected }: Sample,
): Promise<void> {
  await runner.query(
    'UPDATE samples SET event = $2, records = $3, masked = $4, expected = $5 WHERE id = $1',
    [
      id,
      JSON.stringify(event),
      JSON.stringify(records),
      masked ?? null,
      expected === undefined ? null : JSON.stringify(expected),
    ],
  );
}
