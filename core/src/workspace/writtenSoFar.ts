import type { RecordChange } from '../change/recordChange';
import { sameValue } from '../model/equal';
import { readPath, writePath, type Json } from '../model/json';
import { refKey, type RecordRef, type StoredRecord } from '../model/record';
import { fieldAt, type Catalog } from '../model/system';
import { matches } from './matches';
import type { ApplyResult, GuardedChange, Search, Workspace } from './workspace';

/** A write that a plan of a run asked for. */
export interface DoneWrite {
  /** The record; one that was created has the id that its system gave it. */
  readonly ref: RecordRef;
  readonly change: RecordChange;
  /** Whether its system said that it was made; otherwise it may have been. */
  readonly made: boolean;
}

/** A field that earlier plans of a run wrote: what it held before the first, and what the last made of it. */
interface WrittenField {
  readonly before: Json | undefined;
  readonly after: Json | undefined;
}

/**
 * What earlier plans of a run have done in the systems, or may have done where no answer came. A plan that is made anew is computed as
 * if nothing of it were there: so it plans the same again, with all that follows from it, and what is there already is not sent twice.
 */
export class WrittenSoFar {
  /** Of the records that were read, the fields that still hold what was written. */
  private readonly still = new Map<string, ReadonlySet<string>>();

  static readonly nothing = new WrittenSoFar(new Set(), new Map());

  private constructor(
    /** Keys of records that it created. */
    private readonly created: ReadonlySet<string>,
    private readonly fields: ReadonlyMap<
      string,
      { readonly ref: RecordRef; readonly paths: Map<string, WrittenField> }
    >,
  ) {}

  /** Takes up what plans have done, in their order. */
  static of(done: readonly DoneWrite[]): WrittenSoFar {
    const created = new Set<string>();
    const fields = new Map<string, { ref: RecordRef; paths: Map<string, WrittenField> }>();
    for (const { ref, change, made } of done) {
      const key = refKey(ref);
      if (change.kind === 'create' && made) created.add(key);
      if (change.kind !== 'edit') continue;
      const known = fields.get(key) ?? { ref, paths: new Map<string, WrittenField>() };
      for (const { path, before, after } of change.edits) {
        const earlier = known.paths.get(path);
        known.paths.set(path, { before: earlier ? earlier.before : before, after });
      }
      fields.set(key, known);
    }
    return new WrittenSoFar(created, fields);
  }

  isCreated(ref: RecordRef): boolean {
    return this.created.has(refKey(ref));
  }

  /** Records of a type in which it wrote. */
  editedOf(system: string, recordType: string): readonly RecordRef[] {
    return [...this.fields.values()]
      .map(({ ref }) => ref)
      .filter((ref) => ref.system === system && ref.recordType === recordType);
  }

  /** Returns a record as it was before the run, as far as nobody has changed what the run wrote. */
  before(catalog: Catalog, stored: StoredRecord): StoredRecord {
    const written = this.fields.get(refKey(stored.ref));
    if (!written) return stored;
    const type = catalog.recordType(stored.ref.system, stored.ref.recordType);
    let { record } = stored;
    const still = [...written.paths].filter(([path, { after }]) =>
      sameValue(fieldAt(type?.fields ?? [], path), readPath(record, path), after),
    );
    for (const [path, { before }] of still) record = writePath(record, path, before);
    this.still.set(refKey(stored.ref), new Set(still.map(([path]) => path)));
    return { ...stored, record };
  }

  /** Returns a change without what its record holds already; undefined where nothing is left of it. */
  left(change: RecordChange): RecordChange | undefined {
    const written = this.fields.get(refKey(change.ref));
    if (change.kind !== 'edit' || !written) return change;
    const still = this.still.get(refKey(change.ref));
    const edits = change.edits.filter(
      ({ path, after }) => !still?.has(path) || !sameValue(undefined, written.paths.get(path)?.after, after),
    );
    return edits.length === 0 ? undefined : { ...change, edits };
  }
}

/** Records that a run wrote in which are looked at beside those that a search finds. */
const mostLookedAt = 100;

/** The systems as they were before a run, as far as nobody has changed what it wrote: what plans that are made anew are computed in. */
export class BeforeWorkspace implements Workspace {
  constructor(
    private readonly base: Workspace,
    private readonly catalog: Catalog,
    private readonly written: WrittenSoFar,
  ) {}

  async get(ref: RecordRef): Promise<StoredRecord | undefined> {
    const found = await this.base.get(ref);
    return found && this.written.before(this.catalog, found);
  }

  async find(search: Search): Promise<readonly StoredRecord[]> {
    const { system, recordType } = search;
    const found = await this.base.find(search);
    const known = new Set(found.map(({ ref }) => refKey(ref)));
    // What the run wrote itself may be why a record is not found any more.
    const edited = this.written.editedOf(system, recordType).filter((ref) => !known.has(refKey(ref)));
    const more = await Promise.all(edited.slice(0, mostLookedAt).map((ref) => this.base.get(ref)));
    const type = this.catalog.recordType(system, recordType);
    return [...found, ...more.flatMap((each) => each ?? [])]
      .map((each) => this.written.before(this.catalog, each))
      .filter(({ ref, record }) => !this.written.isCreated(ref) && matches(type, record, search));
  }

  apply(changes: readonly GuardedChange[]): Promise<readonly ApplyResult[]> {
    return this.base.apply(changes);
  }
}
