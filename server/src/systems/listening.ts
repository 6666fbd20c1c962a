import type { Runner } from '../db/pool';

/** How far the changes of a record type were learnt. */
export interface Heard {
  readonly recordType: string;
  /** The greatest mark of a change that was seen (`changeMark`). */
  readonly mark: number | null;
  readonly askedAt: Date | null;
  readonly comparedAt: Date | null;
}

/** Returns how far the changes of the record types of a system were learnt. */
export async function readHeard(runner: Runner, system: string): Promise<ReadonlyMap<string, Heard>> {
  const { rows } = await runner.query<Heard>(
    `SELECT record_type AS "recordType", mark, asked_at AS "askedAt", compared_at AS "comparedAt"
     FROM listening WHERE system = $1`,
    [system],
  );
  return new Map(rows.map((heard) => [heard.recordType, heard]));
}

/** What one look for changes came to. */
export interface Look {
  readonly system: string;
  readonly recordType: string;
  readonly how: 'asked' | 'compared';
  /** How many changes were found. */
  readonly found: number;
  /** The greatest mark that was seen; undefined where there are none. */
  readonly mark: number | undefined;
  readonly at: Date;
}

/** Keeps that changes were looked for up to a moment. A mark never goes back. */
export async function noteLook(
  runner: Runner,
  { system, recordType, how, found, mark, at }: Look,
): Promise<void> {
  await runner.query(
    `INSERT INTO listening (system, record_type, mark, ${how}_at, ${how}_found) SELECT key, $2, $3, $5, $4 FROM systems WHERE key = $1 FOR KEY SHARE
     ON CONFLICT (system, record_type) DO UPDATE SET mark = greatest(listening.mark, EXCLUDED.mark),
       ${how}_at = EXCLUDED.${how}_at, ${how}_found = EXCLUDED.${how}_found, problem = NULL`,
    [system, recordType, mark ?? null, found, at],
  );
}

/** Keeps why changes could not be looked for. */
export async function noteLookProblem(
  runner: Runner,
  system: string,
  recordType: string,
  problem: string,
): Promise<void> {
  await runner.query(
    `INSERT INTO listening (system, record_type, problem) SELECT key, $2, $3 FROM systems WHERE key = $1 FOR KEY SHARE
     ON CONFLICT (system, record_type) DO UPDATE SET problem = EXCLUDED.problem`,
    [system, recordType, problem],
  );
}

/** Forgets how far the changes of a system were learnt. */
export async function forgetHeard(runner: Runner, system: string): Promise<void> {
  await runner.query('DELETE FROM listening WHERE system = $1', [system]);
}
