import type { Compiled } from '../formula/compile';
import type { Catalog } from '../model/system';
import type { TableIndex } from '../table/tableIndex';

/** What rules are compiled against. */
export interface Surroundings {
  readonly catalog: Catalog;
  readonly tables: ReadonlyMap<string, TableIndex>;
  /** Formulas compiled before, by their text and what its names mean; a rule that is edited is mostly as it was. */
  readonly compiled?: Map<string, Compiled>;
}
