import type { Sample, SampleChange, SampleSummary } from '@vast-knot/core';
import type { Client, Runner } from '../db/pool';

interface SampleRow extends Omit<Sample, 'expected' | 'masked'> {
  readonly masked: readonly string[] | null;
  readonly expected: Sample['expected'] | null;
}

/** Samples, all or one, in the order in which they were made. */
export async function readSamples(runner: Runner, id?: string): Promise<readonly Sample[]> {
  return samplesOf(runner, id === undefined ? null : [id]);
}

/** Returns the samples of these ids; all where there are none to say. */
export async function samplesOf(runner: Runner, ids: readonly string[] | null): Promise<readonly Sample[]> {
  const { rows } = await runner.query<SampleRow>(
    `SELECT id, name, note, tags, event, records, masked, expected FROM samples
     WHERE ($1::uuid[] IS NULL OR id = ANY ($1)) ORDER BY created_at, id`,
    [ids],
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

/** Puts a sample in the place of what it was: masked, or as it came from elsewhere. */
export async function replaceSample(
  runner: Runner,
  { id, name, note, tags = [], event, records, masked, expected }: Sample,
): Promise<void> {
  await runner.query(
    `UPDATE samples SET name = $6, note = $7, tags = $8, event = $2, records = $3, masked = $4, expected = $5 WHERE id = $1`,
    [
      id,
      JSON.stringify(event),
      JSON.stringify(records),
      masked ?? null,
      expected === undefined ? null : JSON.stringify(expected),
      name,
      note,
      tags,
    ],
  );
}

/** Returns the samples without their contents, in the order in which they were made. */
export async function listSamples(runner: Runner): Promise<readonly SampleSummary[]> {
  const { rows } = await runner.query<SampleSummary>(
    `SELECT id, name, note, tags, event->'ref' AS ref, event->>'kind' AS kind, event->'changed' AS changed,
       jsonb_array_length(records) AS records
     FROM samples ORDER BY created_at, id`,
  );
  return rows;
}

/** Changes what is said of a sample; what is not given stays. Returns whether there is such a sample. */
export async function changeSample(
  runner: Runner,
  id: string,
  { name, note, tags, expected }: Pick<SampleChange, 'name' | 'note' | 'tags' | 'expected'>,
): Promise<boolean> {
  const { rowCount } = await runner.query(
    `UPDATE samples SET name = coalesce($2, name), note = coalesce($3, note), tags = coalesce($4, tags),
       expected = CASE WHEN $5 THEN $6::jsonb ELSE expected END
     WHERE id = $1`,
    [
      id,
      name ?? null,
      note ?? null,
      tags ?? null,
      expected !== undefined,
      expected === undefined || expected === null ? null : JSON.stringify(expected),
    ],
  );
  return rowCount === 1;
}

/** Returns a sample, with who changed it last, and keeps others from changing it until the transaction ends. */
export async function lockSample(
  client: Client,
  id: string,
): Promise<(Sample & { readonly changedBy: string | null }) | undefined> {
  const { rows } = await client.query<{ changedBy: string | null }>(
    'SELECT changed_by AS "changedBy" FROM samples WHERE id = $1 FOR UPDATE',
    [id],
  );
  const [sample] = await readSamples(client, id);
  return sample && { ...sample, changedBy: rows[0]?.changedBy ?? null };
}

/** Returns the samples of these ids, and keeps others from changing them until the transaction ends. */
export async function lockSamples(client: Client, ids: readonly string[]): Promise<readonly Sample[]> {
  await client.query('SELECT FROM samples WHERE id = ANY ($1) ORDER BY id FOR UPDATE', [ids]);
  return samplesOf(client, ids);
}

/** Notes who changed a sample. */
export async function noteWhoChanged(client: Client, id: string, by: string): Promise<void> {
  await client.query('UPDATE samples SET changed_by = $2 WHERE id = $1', [id, by]);
}

/** Removes a sample. Returns whether there was one. */
export async function removeSample(runner: Runner, id: string): Promise<boolean> {
  const { rowCount } = await runner.query('DELETE FROM samples WHERE id = $1', [id]);
  return rowCount === 1;
}
