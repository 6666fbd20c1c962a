import { Catalog, TableIndex, type LookupTable, type Surroundings, type System } from '@vast-knot/core';

/** The schemas and lookup tables that everything is computed against; it can be sent to a worker as it is. */
export interface Known {
  readonly systems: readonly System[];
  readonly tables: readonly LookupTable[];
}

const ready = new WeakMap<Known, Surroundings>();

/** Returns what rules are compiled against; made once for what is known. */
export function surroundingsOf(known: Known): Surroundings {
  let surroundings = ready.get(known);
  if (!surroundings) {
    surroundings = {
      catalog: new Catalog(known.systems),
      tables: new Map(known.tables.map((table) => [table.name, new TableIndex(table)])),
      compiled: new Map(),
    };
    ready.set(known, surroundings);
  }
  return surroundings;
}
