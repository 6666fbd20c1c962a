import {
  compileRule,
  coverage,
  tableUses,
  type CoverageView,
  type Json,
  type RuleView,
  type Surroundings,
} from '@vast-knot/core';
import type { Pages } from './door';

/** Most records that are looked through for one look-up. */
const mostRecords = 20_000;
/** Keys without a row that an answer lists. */
const mostListed = 1000;

/** Rules as they are edited. */
export type RulesAsEdited = readonly Pick<RuleView, 'id' | 'draft'>[];

/** For each place where a rule as edited looks up the table: the keys that records of the source have, and no row has. */
export async function coverageOf(
  name: string,
  rules: RulesAsEdited,
  { catalog, tables }: Pick<Surroundings, 'catalog' | 'tables'>,
  pages: Pages,
): Promise<CoverageView[]> {
  const index = tables.get(name);
  if (!index) return [];
  const views: CoverageView[] = [];
  for (const { id, draft } of rules) {
    const result = compileRule({ ...draft, id, version: 0 }, { catalog, tables });
    const compiledParts = result.ok ? result.compiled : result.compiledParts;
    for (const use of compiledParts ? tableUses(compiledParts, index) : []) {
      const { system, recordType: type } = use;
      const keys: (readonly Json[])[] = [];
      let records = 0;
      let page = await pages({ system, type, cursor: undefined });
      if (!page) continue;
      for (;;) {
        for (const { record } of page.records) keys.push(...use.keysOf(record));
        records += page.records.length;
        if (page.next === null || records >= mostRecords) break;
        const next = await pages({ system, type, cursor: page.next });
        if (!next) break;
        page = next;
      }
      const more = page.next !== null;
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
