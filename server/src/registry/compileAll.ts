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
  const stale = (rule: Rule, seen: ReadonlySet<string> = new Set()): boolean =>
    changedRules.has(rule.id) ||
    [...tablesReadBy(rule)].some((table) => changedTables.has(table)) ||
    appliedBy(rule).some((id) => {
      const applied = byId.get(id);
      if (!applied || changedRules.has(id)) return true;
      return !seen.has(id) && stale(applied, new Set([...seen, id]));
    });
  const byRule = new Map(
    rules.map((rule): [string, RuleCompilation] => {
      const kept = known && !stale(rule) ? known.byRule.get(rule.id) : undefined;
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

function appliedBy({ actions }: Rule): readonly string[] {
  return actions.flatMap((action) => (action.kind === 'apply' ? [action.rule] : []));
}
