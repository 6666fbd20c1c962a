import type { Compiled } from '../formula/compile';
import type { Rule } from './rule';
import type { Catalog } from '../model/system';
import type { TableIndex } from '../table/tableIndex';

/** What rules are compiled against. */
export interface Surroundings {
  readonly catalog: Catalog;
  readonly tables: ReadonlyMap<string, TableIndex>;
  /** The other rules by id, for those that do what another does. */
  readonly rules?: ReadonlyMap<string, Rule>;
  /** The names of the endpoints that messages can be sent to; not checked where they are not known. */
  readonly endpoints?: ReadonlySet<string>;
  /** The names of the folders that files can be written to; not checked where they are not known. */
  readonly folders?: ReadonlySet<string>;
  /** Formulas compiled before, by their text and what its names mean; a rule that is edited is mostly as it was. */
  readonly compiled?: Map<string, Compiled>;
}
