import {
  counterpartType,
  ownSystem,
  type ApplyResult,
  type GuardedChange,
  type JsonObject,
  type SearchCondition,
  type StoredRecord,
} from '@vast-knot/core';
import type { Pool } from '../db/pool';
import { writeByKind, type Guarded } from './byKind';
import type { PageRequest, RecordsPage, RecordStore } from './recordStore';

const columns = ['a_system', 'a_type', 'a_id', 'b_system', 'b_type', 'b_id'] as const;
type Column = (typeof columns)[number];
const selected = `id::text AS id, ${columns.join(', ')}, revision`;

type PairRow = Readonly<Record<Column | 'id', string>> & { readonly revision: number };

/** The remembered pairs of counterparts, as the records of our own system. */
export class PairStore implements RecordStore {
  constructor(private readonly pool: Pool) {}

  async get(_recordType: string, id: string): Promise<StoredRecord | undefined> {
    return (await this.find(counterpartType, [{ field: 'id', values: [id] }]))[0];
  }

  async page({ cursor, limit, search = '', conditions = [] }: PageRequest): Promise<RecordsPage> {
    const { text, params } = whereOf(conditions);
    const { rows } = await this.pool.query<PairRow>(
      `SELECT ${selected} FROM counterparts
       WHERE ${text} AND id > $${params.length + 1}::bigint
         AND concat_ws(' ', ${columns.join(', ')}) ILIKE '%' || $${params.length + 2} || '%'
       ORDER BY counterparts.id LIMIT $${params.length + 3}`,
      [...params, numberOf(cursor ?? '0') ?? '0', search, limit + 1],
    );
    const shown = rows.slice(0, limit);
    return {
      records: shown.map(stored),
      next: rows.length > limit ? (shown.at(-1)?.id ?? null) : null,
    };
  }

  async find(
    _recordType: string,
    conditions: readonly SearchCondition[],
    most?: number,
  ): Promise<StoredRecord[]> {
    const { text, params } = whereOf(conditions);
    const { rows } = await this.pool.query<PairRow>(
      `SELECT ${selected} FROM counterparts WHERE ${text} ORDER BY counterparts.id LIMIT $${params.length + 1}`,
      [...params, most ?? null],
    );
    return rows.map(stored);
  }

  write(_recordType: string, changes: readonly GuardedChange[]): Promise<readonly ApplyResult[]> {
    return writeByKind(changes, {
      edit: (edits) => this.editPairs(edits),
      create: (creations) => this.createPairs(creations),
      remove: (removals) => this.removePairs(removals),
    });
  }

  private editPairs(changes: readonly Guarded<'edit'>[]): Promise<ApplyResult[]> {
    return eachOf(changes, async ({ change, version }) => {
      const set = change.edits.filter(({ path }) => isColumn(path));
      const { rows } = await this.pool.query<PairRow>(
        `UPDATE counterparts SET ${set.map(({ path }, at) => `${path} = $${at + 3}, `).join('')} revision = revision + 1
         WHERE counterparts.id::text = $1 AND ($2::integer IS NULL OR revision = $2::integer) RETURNING ${selected}`,
        [change.ref.id, version ?? null, ...set.map(({ after }) => after ?? '')],
      );
      return written(rows[0], version);
    });
  }

  private createPairs(changes: readonly Guarded<'create'>[]): Promise<ApplyResult[]> {
    return eachOf(changes, async ({ change: { record }, key }) => {
      // A pair that is known, either way round, stays one pair.
      const { rows } = await this.pool.query<PairRow>(
        `INSERT INTO counterparts (${columns.join(', ')}, key) VALUES ($1, $2, $3, $4, $5, $6, $7)
         ON CONFLICT (a_system, a_type, a_id, b_system, b_type, b_id) DO UPDATE SET revision = counterparts.revision
         RETURNING ${selected}`,
        [...columns.map((column) => textOf(record[column])), key ?? null],
      );
      return written(rows[0], undefined);
    });
  }

  private removePairs(changes: readonly Guarded<'remove'>[]): Promise<ApplyResult[]> {
    return eachOf(changes, async ({ change }) => {
      await this.pool.query('DELETE FROM counterparts WHERE id::text = $1', [change.ref.id]);
      return { ok: true, record: undefined };
    });
  }
}

async function eachOf<C>(
  changes: readonly C[],
  apply: (change: C) => Promise<ApplyResult>,
): Promise<ApplyResult[]> {
  const results: ApplyResult[] = [];
  for (const change of changes) {
    try {
      results.push(await apply(change));
    } catch (thrown) {
      if (!isTaken(thrown)) throw thrown;
      const message = 'The two records are a pair already.';
      results.push({ ok: false, problem: { code: 'refused', message, retry: false } });
    }
  }
  return results;
}

/** PostgreSQL says so when a row would be there twice. */
function isTaken(thrown: unknown): boolean {
  return thrown instanceof Error && 'code' in thrown && thrown.code === '23505';
}

function written(row: PairRow | undefined, version: string | undefined): ApplyResult {
  if (row) return { ok: true, ...recordOf(row), id: row.id };
  return version === undefined
    ? { ok: false, problem: { code: 'not found', message: 'The pair is not there any more.', retry: false } }
    : {
        ok: false,
        problem: { code: 'changed in between', message: 'The pair was changed in between.', retry: true },
      };
}

/** Returns the conditions in SQL; a condition on anything else than a column is met by none. */
function whereOf(conditions: readonly SearchCondition[]): {
  readonly text: string;
  readonly params: unknown[];
} {
  const params: unknown[] = [];
  const parts = conditions.map(({ field, values }) => {
    if (field !== 'id' && !isColumn(field)) return 'false';
    params.push(values.map(textOf));
    return `${field === 'id' ? 'counterparts.id::text' : field} = ANY ($${params.length}::text[])`;
  });
  return { text: ['true', ...parts].join(' AND '), params };
}

function stored(row: PairRow): StoredRecord {
  return { ref: { system: ownSystem, recordType: counterpartType, id: row.id }, ...recordOf(row) };
}

function recordOf({ revision, ...record }: PairRow): {
  readonly record: JsonObject;
  readonly version: string;
} {
  return { record, version: String(revision) };
}

function isColumn(path: string): path is Column {
  return (columns as readonly string[]).includes(path);
}

function numberOf(text: string): string | undefined {
  return /^\d{1,18}$/.test(text) ? text : undefined;
}

function textOf(value: unknown): string {
  return typeof value === 'string' || typeof value === 'number' ? String(value) : '';
}
