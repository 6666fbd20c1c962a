import type { Catalog } from '../model/system';
import type { TableIndex } from '../table/tableIndex';

/** What rules are compiled against. */
export interface Surroundings {
  readonly catalog: Catalog;
  readonly tables: ReadonlyMap<string, TableIndex>;
}
