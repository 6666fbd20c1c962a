import { Ajv2020, type ValidateFunction } from 'ajv/dist/2020.js';
import addFormats from 'ajv-formats';
import { v7 as uuid } from 'uuid';
import { inTransaction, type Client, type Pool } from './database';
import type {
  Application,
  BulkItem,
  Document,
  JsonSchema,
  RecordDefinition,
  StoredDocument,
} from './definition';
import { Problem } from './problem';

interface Listing {
  readonly filters: ReadonlyMap<string, readonly string[]>;
  readonly search: string | undefined;
  readonly limit: number;
  readonly after: string | undefined;
}

type PatchResult =
  | { readonly id: string; readonly status: 200; readonly record: StoredDocument }
  | { readonly id: string; readonly status: number; readonly problem: object };

/** The records of one application: reads, writes, and the outbox that tells of the writes. */
export class Store {
  private readonly validators: ReadonlyMap<string, ValidateFunction>;

  constructor(
    readonly pool: Pool,
    readonly application: Application,
    /** Called after a commit that put something into the outbox. */
    private readonly wake: () => void,
  ) {
    const ajv = new Ajv2020({ allErrors: true, strict: false });
    addFormats.default(ajv);
    this.validators = new Map(application.records.map((record) => [record.type, ajv.compile(record.schema)]));
  }

  async list(
    record: RecordDefinition,
    listing: Listing,
  ): Promise<{ records: StoredDocument[]; next: string | null }> {
    const params: unknown[] = [record.type];
    const conditions = ['type = $1'];
    for (const [field, values] of listing.filters) {
      if (!schemaAt(record.schema, field) && field !== 'id') {
        throw new Problem(400, 'Unknown filter', `${record.title} has no field “${field}”.`);
      }
      params.push(values);
      const column = field === 'id' ? 'id' : `doc${sqlPath(field)}`;
      conditions.push(`${column} = ANY ($${params.length}::text[])`);
    }
    if (listing.search !== undefined) {
      params.push(`%${listing.search.replace(/[\\%_]/g, '\\$&')}%`);
      conditions.push(
        `(doc${sqlPath(record.nameField)} ILIKE $${params.length} OR id ILIKE $${params.length})`,
      );
    }
    if (listing.after !== undefined) {
      params.push(listing.after);
      conditions.push(`id > $${params.length}`);
    }
    params.push(listing.limit + 1);
    const { rows } = await this.pool.query<StoredDocument>(
      `SELECT id, version, doc, updated_at AS "updatedAt" FROM records
       WHERE ${conditions.join(' AND ')} ORDER BY id LIMIT $${params.length}`,
      params,
    );
    const records = rows.slice(0, listing.limit);
    return { records, next: rows.length > listing.limit ? (records.at(-1)?.id ?? null) : null };
  }

  async get(record: RecordDefinition, id: string): Promise<StoredDocument | undefined> {
    const { rows } = await this.pool.query<StoredDocument>(
      'SELECT id, version, doc, updated_at AS "updatedAt" FROM records WHERE type = $1 AND id = $2',
      [record.type, id],
    );
    return rows[0];
  }

  async create(record: RecordDefinition, doc: Document, key: string | undefined): Promise<StoredDocument> {
    const created = await inTransaction(this.pool, async (client) => {
      const earlier = await this.earlierAnswers(client, key === undefined ? [] : [key]);
      const answer = key === undefined ? undefined : earlier.get(key);
      if (answer && 'record' in answer) return answer.record;
      this.validate(record, doc);
      const { rows: ids } = await client.query<{ last: string }>(
        'UPDATE ids SET last = last + 1 WHERE type = $1 RETURNING last',
        [record.type],
      );
      const id = record.idPrefix + String(ids[0]?.last);
      const stored: StoredDocument = { id, version: 1, doc, updatedAt: new Date() };
      await client.query(
        'INSERT INTO records (type, id, version, doc, updated_at) VALUES ($1, $2, 1, $3, $4)',
        [record.type, id, JSON.stringify(doc), stored.updatedAt],
      );
      await this.tell(client, record, [{ kind: 'created', stored, changed: Object.keys(doc) }]);
      if (key !== undefined) await this.keepAnswers(client, [[key, { id, status: 200, record: stored }]]);
      return stored;
    });
    this.wake();
    return created;
  }

  /** Removes a record, guarded by `If-Match`. */
  async remove(record: RecordDefinition, id: string, ifMatch: string | undefined): Promise<void> {
    await inTransaction(this.pool, async (client) => {
      const { rows } = await client.query<StoredDocument>(
        `SELECT id, version, doc, updated_at AS "updatedAt" FROM records WHERE type = $1 AND id = $2 FOR UPDATE`,
        [record.type, id],
      );
      const [stored] = rows;
      if (!stored) throw new Problem(404, 'Not found', `There is no ${record.title.toLowerCase()} ${id}.`);
      if (ifMatch !== undefined && ifMatch !== '*' && ifMatch !== `"${stored.version}"`) {
        throw new Problem(412, 'Changed in between', `The record is at version "${stored.version}".`);
      }
      await client.query('DELETE FROM records WHERE type = $1 AND id = $2', [record.type, id]);
      await this.tell(client, record, [{ kind: 'deleted', stored, changed: [] }]);
    });
    this.wake();
  }

  /** Merges changes (RFC 7396) into records, each guarded by its own `If-Match`; one that fails leaves the others be. */
  async patch(record: RecordDefinition, items: readonly BulkItem[]): Promise<PatchResult[]> {
    const results = await inTransaction(this.pool, async (client) => {
      const answers = await this.earlierAnswers(
        client,
        items.flatMap(({ key }) => key ?? []),
      );
      const { rows } = await client.query<StoredDocument>(
        `SELECT id, version, doc, updated_at AS "updatedAt" FROM records
         WHERE type = $1 AND id = ANY ($2::text[]) ORDER BY id FOR UPDATE`,
        [record.type, items.map(({ id }) => id)],
      );
      const present = new Map(rows.map((row) => [row.id, row]));
      const told: { kind: string; stored: StoredDocument; changed: string[] }[] = [];
      const kept: [string, PatchResult][] = [];
      const done = items.map((item): PatchResult => {
        const earlier = item.key === undefined ? undefined : answers.get(item.key);
        if (earlier) return earlier;
        const result = this.patchOne(record, item, present.get(item.id));
        if (!('record' in result)) return result;
        const before = present.get(item.id);
        if (before && before.version !== result.record.version) {
          told.push({
            kind: 'updated',
            stored: result.record,
            changed: changedFields(before.doc, result.record.doc),
          });
        }
        present.set(item.id, result.record);
        if (item.key !== undefined) kept.push([item.key, result]);
        return result;
      });
      await client.query(
        `UPDATE records SET doc = changed.doc, version = changed.version, updated_at = changed.at
         FROM unnest($2::text[], $3::jsonb[], $4::integer[], $5::timestamptz[]) AS changed (id, doc, version, at)
         WHERE records.type = $1 AND records.id = changed.id`,
        [
          record.type,
          told.map(({ stored }) => stored.id),
          told.map(({ stored }) => JSON.stringify(stored.doc)),
          told.map(({ stored }) => stored.version),
          told.map(({ stored }) => stored.updatedAt),
        ],
      );
      await this.tell(client, record, told);
      await this.keepAnswers(client, kept);
      return done;
    });
    this.wake();
    return results;
  }

  /** Returns the record as the application's API shows it. */
  dress({ id, version, doc, updatedAt }: StoredDocument): Document {
    const { versionField, updatedField } = this.application.dialect;
    return { id, ...doc, [versionField]: version, [updatedField]: new Date(updatedAt).toISOString() };
  }

  private patchOne(
    record: RecordDefinition,
    item: BulkItem,
    present: StoredDocument | undefined,
  ): PatchResult {
    const fail = (problem: Problem): PatchResult => ({
      id: item.id,
      status: problem.status,
      problem: problem.body(),
    });
    if (!present)
      return fail(new Problem(404, 'Not found', `There is no ${record.title.toLowerCase()} ${item.id}.`));
    if (item.ifMatch !== undefined && item.ifMatch !== '*' && item.ifMatch !== `"${present.version}"`) {
      const detail = `The record is at version "${present.version}", and the change was made for ${item.ifMatch}.`;
      return fail(new Problem(412, 'Changed in between', detail));
    }
    const doc = mergePatch(present.doc, item.changes) as Document;
    try {
      this.validate(record, doc);
    } catch (thrown) {
      if (thrown instanceof Problem) return fail(thrown);
      throw thrown;
    }
    const unchanged = changedFields(present.doc, doc).length === 0;
    const stored = unchanged
      ? present
      : { id: item.id, version: present.version + 1, doc, updatedAt: new Date() };
    return { id: item.id, status: 200, record: stored };
  }

  private validate(record: RecordDefinition, doc: Document): void {
    const validator = this.validators.get(record.type);
    if (!validator || validator(doc)) return;
    const errors = (validator.errors ?? []).map((error) => ({
      field:
        error.instancePath.slice(1).replaceAll('/', '.') ||
        String(error.params['missingProperty'] ?? error.params['additionalProperty'] ?? ''),
      message: error.message ?? 'is not valid',
    }));
    const [first] = errors;
    throw new Problem(
      422,
      'Not valid',
      first ? `${first.field} ${first.message}.` : 'The record is not valid.',
      errors,
    );
  }

  private async tell(
    client: Client,
    record: RecordDefinition,
    changes: readonly {
      readonly kind: string;
      readonly stored: StoredDocument;
      readonly changed: readonly string[];
    }[],
  ): Promise<void> {
    if (changes.length === 0) return;
    const { dialect } = this.application;
    const events = changes.map(({ kind, stored, changed }) => ({
      specversion: '1.0',
      id: uuid(),
      source: `/${dialect.name}`,
      type: dialect.events.type(record.type, kind),
      subject: stored.id,
      time: new Date(stored.updatedAt).toISOString(),
      datacontenttype: 'application/json',
      data: dialect.events.data(this.dress(stored), changed),
    }));
    await client.query(
      `INSERT INTO outbox (subscription_id, record_key, event)
       SELECT subscriptions.id, told.record_key, told.event
       FROM unnest($1::text[], $2::jsonb[]) WITH ORDINALITY AS told (record_key, event, position), subscriptions
       ORDER BY told.position`,
      [
        changes.map(({ stored }) => `${record.type}/${stored.id}`),
        events.map((event) => JSON.stringify(event)),
      ],
    );
  }

  private async earlierAnswers(client: Client, keys: readonly string[]): Promise<Map<string, PatchResult>> {
    if (keys.length === 0) return new Map();
    const { rows } = await client.query<{ key: string; answer: PatchResult }>(
      'SELECT key, answer FROM answers WHERE key = ANY ($1::text[])',
      [keys],
    );
    return new Map(rows.map(({ key, answer }) => [key, answer]));
  }

  private async keepAnswers(client: Client, answers: readonly [string, PatchResult][]): Promise<void> {
    if (answers.length === 0) return;
    await client.query('INSERT INTO answers (key, answer) SELECT * FROM unnest($1::text[], $2::jsonb[])', [
      answers.map(([key]) => key),
      answers.map(([, answer]) => JSON.stringify(answer)),
    ]);
  }
}

/** JSON Merge Patch, RFC 7396, section 2. */
export function mergePatch(target: unknown, patch: unknown): unknown {
  if (!isObject(patch)) return patch;
  const result: Document = isObject(target) ? { ...target } : {};
  for (const [name, value] of Object.entries(patch)) {
    if (value === null) delete result[name];
    else result[name] = mergePatch(result[name], value);
  }
  return result;
}

function isObject(value: unknown): value is Document {
  return typeof value === 'object' && value !== null && !Array.isArray(value);
}

function changedFields(before: Document, after: Document): string[] {
  const names = new Set([...Object.keys(before), ...Object.keys(after)]);
  return [...names].filter((name) => canonical(before[name]) !== canonical(after[name]));
}

function canonical(value: unknown): string {
  return JSON.stringify(value, (_key, part: unknown) =>
    isObject(part) ? Object.fromEntries(Object.entries(part).sort(([a], [b]) => (a < b ? -1 : 1))) : part,
  );
}

function schemaAt(schema: JsonSchema, path: string): JsonSchema | undefined {
  let here: JsonSchema | undefined = schema;
  for (const step of path.split('.')) {
    here = here?.properties && Object.hasOwn(here.properties, step) ? here.properties[step] : undefined;
  }
  return here;
}

/** Returns a path that was checked against the schema, as SQL. */
function sqlPath(path: string): string {
  return `#>>'{${path.split('.').join(',')}}'`.replace(/^#>>'\{([A-Za-z_ ]+)\}'$/, "->>'$1'");
}
