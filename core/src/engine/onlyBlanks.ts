import type { CompiledRule } from './compiled';

const made = new WeakMap<CompiledRule, CompiledRule>();

/** Returns the rule with lines that fill in what is blank and leave everything else; always the same one for a rule. */
export function onlyBlanks(rule: CompiledRule): CompiledRule {
  const known = made.get(rule) ?? {
    ...rule,
    actions: rule.actions.map((action) => ({
      ...action,
      lines: action.lines.map((line) => ({ ...line, policy: 'target blank' as const })),
    })),
  };
  made.set(rule, known);
  return known;
}
