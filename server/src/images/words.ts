import { significantDigits, type JsonObject, type RecordRef } from '@vast-knot/core';
import { inTransaction, type Pool, type Runner } from '../db/pool';

/** Images whose words are kept with one statement: few, so that it holds up no other for long. */
const atOnce = 500;
/** A lock of PostgreSQL: one process at a time keeps words, so that an older image never comes after a newer one. */
const keeperLock = 4601;
/** The parts of words in the index have so many letters. */
export const shortestPart = 3;
/** Numbers are found by their last digits, whatever stands for the country. */
const lastDigits = 8;

/** Keeps the words of images that are another one by now, some at a time. Returns whether there may be more. */
export async function keepWords(pool: Pool): Promise<boolean> {
  return inTransaction(pool, async (client) => {
    const { rows: locks } = await client.query<{ mine: boolean }>(
      `SELECT pg_try_advisory_xact_lock(${keeperLock}) AS mine`,
    );
    if (!locks[0]?.mine) return false;
    const { rows } = await client.query<{ taken: number }>(
      `WITH taken AS (
         DELETE FROM images_unread WHERE id IN (SELECT id FROM images_unread ORDER BY id LIMIT ${atOnce})
         RETURNING system, record_type, record_id
       ), refs AS (
         SELECT DISTINCT system, record_type, record_id FROM taken
       ), there AS (
         SELECT refs.*, words_of(record_id, record) AS words FROM refs JOIN images USING (system, record_type, record_id)
         WHERE NOT gone AND NOT removed
       ), forgotten AS (
         DELETE FROM image_words USING refs
         WHERE (image_words.system, image_words.record_type, image_words.record_id) = (refs.system, refs.record_type, refs.record_id)
           AND NOT EXISTS (SELECT 1 FROM there WHERE (there.system, there.record_type, there.record_id)
             = (refs.system, refs.record_type, refs.record_id))
       ), kept AS (
         INSERT INTO image_words (system, record_type, record_id, words) SELECT * FROM there
         ON CONFLICT (system, record_type, record_id) DO UPDATE SET words = EXCLUDED.words
         WHERE image_words.words <> EXCLUDED.words
       )
       SELECT count(*)::integer AS taken FROM taken`,
    );
    return rows[0]?.taken === atOnce;
  });
}

/** A record that holds what was looked for, as it was last seen. */
export interface Sighted extends RecordRef {
  readonly record: JsonObject;
}

/**
 * Returns records that hold a text somewhere, as a part of a value too, as they were last seen; a telephone number also where it is written
 * another way. A text of fewer than three letters is too short to be looked up.
 */
export async function sightings(runner: Runner, text: string, limit: number): Promise<readonly Sighted[]> {
  const wanted = text.normalize('NFC').trim().toLowerCase();
  if ([...wanted].length < shortestPart) return [];
  const digits = significantDigits(text)?.slice(-lastDigits);
  const like = [wanted, ...(digits === undefined ? [] : [digits])].map(
    (part) => `%${part.replaceAll(/[\\%_]/g, '\\$&')}%`,
  );
  const { rows } = await runner.query<Sighted>(
    `SELECT system, record_type AS "recordType", record_id AS id, record
     FROM (SELECT system, record_type, record_id FROM image_words WHERE words LIKE ANY ($1) LIMIT $2) AS found
     JOIN images USING (system, record_type, record_id)`,
    [like, limit],
  );
  return rows;
}
