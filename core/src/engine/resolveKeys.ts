import { isBlank } from '../formula/compare';
import { FormulaError } from '../formula/error';
import type { Env } from '../formula/scope';
import { toText, type Value } from '../formula/value';
import { readPath } from '../model/json';
import { scalarText } from '../model/jsonText';
import { nfc } from '../model/nfc';
import type { Workspace } from '../workspace/workspace';
import type { CompiledLine } from './compiled';

/** What a natural key leads to: an id, an error, or `keep` where what stands there is to stay. */
type Resolution = { readonly id: string | null } | { readonly keep: true } | { readonly error: FormulaError };

export type ResolveKey = (line: CompiledLine, value: Value) => Resolution | undefined;

const keysPerSearch = 500;

/**
 * Finds the records that natural keys name, for all targets of an action at once, and gives the look-up for a single
 * line and value: undefined where a line takes values as they are.
 */
export async function resolveKeys(
  lines: readonly CompiledLine[],
  envs: readonly Env[],
  workspace: Workspace,
): Promise<ResolveKey> {
  const idsByLine = new Map<CompiledLine, ReadonlyMap<string, readonly string[]>>();
  for (const line of lines) {
    if (!line.resolved || !line.reference) continue;
    const keys = new Set<string>();
    for (const env of envs) {
      const key = keyOf(line.compiled.run(env));
      if (key !== undefined) keys.add(key);
    }
    idsByLine.set(line, await idsOf(line, [...keys], workspace));
  }
  return (line, value) => {
    const ids = idsByLine.get(line);
    return ids && resolution(line, keyOf(value), ids);
  };
}

/** Returns the text that is looked for; undefined for blank and for errors, which lead nowhere. */
function keyOf(value: Value): string | undefined {
  if (isBlank(value) || value instanceof FormulaError) return undefined;
  return nfc(toText(value));
}

async function idsOf(
  { resolved, reference }: CompiledLine,
  keys: readonly string[],
  workspace: Workspace,
): Promise<ReadonlyMap<string, readonly string[]>> {
  const ids = new Map<string, string[]>();
  if (!resolved || !reference) return ids;
  for (let at = 0; at < keys.length; at += keysPerSearch) {
    const found = await workspace.find({
      system: resolved.system,
      recordType: resolved.type.name,
      conditions: [{ field: reference.field, values: keys.slice(at, at + keysPerSearch) }],
    });
    for (const { ref, record } of found) {
      const key = nfc(scalarText(readPath(record, reference.field)));
      const known = ids.get(key);
      if (known) known.push(ref.id);
      else ids.set(key, [ref.id]);
    }
  }
  return ids;
}

function resolution(
  { reference, resolved }: CompiledLine,
  key: string | undefined,
  idsByKey: ReadonlyMap<string, readonly string[]>,
): Resolution {
  if (key === undefined) return { id: null };
  const ids = [...(idsByKey.get(key) ?? [])].sort();
  const [first] = ids;
  const where = `${resolved?.type.label ?? 'record'} whose “${reference?.field ?? ''}” is “${key}”`;
  if (first === undefined) {
    if (reference?.none === 'keep') return { keep: true };
    if (reference?.none === 'blank') return { id: null };
    return { error: new FormulaError('no row', `There is no ${where}.`) };
  }
  if (ids.length > 1 && reference?.several === 'fail') {
    return {
      error: new FormulaError('value', `There are ${ids.length} of ${where}: ${ids.slice(0, 5).join(', ')}.`),
    };
  }
  return { id: first };
}
