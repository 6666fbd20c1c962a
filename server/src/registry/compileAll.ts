import {
  compileRule,
  tablesReadBy,
  type CompiledRule,
  type Rule,
  type RuleCompilation,
  type Surroundings,
} from '@vast-knot/core';

/** The published rules, compiled; kept from one registry to the next. */
export interface Compilations {
  readonly byRule: ReadonlyMap<string, RuleCompilation>;
  readonly told: {
    readonly rules: readonly CompiledRule[];
    readonly broken: readonly { readonly rule: Rule; readonly because: string }[];
  };
}

/** What there is to be compiled, and what of it has changed. */
export interface Compiling {
  /** In their order. */
  readonly rules: readonly Rule[];
  readonly surroundings: Omit<Surroundings, 'rules'>;
  /** What was compiled before; undefined to compile all. */
  readonly known: Compilations | undefined;
  readonly changedRules: ReadonlySet<string>;
  readonly changedTables: ReadonlySet<string>;
}

/** Compiles the rules that changed, those that read a changed table, and those that apply one of these; keeps the others. */
export function compileAll({
  rules,
  surroundings,
  known,
  changedRules,
  changedTables,
}: Compiling): Compilations {
  const byId = new Map(rules.map((rule) => [rule.id, rule]));
  const stale = known ? staleRules({ rules, changedRules, changedTables }) : undefined;
  const byRule = new Map(
    rules.map((rule): [string, RuleCompilation] => {
      const kept = stale?.has(rule.id) ? undefined : known?.byRule.get(rule.id);
      return [rule.id, kept ?? compileRule(rule, { ...surroundings, rules: byId })];
    }),
  );
  return {
    byRule,
    told: {
      rules: [...byRule.values()].flatMap((result) => (result.ok ? [result.compiled] : [])),
      broken: rules.flatMap((rule) => {
        const result = byRule.get(rule.id);
        return !result || result.ok
          ? []
          : [{ rule, because: result.problems[0]?.error.message ?? 'it does not compile' }];
      }),
    },
  };
}

/**
 * Returns the ids of the rules that have to be compiled anew: those that changed or read a changed table, and round by round those
 * that apply one of them, or one that is gone.
 */
function staleRules({
  rules,
  changedRules,
  changedTables,
}: Pick<Compiling, 'rules' | 'changedRules' | 'changedTables'>): ReadonlySet<string> {
  const present = new Set(rules.map(({ id }) => id));
  const stale = new Set(
    rules
      .filter(
        (rule) =>
          changedRules.has(rule.id) || [...tablesReadBy(rule)].some((table) => changedTables.has(table)),
      )
      .map(({ id }) => id),
  );
  let before: number;
  do {
    before = stale.size;
    for (const rule of rules)
      if (appliedBy(rule).some((id) => stale.has(id) || !present.has(id))) stale.add(rule.id);
  } while (stale.size > before);
  return stale;
}

function appliedBy({ actions }: Rule): readonly string[] {
  return actions.flatMap((action) => (action.kind === 'apply' ? [action.rule] : []));
}
