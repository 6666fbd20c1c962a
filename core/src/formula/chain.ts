import type { Formula } from './compile';
import { functionNamed } from './functions';
import { print } from './print';
import type { Env } from './scope';
import type { Node } from './tree';
import type { Typed } from './typed';
import type { Value } from './value';

/** A function in a chain, with its arguments beside the value that flows through. */
export interface ChainStep {
  readonly name: string;
  readonly args: readonly Node[];
  /** How many of the arguments stand before the value. */
  readonly before: number;
}

/** A formula read from the inside out: `UPPER(LEFT(name, 4))` is `name`, then left 4, then upper. */
export interface Chain {
  readonly source: Node;
  readonly steps: readonly ChainStep[];
}

/** At which argument the value flows into a function; undefined for one that combines or chooses between several. */
export function flowsInto(name: string): number | undefined {
  const entry = functionNamed(name);
  if (!entry) return undefined;
  if (entry.flow !== undefined) return entry.flow ?? undefined;
  return entry.kind === 'ordinary' && entry.params.length > 0 ? 0 : undefined;
}

/** Takes the functions around a value off, one after the other. What is left in the middle is the source. */
export function toChain(node: Node): Chain {
  const steps: ChainStep[] = [];
  let here = node;
  while (here.kind === 'call') {
    const at = flowsInto(here.name);
    const subject = at === undefined ? undefined : here.args[at];
    if (at === undefined || !subject) break;
    steps.unshift({ name: here.name, args: here.args.filter((_arg, index) => index !== at), before: at });
    here = subject;
  }
  return { source: here, steps };
}

/** Returns the tree of a chain again. */
export function fromChain({ source, steps }: Chain): Node {
  return steps.reduce<Node>(
    (subject, { name, args, before }) => ({
      kind: 'call',
      name,
      args: [...args.slice(0, before), subject, ...args.slice(before)],
      place: source.place,
    }),
    source,
  );
}

/** Returns the text of a chain as a formula. */
export function printChain(chain: Chain): string {
  return print(fromChain(chain));
}

/** A chain with the value after each of its steps, for the record at hand. */
export interface ExplainedChain {
  readonly source: { readonly text: string; readonly value: Value };
  readonly steps: readonly (ChainStep & { readonly value: Value })[];
}

/** Computes a formula step by step, from the value that goes in to the one that comes out. */
export function explainChain(formula: Formula, env: Env): ExplainedChain {
  formula.begin();
  const steps: (ChainStep & { value: Value })[] = [];
  let here: Typed = formula.tree;
  for (const step of [...toChain(here.node).steps].reverse()) {
    const { node } = here;
    const subject = node.kind === 'call' ? node.args[step.before] : undefined;
    const inner = here.children.find((child) => child.node === subject);
    // A part that has no value by itself ends what can be taken off.
    if (!inner) break;
    steps.unshift({ ...step, value: here.run(env) });
    here = inner;
  }
  return { source: { text: print(here.node), value: here.run(env) }, steps };
}
