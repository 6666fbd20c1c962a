import type { Formula } from '../formula/compile';
import { linkedRecord, rootOf } from '../formula/names';
import type { Env } from '../formula/scope';
import type { Follow } from '../formula/typed';
import { readPath, type JsonObject } from '../model/json';
import { scalarText } from '../model/jsonText';
import { refKey } from '../model/record';
import type { Workspace } from '../workspace/workspace';

/** Most ids that one search asks for. */
const idsPerSearch = 500;

/**
 * Fetches the records that formulas follow references to, for all environments at once: one search for each reference
 * and record type, whatever the number of records. Returns the environments with what was fetched.
 */
export async function withLinked(
  formulas: readonly (Formula | undefined)[],
  envs: readonly Env[],
  workspace: Workspace,
): Promise<readonly Env[]> {
  const follows = formulas.flatMap((formula) => formula?.follows ?? []);
  if (follows.length === 0) return envs;
  const linked = new Map<string, JsonObject>();
  const ready = envs.map((env): Env => ({ ...env, linked }));
  // Nearer references come first, so that what they point to is there when the next one starts from it.
  const nearFirst = [...follows].sort((a, b) => a.after.length - b.after.length);
  for (const follow of nearFirst) await fetchFollowed(follow, ready, linked, workspace);
  return ready;
}

async function fetchFollowed(
  { of, after, step }: Follow,
  envs: readonly Env[],
  linked: Map<string, JsonObject>,
  workspace: Workspace,
): Promise<void> {
  const start = after.reduce<(env: Env) => JsonObject | null>(
    (root, earlier) => linkedRecord(root, earlier),
    (env) => rootOf(env, of),
  );
  const ids = new Set<string>();
  for (const env of envs) {
    const id = readPath(start(env) ?? undefined, step.path);
    if (id !== null && id !== undefined && id !== '') ids.add(scalarText(id));
  }
  for (const { system, type } of step.to) {
    const missing = [...ids].filter((id) => !linked.has(refKey({ system, recordType: type.name, id })));
    for (let at = 0; at < missing.length; at += idsPerSearch) {
      const some = missing.slice(at, at + idsPerSearch);
      const found =
        some.length === 1
          ? [await workspace.get({ system, recordType: type.name, id: some[0] ?? '' })]
          : await workspace.find({
              system,
              recordType: type.name,
              conditions: [{ field: type.idField, values: some }],
            });
      for (const stored of found) if (stored) linked.set(refKey(stored.ref), stored.record);
    }
  }
}
