import { editsBetween } from '../change/edit';
import { applyChange, type RecordChange } from '../change/recordChange';
import type { JsonObject } from '../model/json';
import { refKey, type RecordRef, type StoredRecord } from '../model/record';
import type { Catalog } from '../model/system';
import { matches } from './matches';
import type { ApplyResult, GuardedChange, Search, Workspace } from './workspace';

/** Lets others come to their turn where much is computed at a time; undefined while it is not time for that. */
export type Pause = () => Promise<void> | undefined;

interface Layer {
  readonly ref: RecordRef;
  readonly base: StoredRecord | undefined;
  readonly now: JsonObject | undefined;
}

/**
 * A workspace over another one: reads pass through, writes stay here. A run computes in an overlay over the live
 * systems and a replay in one over a sample's records, so that both are the same computation and a run sees what it
 * has written. `changes` is what the base still has to be told.
 */
export class OverlayWorkspace implements Workspace {
  private readonly layers = new Map<string, Layer>();
  private readonly seen = new Map<string, StoredRecord>();
  private readonly peeked = new Map<string, StoredRecord>();

  constructor(
    private readonly catalog: Catalog,
    private readonly base: Workspace,
    /** Asked after every change. */
    private readonly pause?: Pause | undefined,
  ) {}

  async get(ref: RecordRef): Promise<StoredRecord | undefined> {
    const layer = this.layers.get(refKey(ref));
    if (layer) return layer.now && { ...layer.base, ref, record: layer.now };
    const key = refKey(ref);
    return this.remember(this.seen.get(key) ?? this.peeked.get(key) ?? (await this.base.get(ref)));
  }

  async find(search: Search): Promise<readonly StoredRecord[]> {
    const fromBase = await this.base.find(search);
    const type = this.catalog.recordType(search.system, search.recordType);
    const untouched = fromBase.filter(({ ref }) => !this.layers.has(refKey(ref)));
    for (const stored of untouched) {
      if (search.peek === undefined) this.remember(stored);
      // What is only a hint is read once more where it is used.
      else if (!search.hint) this.peeked.set(refKey(stored.ref), stored);
    }
    const written = [...this.layers.values()].flatMap((layer): StoredRecord[] => {
      const { ref } = layer;
      if (!layer.now || ref.system !== search.system || ref.recordType !== search.recordType) return [];
      return matches(type, layer.now, search) ? [{ ...layer.base, ref, record: layer.now }] : [];
    });
    return [...untouched, ...written];
  }

  async apply(changes: readonly GuardedChange[]): Promise<readonly ApplyResult[]> {
    const results: ApplyResult[] = [];
    for (const { change } of changes) {
      results.push(await this.applyOne(change));
      const pause = this.pause?.();
      if (pause) await pause;
    }
    return results;
  }

  /** Returns how a record stands after what was written here: without `record` once it was removed; undefined where nothing was written. */
  standing(ref: RecordRef): { readonly record: JsonObject | undefined } | undefined {
    const layer = this.layers.get(refKey(ref));
    return layer && { record: layer.now };
  }

  /** Lets a record that was written here stand as it did before; undefined for one that was created here and is to be no more. */
  restore(ref: RecordRef, record: JsonObject | undefined): void {
    const key = refKey(ref);
    const layer = this.layers.get(key);
    if (layer) this.layers.set(key, { ...layer, now: record });
  }

  /** Returns what a record held when it was read through this overlay first. */
  metBefore(ref: RecordRef): JsonObject | undefined {
    return this.seen.get(refKey(ref))?.record;
  }

  /** Every record read through this overlay, as the base gave it first: what a sample must hold. */
  get met(): readonly StoredRecord[] {
    return [...this.seen.values()];
  }

  /** Gives what was written, one merged change per record, in the order of the first write. */
  *changes(): Generator<GuardedChange> {
    for (const layer of this.layers.values()) {
      const change = mergedChange(layer);
      const version = layer.base?.version;
      if (change) yield { change, ...(version !== undefined && { version }) };
    }
  }

  private async applyOne(change: RecordChange): Promise<ApplyResult> {
    const key = refKey(change.ref);
    // A record that is to be created has an id of ours, which no system knows.
    const present =
      change.kind === 'create' && !this.layers.has(key) ? undefined : await this.get(change.ref);
    const applied = applyChange(change, present?.record);
    if (!applied.ok) {
      return { ok: false, problem: { code: 'changed in between', message: applied.because, retry: true } };
    }
    const base = this.layers.has(key) ? this.layers.get(key)?.base : present;
    this.layers.set(key, { ref: change.ref, base, now: applied.record });
    return { ok: true, record: applied.record };
  }

  private remember<T extends StoredRecord | undefined>(stored: T): T {
    if (stored && !this.seen.has(refKey(stored.ref))) this.seen.set(refKey(stored.ref), stored);
    return stored;
  }
}

function mergedChange({ ref, base, now }: Layer): RecordChange | undefined {
  if (!base) return now && { kind: 'create', ref, record: now };
  if (!now) return { kind: 'remove', ref: base.ref, record: base.record };
  const edits = editsBetween(base.record, now);
  return edits.length === 0 ? undefined : { kind: 'edit', ref: base.ref, edits };
}
