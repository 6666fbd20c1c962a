import { Budget, costOf } from './budget';
import { FormulaError, type Span } from './error';
import { functionNamed, formulaFunctions } from './functions';
import { familyEffort, type FormFunction, type OrdinaryFunction, type Param } from './functions/define';
import { typeName } from './names';
import { negate } from './numeric';
import { operation, operatorType } from './operators';
import { unknownName } from './nearest';
import { parse } from './parser';
import type { Env, Scope } from './scope';
import type { Node } from './tree';
import { any, blank, boolean, decimal, describeType, integer, isOpen, text, union, type Type } from './type';
import type { Evaluate, Follow, Typed, TypingContext, Use } from './typed';
import { Exact, isNumberValue, settleNumber, type Value } from './value';

/** A formula ready to run. */
export interface Formula {
  readonly source: string;
  readonly tree: Typed;
  readonly type: Type;
  /** Begins a computation of its parts one by one, which together may cost as much as the whole. */
  readonly begin: () => void;
  readonly run: Evaluate;
  /** The fields that it reads. */
  readonly uses: readonly Use[];
  /** The references that it follows, nearer ones first. */
  readonly follows: readonly Follow[];
  /** The lookup tables that it reads. */
  readonly tables: readonly string[];
}

export type Compiled =
  | { readonly ok: true; readonly formula: Formula }
  | { readonly ok: false; readonly errors: readonly FormulaError[] };

/** Reads, types and compiles formula text once; the closure then runs for any number of records. */
export function compile(source: string, scope: Scope): Compiled {
  const node = parse(source);
  if (node instanceof FormulaError) return { ok: false, errors: [node] };
  const errors: FormulaError[] = [];
  const uses: Use[] = [];
  const tables = new Set<string>();
  const follows: Follow[] = [];
  const budget = new Budget();
  const context: TypingContext = {
    scope,
    errors,
    uses,
    tables,
    follows,
    budget,
    type: (part) => typeNode(part, context),
    typeIn: typeNode,
  };
  const tree = context.type(node);
  if (errors.length > 0) return { ok: false, errors };
  const begin = () => budget.begin();
  // A field or a constant by itself costs nothing that is counted.
  const free = tree.children.length === 0 && tree.node.kind !== 'call' && tree.type.kind !== 'list';
  const run: Evaluate = free
    ? tree.run
    : (env) => {
        budget.begin();
        return tree.run(env);
      };
  return {
    ok: true,
    formula: { source, tree, type: tree.type, begin, run, uses, follows, tables: [...tables] },
  };
}

function typeNode(node: Node, context: TypingContext): Typed {
  const typed = typeKind(node, context);
  if (!(typed instanceof FormulaError)) return typed;
  context.errors.push(typed.at(node.place));
  // Typing goes on with an unknown type, so that one mistake is reported once and others are still found.
  return { node, type: any, children: [], run: () => typed };
}

function typeKind(node: Node, context: TypingContext): Typed | FormulaError {
  switch (node.kind) {
    case 'text': {
      const { value } = node;
      return { node, type: value === '' ? blank : text, children: [], run: () => value };
    }
    case 'number': {
      const value = settleNumber(new Exact(node.value));
      return { node, type: typeof value === 'number' ? integer : decimal, children: [], run: () => value };
    }
    case 'boolean': {
      const { value } = node;
      return { node, type: boolean, children: [], run: () => value };
    }
    case 'name':
      return typeName(node, context);
    case 'list':
      return typeList(node, context);
    case 'sign':
    case 'percent':
      return typeUnary(node, context);
    case 'binary':
      return typeBinary(node, context);
    case 'call':
      return typeCall(node, context);
  }
}

function typeList(node: Extract<Node, { kind: 'list' }>, context: TypingContext): Typed {
  const children = node.items.map(context.type);
  const of = children.reduce<Type>((type, child) => union(type, child.type), blank);
  const run = (env: Env): Value => {
    const values = children.map((child) => child.run(env));
    return values.find((value) => value instanceof FormulaError) ?? values;
  };
  return { node, type: { kind: 'list', of }, children, run };
}

function typeUnary(node: Extract<Node, { kind: 'sign' | 'percent' }>, context: TypingContext): Typed {
  const child = context.type(node.of);
  requireType(child, decimal, node.kind === 'percent' ? '%' : node.operator, context);
  const compute = (value: Value): Value => {
    if (value === null || value instanceof FormulaError) return value;
    if (!isNumberValue(value)) return new FormulaError('type', 'A number is wanted here.', node.of.place);
    if (node.kind === 'percent') return settleNumber(Exact.div(value, 100));
    return node.operator === '-' ? negate(value) : value;
  };
  const type = child.type.kind === 'integer' && node.kind === 'sign' ? integer : decimal;
  return { node, type, children: [child], run: (env) => compute(child.run(env)) };
}

function typeBinary(node: Extract<Node, { kind: 'binary' }>, context: TypingContext): Typed | FormulaError {
  const left = context.type(node.left);
  const right = context.type(node.right);
  const type = operatorType(node.operator, left.type, right.type);
  if (typeof type === 'string') {
    const joins = node.operator === '+' && [left, right].some(({ type: { kind } }) => kind === 'text');
    const operator = { start: node.left.place.end, end: node.right.place.start };
    return joins
      ? new FormulaError('type', `${type} “&” joins text.`, operator, { wrong: '+', right: '&' })
      : new FormulaError('type', type, node.place);
  }
  const operate = operation(node.operator, left.type, right.type);
  const { budget } = context;
  const run =
    node.operator === '&'
      ? (env: Env): Value => {
          const joined = operate(left.run(env), right.run(env));
          return placed(typeof joined === 'string' ? budget.text(joined) : joined, node);
        }
      : node.operator === '*' || node.operator === '^'
        ? (env: Env): Value => placed(budget.number(operate(left.run(env), right.run(env))), node)
        : (env: Env): Value => placed(operate(left.run(env), right.run(env)), node);
  return { node, type, children: [left, right], run };
}

function typeCall(node: Extract<Node, { kind: 'call' }>, context: TypingContext): Typed | FormulaError {
  const entry = functionNamed(node.name);
  if (!entry) {
    const names = formulaFunctions.map(({ name }) => name);
    return unknownName(`There is no function ${node.name}.`, node.name, names, node.place);
  }
  return entry.kind === 'form' ? typeForm(entry, node, context) : typeOrdinary(entry, node, context);
}

function typeForm(entry: FormFunction, node: Extract<Node, { kind: 'call' }>, context: TypingContext) {
  const typed = entry.type(node, context);
  if (typed instanceof FormulaError) return typed;
  const run = (env: Env): Value => {
    try {
      return placed(typed.run(env), node);
    } catch (thrown) {
      return placed(thrownBy(entry.name, thrown), node);
    }
  };
  return { ...typed, run };
}

function typeOrdinary(
  entry: OrdinaryFunction,
  node: Extract<Node, { kind: 'call' }>,
  context: TypingContext,
): Typed | FormulaError {
  const least = entry.params.filter((param) => !param.optional).length;
  const children = node.args.map(context.type);
  if (children.length < least || (children.length > entry.params.length && !entry.rest)) {
    return new FormulaError('syntax', `${entry.name} is written ${signature(entry)}.`, node.place);
  }
  const params = children.map((_child, at) => entry.params[at] ?? entry.rest);
  children.forEach((child, at) => {
    const param = params[at];
    if (param) requireType(child, param.type, `“${param.name}” of ${entry.name}`, context);
  });
  const types = children.map((child) => child.type);
  const type = typeof entry.result === 'function' ? entry.result(types) : entry.result;
  return { node, type, children, run: caller(entry, node, children, { params, budget: context.budget }) };
}

/**
 * Computes the arguments, lets errors and blanks through, reads each by its parameter, and calls. Literals are read
 * once, when the formula is compiled. Whatever a function throws is an error of the formula.
 */
function caller(
  entry: OrdinaryFunction,
  node: Node,
  children: readonly Typed[],
  { params, budget }: { params: readonly (Param<unknown> | undefined)[]; budget: Budget },
): Evaluate {
  const { call, seesBlanks, effort = familyEffort[entry.family] ?? 1, textEffort = 1 } = entry;
  const fixed: unknown[] = children.map(() => undefined);
  const computed: { at: number; run: Evaluate; read: Param<unknown>['read']; place: Span }[] = [];
  let fixedCost = effort;
  children.forEach((child, at) => {
    const read = params[at]?.read ?? ((value: Value) => value);
    const literal = literalOf(child);
    const value = literal === undefined ? undefined : read(literal);
    if (literal === undefined || value === undefined || value instanceof FormulaError) {
      computed.push({ at, run: child.run, read, place: child.node.place });
    } else {
      fixed[at] = value;
      fixedCost += costOf(literal, textEffort);
    }
  });
  const called = (args: readonly unknown[], env: Env, cost: number): Value => {
    let result: Value | undefined = budget.spend(cost);
    if (result === undefined) {
      try {
        result = call(args, env);
      } catch (thrown) {
        result = thrownBy(entry.name, thrown);
      }
      if (typeof result === 'string') result = budget.text(result);
    }
    return result instanceof FormulaError ? result.at(node.place) : result;
  };
  const [only, ...others] = computed;
  if (only && others.length === 0 && !seesBlanks) {
    // Most calls have one argument to compute: this way is the same as the one below, without the loop.
    const { at, run, read, place } = only;
    const alone = fixed.length === 1;
    return (env) => {
      const value = run(env);
      if (value === null || value instanceof FormulaError) return value;
      const ready = read(value);
      if (ready instanceof FormulaError) return ready.at(place);
      const args = alone ? [ready] : fixed.slice();
      args[at] = ready;
      return called(args, env, fixedCost + costOf(value, textEffort));
    };
  }
  return (env) => {
    const args = fixed.slice();
    let cost = fixedCost;
    for (const { at, run, read, place } of computed) {
      const value = run(env);
      if (value instanceof FormulaError) return value;
      if (value === null && !seesBlanks) return null;
      const ready = read(value);
      if (ready instanceof FormulaError) return ready.at(place);
      args[at] = ready;
      cost += costOf(value, textEffort);
    }
    return called(args, env, cost);
  };
}

/** Returns what a function threw, as an error of the formula. */
function thrownBy(name: string, thrown: unknown): FormulaError {
  const why = thrown instanceof Error ? thrown.message : String(thrown);
  return new FormulaError('value', `${name} cannot compute this: ${why}`);
}

/** Returns the value of a literal, which needs no environment; undefined for everything else. */
export function literalOf({ node }: Typed): Value | undefined {
  switch (node.kind) {
    case 'text':
    case 'boolean':
      return node.value;
    case 'number':
      return settleNumber(new Exact(node.value));
    default:
      return undefined;
  }
}

function placed(value: Value, node: Node): Value {
  return value instanceof FormulaError ? value.at(node.place) : value;
}

function requireType(child: Typed, wanted: Type, by: string, context: TypingContext): void {
  if (isOpen(child.type) || wanted.kind === 'any' || accepts(wanted, child.type)) return;
  const message = `${by} takes ${describeType(wanted)}, and this is ${describeType(child.type)}.`;
  context.errors.push(new FormulaError('type', message, child.node.place));
}

function accepts(wanted: Type, given: Type): boolean {
  switch (wanted.kind) {
    case 'text':
      return given.kind !== 'list' && given.kind !== 'object';
    case 'decimal':
      return given.kind === 'decimal' || given.kind === 'integer';
    case 'integer':
      // A decimal may hold a whole number; that is seen when the formula runs.
      return given.kind === 'integer' || given.kind === 'decimal';
    default:
      return wanted.kind === given.kind;
  }
}

/** Returns how a function is written, for messages and documentation: `LEFT(text, [length])`. */
export function signature(entry: OrdinaryFunction | FormFunction): string {
  if (entry.kind === 'form') return `${entry.name}(${entry.parts})`;
  const params = entry.params.map((param) => (param.optional ? `[${param.name}]` : param.name));
  return `${entry.name}(${[...params, ...(entry.rest ? [`${entry.rest.name}, …`] : [])].join(', ')})`;
}
