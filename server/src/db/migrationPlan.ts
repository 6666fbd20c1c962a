import { createHash } from 'node:crypto';

/** A numbered file of statements. */
export interface Migration {
  /** `002_rights.sql`: three digits give its place, the rest says what it is about. */
  readonly name: string;
  readonly sql: string;
  readonly checksum: string;
  /** Checksums of other forms in which it was delivered; what comes after it makes them the same. */
  readonly earlier: readonly string[];
}

/** A migration that a database has gone through. Before checksums were kept there was none. */
export interface Applied {
  readonly name: string;
  readonly checksum: string | null;
}

/** What a database still has to go through, or the sentence that says why it cannot be brought up to date. */
type MigrationPlan =
  | { readonly ok: true; readonly pending: readonly Migration[] }
  | { readonly ok: false; readonly because: string };

/** Returns the SHA-256 of a migration's text, in hexadecimal. Line ends do not count, so that a checkout may choose them. */
export function checksumOf(sql: string): string {
  return createHash('sha256').update(sql.replaceAll('\r\n', '\n')).digest('hex');
}

/**
 * Compares the migrations of this version with those that a database has gone through. Refuses when a file is misnamed or its
 * number is taken twice, when one that was applied has changed since or is not known here, and when one that comes earlier than
 * an applied one is missing from the database.
 */
export function planMigrations(files: readonly Migration[], applied: readonly Applied[]): MigrationPlan {
  const refuse = (because: string): MigrationPlan => ({ ok: false, because });
  const sorted = [...files].sort((a, b) => (a.name < b.name ? -1 : 1));
  for (const [at, { name }] of sorted.entries()) {
    const number = String(at + 1).padStart(3, '0');
    if (!/^\d{3}_\w+\.sql$/.test(name))
      return refuse(
        `The migration “${name}” is misnamed: its name begins with three digits, as in 002_rights.sql.`,
      );
    if (!name.startsWith(number))
      return refuse(
        `The migrations are not numbered one by one: “${name}” stands where ${number} is expected.`,
      );
  }
  const known = new Map(sorted.map((file) => [file.name, file]));
  for (const { name, checksum } of applied) {
    const file = known.get(name);
    if (!file)
      return refuse(
        `The database was brought to “${name}”, which this version does not know. Start the newer version that made it, or restore a backup from before.`,
      );
    if (checksum !== null && checksum !== file.checksum && !file.earlier.includes(checksum))
      return refuse(
        `The migration “${name}” is not what it was when this database went through it. Restore the file as it was delivered; a change of the database is a new file.`,
      );
  }
  const done = new Set(applied.map(({ name }) => name));
  const pending = sorted.filter(({ name }) => !done.has(name));
  const [first] = pending;
  const later = first && sorted.find(({ name }) => done.has(name) && name > first.name);
  if (first && later)
    return refuse(
      `The database has gone through “${later.name}” and not through “${first.name}”, which comes before it. Restore a backup and start again.`,
    );
  return { ok: true, pending };
}
