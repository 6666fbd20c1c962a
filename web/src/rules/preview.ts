import {
  Catalog,
  compileRule,
  TableIndex,
  type LookupTable,
  type Rule,
  type RuleBody,
  type System,
} from '@vast-knot/core';

/** Every mistake in a draft, by its place: `guard`, `actions/0/lines/2/formula`. */
export type Mistakes = ReadonlyMap<string, string>;

/** Checks a draft against the schemas and tables. */
export function findMistakes(
  body: RuleBody,
  systems: readonly System[],
  tables: readonly LookupTable[],
): Mistakes {
  const result = compileRule({ ...body, id: '', version: 0 }, surroundings(systems, tables));
  const mistakes = new Map<string, string>();
  if (!result.ok)
    for (const { at, error } of result.problems) if (!mistakes.has(at)) mistakes.set(at, error.message);
  return mistakes;
}

/** The draft as it can be computed now: lines with mistakes are left out, so that the others keep their values. */
export function withoutBrokenLines(body: RuleBody, mistakes: Mistakes): RuleBody {
  return {
    ...body,
    actions: body.actions.map((action, at) => ({
      ...action,
      lines: action.lines.filter(
        (line, index) =>
          line.formula.trim() !== '' &&
          ![...mistakes.keys()].some((place) => place.startsWith(`actions/${at}/lines/${index}/`)),
      ),
    })),
  };
}

/** The rule without what narrows it, to fill the ledger also for a sample that would not start it. */
export function withoutConditions(rule: Rule): Rule {
  return {
    ...rule,
    guard: '',
    trigger: { ...rule.trigger, watched: [], kinds: ['created', 'updated', 'deleted'] },
  };
}

function surroundings(systems: readonly System[], tables: readonly LookupTable[]) {
  return {
    catalog: new Catalog(systems),
    tables: new Map(tables.map((table) => [table.name, new TableIndex(table)])),
  };
}
