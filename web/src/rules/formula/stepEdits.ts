import {
  flowsInto,
  formulaFunctions,
  FormulaError,
  functionNamed,
  joining,
  parse,
  printChain,
  toChain,
  type Chain,
  type ChainStep,
  type Node,
  type Scope,
} from '@vast-knot/core';

/** Returns the chain of a formula; undefined while the text cannot be read. */
export function chainOf(formula: string): Chain | undefined {
  const node = parse(formula);
  return node instanceof FormulaError ? undefined : toChain(node);
}

/** A step that can be added: a function into which a value flows, or text that is joined to it. */
export interface StepChoice {
  readonly key: string;
  /** What it is called in the list. */
  readonly label: string;
  readonly meaning: string;
  readonly family: string;
}

const behind: StepChoice = {
  key: '& behind',
  label: 'behind it',
  meaning: 'Puts a text or another value behind it.',
  family: 'text',
};
const before: StepChoice = {
  key: '& before',
  label: 'before it',
  meaning: 'Puts a text or another value before it.',
  family: 'text',
};

/** All steps that can be added, those that join text first. */
export const stepChoices: readonly StepChoice[] = [
  behind,
  before,
  ...formulaFunctions
    .filter(({ name }) => flowsInto(name) !== undefined)
    .map(({ name, meaning, family }) => ({ key: name, label: name.toLowerCase(), meaning, family })),
];

/** Returns what a step does, in a sentence. */
export function stepMeaning({ name, before: ahead }: ChainStep): string | undefined {
  if (name === joining) return (ahead === 0 ? behind : before).meaning;
  return functionNamed(name)?.meaning;
}

export function withoutStep(chain: Chain, at: number): string {
  return printChain({ ...chain, steps: chain.steps.filter((_step, index) => index !== at) });
}

/** Moves a step one place towards the source (-1) or the end (1). */
export function movedStep(chain: Chain, at: number, by: 1 | -1): string {
  const steps = [...chain.steps];
  const [step] = steps.splice(at, 1);
  if (step) steps.splice(at + by, 0, step);
  return printChain({ ...chain, steps });
}

/** Returns the formula with another argument at one of its steps, or why the argument cannot be read. */
export function withArgument(
  chain: Chain,
  at: number,
  argument: number,
  text: string,
): string | FormulaError {
  const node = parse(text);
  if (node instanceof FormulaError) return node;
  const steps = chain.steps.map((step, index): ChainStep => {
    if (index !== at) return step;
    const args = [...step.args];
    args[argument] = node;
    return { ...step, args };
  });
  return printChain({ ...chain, steps });
}

/** Returns the formula with one more step at its end, whose arguments wait to be filled in. */
export function withStep(chain: Chain, key: string, scope: Scope | undefined): string {
  const joins = key === behind.key || key === before.key;
  const name = joins ? joining : key;
  const ahead = key === before.key ? 1 : (flowsInto(name) ?? 0);
  const args = (joins ? ['" "'] : firstArguments(name, scope)).flatMap((text): Node[] => {
    const node = parse(text);
    return node instanceof FormulaError ? [] : [node];
  });
  return printChain({ ...chain, steps: [...chain.steps, { name, args, before: ahead }] });
}

/** Returns what the parts of a step are called, without the one that flows through. */
export function argumentNames({ name, args: { length: count } }: ChainStep): readonly string[] {
  if (name === joining) return ['text or value'];
  const entry = functionNamed(name);
  if (!entry) return [];
  const names =
    entry.kind === 'form'
      ? entry.parts.split(', ').map((part) => part.replaceAll(/[[\]…]/g, ''))
      : [...entry.params, ...(entry.rest ? [entry.rest] : [])].map((param) => param.name);
  const flow = flowsInto(name) ?? 0;
  const others = names.filter((_name, at) => at !== flow);
  return Array.from(
    { length: Math.max(count, others.length) },
    (_none, at) => others[at] ?? others.at(-1) ?? '',
  );
}

/** Arguments to begin with: only those that a function cannot do without. */
function firstArguments(name: string, scope: Scope | undefined): readonly string[] {
  const entry = functionNamed(name);
  if (!entry) return [];
  if (entry.kind === 'ordinary') {
    const flow = flowsInto(name) ?? 0;
    return entry.params
      .filter((param, at) => at !== flow && !param.optional)
      .map(({ type }) => blankOf(type.kind));
  }
  const [table] = scope?.tables.values() ?? [];
  return entry.begins?.(table?.table) ?? ['""'];
}

function blankOf(kind: string): string {
  switch (kind) {
    case 'integer':
    case 'decimal':
      return '1';
    case 'boolean':
      return 'TRUE';
    case 'date':
      return 'TODAY()';
    default:
      return '""';
  }
}
