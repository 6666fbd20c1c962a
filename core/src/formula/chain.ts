import type { Formula } from './compile';
import { functionNamed } from './functions';
import { print } from './print';
import type { Env } from './scope';
import { childrenOf, type Node } from './tree';
import type { Typed } from './typed';
import type { Value } from './value';

/** The name of the step that joins texts: `&`, with one argument behind the value, or before it. */
export const joining = '&';

/** A function in a chain, or a joining of texts, with its arguments beside the value that flows through. */
export interface ChainStep {
  readonly name: string;
  readonly args: readonly Node[];
  /** How many of the arguments stand before the value. */
  readonly before: number;
}

/** A formula read from the inside out: `UPPER(LEFT(name, 4) & "!")` is `name`, then left 4, then behind it "!", then upper. */
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
  for (;;) {
    const off = here.kind === 'binary' ? joined(here) : here.kind === 'call' ? called(here) : undefined;
    if (!off) return { source: here, steps };
    steps.unshift(off.step);
    here = off.subject;
  }
}

interface TakenOff {
  readonly step: ChainStep;
  readonly subject: Node;
}

function called({ name, args }: Extract<Node, { kind: 'call' }>): TakenOff | undefined {
  const at = flowsInto(name);
  const subject = at === undefined ? undefined : args[at];
  if (at === undefined || !subject) return undefined;
  // What a choice falls back to is where the value comes from only when it comes from somewhere.
  if (functionNamed(name)?.gives && isWritten(subject)) return undefined;
  return { step: { name, args: args.filter((_arg, index) => index !== at), before: at }, subject };
}

/** Of two joined texts the first flows through, unless that one is written out and the second is not. */
function joined({ operator, left, right }: Extract<Node, { kind: 'binary' }>): TakenOff | undefined {
  if (operator !== '&') return undefined;
  return isWritten(left) && !isWritten(right)
    ? { step: { name: joining, args: [left], before: 1 }, subject: right }
    : { step: { name: joining, args: [right], before: 0 }, subject: left };
}

function isWritten({ kind }: Node): boolean {
  return kind === 'text' || kind === 'number' || kind === 'boolean';
}

/** Returns a step in few words: `left 4`, `behind it " Ltd"`. */
export function stepWords({ name, args, before }: ChainStep): string {
  const texts = args.map(print);
  if (name === joining) return `${before === 0 ? 'behind it' : 'before it'} ${texts.join(' ')}`;
  return functionNamed(name)?.asStep?.(texts) ?? [name.toLowerCase(), ...texts].join(' ');
}

/** Returns the tree of a chain again. */
export function fromChain({ source, steps }: Chain): Node {
  return steps.reduce<Node>((subject, { name, args, before }) => {
    const all = [...args.slice(0, before), subject, ...args.slice(before)];
    const { place } = source;
    const [left, right] = all;
    return name === joining && left && right
      ? { kind: 'binary', operator: '&', left, right, place }
      : { kind: 'call', name, args: all, place };
  }, source);
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
    const subject = childrenOf(node)[step.before];
    const inner = here.children.find((child) => child.node === subject);
    // A part that has no value by itself ends what can be taken off.
    if (!inner) break;
    steps.unshift({ ...step, value: here.run(env) });
    here = inner;
  }
  return { source: { text: print(here.node), value: here.run(env) }, steps };
}
