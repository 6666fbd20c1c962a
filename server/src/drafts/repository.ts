import { randomUUID } from 'node:crypto';
import type { ConnectionDraft, DraftSummary, DraftView } from '@vast-knot/core';
import type { Runner } from '../db/pool';
import type { Seal } from '../db/seal';
import { ofSystem } from '../systems/repository';

interface DraftRow {
  readonly id: string;
  readonly system: string | null;
  readonly revision: number;
  readonly draft: ConnectionDraft;
  readonly changedBy: string;
  readonly changedAt: Date;
  readonly secrets: readonly string[];
}

const columns = `id, system, revision, draft, changed_by AS "changedBy", changed_at AS "changedAt",
  ARRAY(SELECT name FROM draft_secrets WHERE draft_secrets.draft = connection_drafts.id ORDER BY name) AS secrets`;

function viewOf(row: DraftRow): DraftView {
  return { ...row, changedAt: row.changedAt.toISOString() };
}

export async function listDrafts(runner: Runner): Promise<readonly DraftSummary[]> {
  const { rows } = await runner.query<Omit<DraftSummary, 'changedAt'> & { readonly changedAt: Date }>(
    `SELECT id, system, changed_by AS "changedBy", changed_at AS "changedAt", draft #>> '{system,name}' AS name,
       draft #>> '{system,tag}' AS tag, (draft #>> '{system,hue}')::integer AS hue
     FROM connection_drafts WHERE discarded_at IS NULL ORDER BY changed_at DESC`,
  );
  return rows.map((row) => ({ ...row, changedAt: row.changedAt.toISOString() }));
}

export async function readDraft(runner: Runner, id: string): Promise<DraftView | undefined> {
  const { rows } = await runner.query<DraftRow>(
    `SELECT ${columns} FROM connection_drafts WHERE id = $1 AND discarded_at IS NULL`,
    [id],
  );
  return rows[0] && viewOf(rows[0]);
}

/** A draft to be kept, with its secrets by name. */
interface NewDraft {
  readonly draft: ConnectionDraft;
  readonly system: string | null;
  readonly by: string;
  readonly secrets?: Readonly<Record<string, string>>;
  /** The key of the system that was taken out, and comes back with it. */
  readonly wayBack?: string;
}

/** Keeps a new draft. Returns its id. */
export async function insertDraft(
  client: Runner,
  seal: Seal,
  { draft, system, by, secrets = {}, wayBack }: NewDraft,
): Promise<string> {
  const id = randomUUID();
  await client.query(
    'INSERT INTO connection_drafts (id, system, draft, changed_by, way_back) VALUES ($1, $2, $3, $4, $5)',
    [id, system, JSON.stringify(draft), by, wayBack ?? null],
  );
  for (const [name, value] of Object.entries(secrets))
    await keepDraftSecret(client, seal, { id, name, value });
  return id;
}

/**
 * Locks a draft until the transaction ends. Returns the key of the system that was taken out and comes back with it; undefined where the
 * draft is not there any more, or not at that revision.
 */
export async function lockDraft(
  client: Runner,
  { id, revision }: Pick<DraftView, 'id' | 'revision'>,
): Promise<{ readonly wayBack: string | null } | undefined> {
  const { rows } = await client.query<{ wayBack: string | null }>(
    `SELECT way_back AS "wayBack" FROM connection_drafts
     WHERE id = $1 AND revision = $2 AND discarded_at IS NULL FOR UPDATE`,
    [id, revision],
  );
  return rows[0];
}

/** Saves a draft as it is by now. Returns whether it was still at that revision. */
export async function saveConnectionDraft(
  runner: Runner,
  {
    id,
    revision,
    draft,
    by,
  }: { readonly id: string; readonly revision: number; readonly draft: ConnectionDraft; readonly by: string },
): Promise<boolean> {
  const { rowCount } = await runner.query(
    `UPDATE connection_drafts SET draft = $3, revision = revision + 1, changed_by = $4, changed_at = now()
     WHERE id = $1 AND revision = $2 AND discarded_at IS NULL`,
    [id, revision, JSON.stringify(draft), by],
  );
  return rowCount === 1;
}

export async function removeDraft(runner: Runner, id: string): Promise<boolean> {
  const { rowCount } = await runner.query('DELETE FROM connection_drafts WHERE id = $1', [id]);
  return rowCount === 1;
}

/** Puts a draft aside, from where it can be put back for some days. Returns whether there was such a draft. */
export async function discardDraft(runner: Runner, id: string): Promise<boolean> {
  const { rowCount } = await runner.query(
    'UPDATE connection_drafts SET discarded_at = now() WHERE id = $1 AND discarded_at IS NULL',
    [id],
  );
  return rowCount === 1;
}

/** Puts a discarded draft back. Returns whether it was still there. */
export async function restoreDraft(runner: Runner, id: string): Promise<boolean> {
  const { rowCount } = await runner.query('UPDATE connection_drafts SET discarded_at = NULL WHERE id = $1', [
    id,
  ]);
  return rowCount === 1;
}

/** For so many days a discarded draft can be put back. */
const discardedDays = 30;

/** Removes drafts, with their secrets, that were discarded long ago. */
export async function clearDrafts(runner: Runner): Promise<void> {
  await runner.query(
    `DELETE FROM connection_drafts WHERE discarded_at < now() - interval '${discardedDays} days'`,
  );
}

/** Where a secret of a draft is sealed for. */
export const ofDraft = (id: string, name: string) => `draft ${id} ${name}`;

/** Keeps a secret of a draft, sealed. */
export async function keepDraftSecret(
  runner: Runner,
  seal: Seal,
  { id, name, value }: { readonly id: string; readonly name: string; readonly value: string },
): Promise<void> {
  await runner.query(
    `INSERT INTO draft_secrets (draft, name, sealed) VALUES ($1, $2, $3)
     ON CONFLICT (draft, name) DO UPDATE SET sealed = EXCLUDED.sealed`,
    [id, name, seal.seal(value, ofDraft(id, name))],
  );
}

/** Returns the secrets of a draft, opened; those that it has not are those of the system that it changes. */
export async function openDraftSecrets(
  runner: Runner,
  seal: Seal,
  { id, system }: Pick<DraftView, 'id' | 'system'>,
): Promise<Readonly<Record<string, string>>> {
  const { rows } = await runner.query<{ name: string; sealed: Buffer; later: number }>(
    `SELECT DISTINCT ON (name) name, sealed, later FROM (
       SELECT name, sealed, 1 AS later FROM draft_secrets WHERE draft = $1
       UNION ALL SELECT name, sealed, 2 FROM secrets WHERE system = $2
     ) AS known ORDER BY name, later`,
    [id, system],
  );
  return Object.fromEntries(
    rows.map(({ name, sealed, later }) => {
      const about = later === 2 && system !== null ? ofSystem(system, name) : ofDraft(id, name);
      return [name, seal.open(sealed, about)];
    }),
  );
}
