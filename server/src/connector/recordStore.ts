import {
  WorkspaceError,
  type ApplyResult,
  type GuardedChange,
  type SearchCondition,
  type StoredRecord,
} from '@vast-knot/core';

/** Some of the records of a type, and where the next ones begin. */
export interface RecordsPage {
  readonly records: readonly StoredRecord[];
  /** The cursor of the next page; null on the last one. */
  readonly next: string | null;
  /** How many there are in all, where the system says so. */
  readonly total?: number;
}

/** Which records of a type are wanted. */
export interface PageRequest {
  readonly type: string;
  /** At most so many; a store may give fewer. */
  readonly limit: number;
  /** The cursor of an earlier page; without one, the first page. */
  readonly cursor?: string | undefined;
  /** Text that the system's own search looks for. */
  readonly search?: string;
  readonly conditions?: readonly SearchCondition[];
  /** Only what changed since then, as far as the system can be asked so: the mark of a change (`changeMark`). */
  readonly since?: number | undefined;
}

/**
 * Where the records of one system are: behind its connection or, for the system of Vast Knot itself, in our database. Reading
 * throws a WorkspaceError when the system does not answer or refuses.
 */
export interface RecordStore {
  /** Returns a record; undefined when there is none. */
  get(type: string, id: string): Promise<StoredRecord | undefined>;
  page(request: PageRequest): Promise<RecordsPage>;
  /** Returns all records that meet the conditions; with `most`, no more than so many. */
  find(type: string, conditions: readonly SearchCondition[], most?: number): Promise<StoredRecord[]>;
  /**
   * Edits, creates and removes records of a type. Returns a result for each change, in their order. A creation carries a key, so
   * that one that is asked for twice is made once; a record that is gone already counts as removed.
   */
  write(type: string, changes: readonly GuardedChange[]): Promise<readonly ApplyResult[]>;
  /** Edits of many records cost no more requests than that of one. */
  readonly takesMany?: boolean;
  /** Returns those of the records that are there; undefined for a store in which each has to be asked for alone. */
  readonly getMany?: ((type: string, ids: readonly string[]) => Promise<readonly StoredRecord[]>) | undefined;
}

/**
 * Gives all pages of a type, one after the other, from a cursor on; each with the cursor of the next. Throws a WorkspaceError where the system
 * gives a page that it gave before, and so would go on for ever.
 */
export async function* pagesFrom(
  store: Pick<RecordStore, 'page'>,
  request: PageRequest,
): AsyncGenerator<RecordsPage> {
  const cursors = new Set<string>();
  let { cursor } = request;
  let before = '';
  do {
    const page = await store.page({ ...request, cursor });
    const [first] = page.records;
    const ids = page.records.map(({ ref }) => ref.id).join('\n');
    const repeated =
      (page.records.length > 0 && ids === before) || (page.next !== null && cursors.has(page.next));
    if (repeated)
      throw new WorkspaceError({
        code: 'refused',
        message: `${first?.ref.system ?? 'The system'} gives the same page of ${request.type} again and again: how its pages are asked for is not as its connection describes.`,
        retry: false,
      });
    before = ids;
    yield page;
    cursor = page.next ?? undefined;
    if (cursor !== undefined) cursors.add(cursor);
  } while (cursor !== undefined);
}

/** As `pagesFrom`, from the first page on: the records alone. */
export async function* pagesOf(
  store: Pick<RecordStore, 'page'>,
  request: Omit<PageRequest, 'cursor'>,
): AsyncGenerator<readonly StoredRecord[]> {
  for await (const { records } of pagesFrom(store, request)) yield records;
}

/** Returns what a generator gives, asked for one step ahead. */
export async function* ahead<T>(steps: AsyncGenerator<T>): AsyncGenerator<T> {
  let next = steps.next();
  try {
    for (let step = await next; !step.done; step = await next) {
      next = steps.next();
      // Whoever waits for it hears of its failure.
      next.catch(() => undefined);
      yield step.value;
    }
  } finally {
    await next.catch(() => undefined);
    await steps.return(undefined);
  }
}
