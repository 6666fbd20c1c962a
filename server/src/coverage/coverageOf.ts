import {
  compileRule,
  coverage,
  tableUses,
  type CoverageView,
  type Json,
  type RuleView,
} from '@vast-knot/core';
import { pagesOf } from '../connector/recordStore';
import type { Registry } from '../registry/registry';

/** Most records that are looked through for one look-up. */
const mostRecords = 20_000;
const pageSize = 500;
/** Keys without a row that an answer lists. */
const mostListed = 1000;

/** For each place where a rule as edited looks up the table: the keys that records of the source have, and no row has. */
export async function coverageOf(
  name: string,
  rules: readonly RuleView[],
  { catalog, tables, connectors }: Registry,
): Promise<CoverageView[]> {
  const index = tables.get(name);
  if (!index) return [];
  const views: CoverageView[] = [];
  for (const { id, draft } of rules) {
    const result = compileRule({ ...draft, id, version: 0 }, { catalog, tables });
    const compiledParts = result.ok ? result.compiled : result.compiledParts;
    for (const use of compiledParts ? tableUses(compiledParts, index) : []) {
      const store = connectors.get(use.system)?.records;
      // Rows of files and answers of forms come and go; there are no records of them to look through.
      if (!store) continue;
      const keys: (readonly Json[])[] = [];
      let records = 0;
      let more = false;
      for await (const page of pagesOf(store, { type: use.recordType, limit: pageSize })) {
        more = records >= mostRecords;
        if (more) break;
        for (const { record } of page) keys.push(...use.keysOf(record));
        records += page.length;
      }
      const { occurring, uncovered } = coverage(index, keys, use.possible);
      views.push({
        rule: { id, name: draft.name },
        at: use.at,
        formula: use.formula,
        system: use.system,
        recordType: use.recordType,
        records,
        more,
        occurring,
        uncovered: uncovered.slice(0, mostListed),
      });
    }
  }
  return views;
}
