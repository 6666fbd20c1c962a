import { functionNamed } from '../formula/functions';
import type { Saying } from '../formula/functions/traits';
import { literalOf } from '../formula/compile';
import type { Typed } from '../formula/typed';
import { toText } from '../formula/value';
import { print } from '../formula/print';
import { fieldAt } from '../model/system';
import type { Check, Finding, Subject } from './finding';

/** What a conjunction says about one name. */
interface Demands {
  /** Values that it may have; undefined for any. */
  allowed?: Set<string>;
  readonly excluded: Set<string>;
  blank?: boolean;
  above?: number;
  below?: number;
}

/** Returns what a part says as a condition, where it is a function that says something of its parts. */
function saying({ node }: Typed): Saying | undefined {
  return node.kind === 'call' ? functionNamed(node.name)?.says : undefined;
}

/** Returns the conditions that must all hold. */
export function conjuncts(typed: Typed): readonly Typed[] {
  return saying(typed) === 'all hold' ? typed.children.flatMap(conjuncts) : [typed];
}

function textOf(typed: Typed | undefined): string | undefined {
  const value = typed && literalOf(typed);
  return value === undefined ? undefined : toText(value);
}

/** Returns why a condition can never hold; undefined when it may. */
function contradiction(typed: Typed, subject: Subject): string | undefined {
  if (typed.node.kind === 'boolean') return typed.node.value ? undefined : 'it says FALSE';
  if (saying(typed) === 'any holds') {
    const reasons = typed.children.map((part) => contradiction(part, subject));
    return reasons.includes(undefined) ? undefined : reasons[0];
  }
  const demands = new Map<string, Demands>();
  const of = (name: Typed): Demands => {
    const key = print(name.node);
    const known = demands.get(key) ?? { excluded: new Set<string>() };
    demands.set(key, known);
    return known;
  };
  for (const part of conjuncts(typed)) {
    if (part.node.kind === 'boolean' || saying(part) === 'any holds') {
      const reason = contradiction(part, subject);
      if (reason) return reason;
    }
    const reason = demand(part, of) ?? unknownOption(part) ?? notChangeable(part, subject);
    if (reason) return reason;
  }
  for (const [name, { allowed, excluded, blank, above, below }] of demands) {
    if (allowed && [...allowed].every((value) => excluded.has(value))) {
      return `“${name}” cannot have all of the values asked for at once`;
    }
    if (blank === true && allowed && !allowed.has('')) return `“${name}” cannot be blank and have a value`;
    if (above !== undefined && below !== undefined && above >= below) {
      return `“${name}” cannot be more than ${above} and less than ${below}`;
    }
  }
  return undefined;
}

/** Collects what one condition asks of a name. Returns a reason when that alone cannot be. */
function demand(part: Typed, of: (name: Typed) => Demands): string | undefined {
  const { node, children } = part;
  const says = saying(part);
  const [left, right] = children;
  if (node.kind === 'binary' && left?.node.kind === 'name') {
    const value = textOf(right);
    if (value === undefined) return undefined;
    const known = of(left);
    if (node.operator === '=') narrow(known, new Set([value]));
    else if (node.operator === '<>') known.excluded.add(value);
    else if (right?.node.kind === 'number' || right?.node.kind === 'sign') {
      const number = Number(value);
      if (node.operator.startsWith('>'))
        known.above = Math.max(known.above ?? -Infinity, number - (node.operator === '>=' ? 1e-9 : 0));
      if (node.operator.startsWith('<'))
        known.below = Math.min(known.below ?? Infinity, number + (node.operator === '<=' ? 1e-9 : 0));
    }
  } else if (says === 'is one of' && left?.node.kind === 'name') {
    const values = children
      .slice(1)
      .flatMap((child) => (child.node.kind === 'list' ? child.children : [child]))
      .map(textOf);
    if (!values.includes(undefined)) narrow(of(left), new Set(values.map(String)));
  } else if (says === 'is blank' && left?.node.kind === 'name') {
    of(left).blank = true;
  } else if (says === 'does not hold' && left && saying(left) === 'is blank') {
    const [name] = left.children;
    if (name?.node.kind === 'name' && of(name).blank === true)
      return `“${print(name.node)}” cannot be blank and not blank`;
  }
  return undefined;
}

function narrow(known: Demands, values: Set<string>): void {
  known.allowed = known.allowed ? new Set([...known.allowed].filter((value) => values.has(value))) : values;
}

/** Returns a choice compared with what is none of its options. */
function unknownOption({ node, children }: Typed): string | undefined {
  if (node.kind !== 'binary' || node.operator !== '=') return undefined;
  const choice = children.find(({ type }) => type.kind === 'choice');
  const value = textOf(children.find((child) => child !== choice));
  if (choice?.type.kind !== 'choice' || value === undefined || value === '') return undefined;
  const { options } = choice.type;
  return options.length === 0 || options.includes(value)
    ? undefined
    : `“${print(choice.node)}” has no option “${value}”`;
}

/** CHANGED of a field whose change does not start the rule. */
function notChangeable(typed: Typed, { rule, compiledParts }: Subject): string | undefined {
  const { node } = typed;
  if (node.kind !== 'call' || saying(typed) !== 'changed' || !compiledParts) return undefined;
  const { kinds } = rule.trigger;
  if (kinds.length === 1 && kinds[0] === 'created') return undefined;
  const paths = node.args.flatMap((arg) => (arg.kind === 'name' ? [arg.path.join('.')] : []));
  const fixed = paths.every((path) => {
    const field = fieldAt(compiledParts.recordType.fields, path);
    return field?.keptBySystem ?? false;
  });
  return fixed && paths.length > 0
    ? `${paths.join(', ')} is kept by the system and never counts as changed`
    : undefined;
}

/** Guards that no record can meet. */
export const guardNeverHolds: Check = {
  kind: 'guard never holds',
  meaning: 'The guard asks for what no record can have, so that the rule never writes anything.',
  find: (subject): Omit<Finding, 'kind'>[] => {
    const guard = subject.compiledParts?.guard;
    const reason = guard && contradiction(guard.tree, subject);
    if (reason === undefined) return [];
    return [{ severity: 'error', at: 'guard', message: `The guard can never hold: ${reason}.` }];
  },
};
