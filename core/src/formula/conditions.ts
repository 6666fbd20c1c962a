import { FormulaError } from './error';
import { parse } from './parser';
import { print, printPath } from './print';
import type { BinaryOperator, Node } from './tree';

/** A condition as a tree of groups and tests: what a guard says, read as a list of sentences. */
export type Condition = ConditionGroup | ConditionTest | ConditionFormula;

/** `all` of the parts hold, `any` of them, or `none`. */
export interface ConditionGroup {
  readonly kind: 'group';
  readonly of: 'all' | 'any' | 'none';
  readonly parts: readonly Condition[];
}

/** A value held against others, each as the text of a formula. */
export interface ConditionTest {
  readonly kind: 'test';
  readonly test: TestName;
  readonly subject: string;
  readonly values: readonly string[];
}

/** What is no test of these: a formula as it stands. */
interface ConditionFormula {
  readonly kind: 'formula';
  readonly text: string;
}

export type TestName = (typeof conditionTests)[number]['name'];

/** One way of holding a value against others. */
interface TestKind {
  readonly name: string;
  /** How many values it takes; `many` for a list. */
  readonly values: 0 | 1 | 2 | 'many';
  readonly write: (subject: string, values: readonly string[]) => string;
  readonly read: (node: Node) => { readonly subject: string; readonly values: readonly string[] } | undefined;
}

const compared = <Name extends string>(name: Name, operator: BinaryOperator) => ({
  name,
  values: 1 as const,
  write: (subject: string, [value = '']: readonly string[]) => `${side(subject)} ${operator} ${side(value)}`,
  read: (node: Node) =>
    node.kind === 'binary' && node.operator === operator
      ? { subject: print(node.left), values: [print(node.right)] }
      : undefined,
});

const called = <Name extends string>(name: Name, functionName: string, values: 0 | 1 | 'many') => ({
  name,
  values,
  write: (subject: string, given: readonly string[]) => `${functionName}(${[subject, ...given].join(', ')})`,
  read: (node: Node) => {
    const args = argsOf(node, functionName);
    const [subject, ...rest] = args ?? [];
    const fits = values === 'many' ? rest.length > 0 : rest.length === values;
    return subject && fits ? { subject: print(subject), values: rest.map(print) } : undefined;
  },
});

/** The tests, in the order in which they are tried and offered: those that say more come before those that they are made of. */
export const conditionTests = [
  {
    name: 'changed from … to',
    values: 2,
    write: (subject, [from = '', to = '']) =>
      `AND(CHANGED(${subject}), ${beforeOf(subject)} = ${side(from)}, ${side(subject)} = ${side(to)})`,
    read: (node) => {
      const [changed, from, to] = ofLength(argsOf(node, 'AND'), 3);
      const subject = changedField(changed);
      const was = equalTo(from, subject && beforeOf(subject));
      const is = equalTo(to, subject);
      return subject !== undefined && was !== undefined && is !== undefined
        ? { subject, values: [was, is] }
        : undefined;
    },
  },
  {
    name: 'changed to',
    values: 1,
    write: (subject, [to = '']) => `AND(CHANGED(${subject}), ${side(subject)} = ${side(to)})`,
    read: (node) => {
      const [changed, to] = ofLength(argsOf(node, 'AND'), 2);
      const subject = changedField(changed);
      const is = equalTo(to, subject);
      return subject !== undefined && is !== undefined ? { subject, values: [is] } : undefined;
    },
  },
  {
    name: 'changed',
    values: 0,
    write: (subject) => `CHANGED(${subject})`,
    read: (node) => {
      const subject = changedField(node);
      return subject === undefined ? undefined : { subject, values: [] };
    },
  },
  {
    name: 'is between',
    values: 2,
    write: (subject, [least = '', most = '']) =>
      `AND(${side(subject)} >= ${side(least)}, ${side(subject)} <= ${side(most)})`,
    read: (node) => {
      const [from, to] = ofLength(argsOf(node, 'AND'), 2);
      if (from?.kind !== 'binary' || from.operator !== '>=' || to?.kind !== 'binary' || to.operator !== '<=')
        return undefined;
      const subject = print(from.left);
      return subject === print(to.left)
        ? { subject, values: [print(from.right), print(to.right)] }
        : undefined;
    },
  },
  {
    name: 'is not blank',
    values: 0,
    write: (subject) => `NOT(ISBLANK(${subject}))`,
    read: (node) => {
      const [inner] = ofLength(argsOf(node, 'NOT'), 1);
      const [subject] = ofLength(inner && argsOf(inner, 'ISBLANK'), 1);
      return subject && { subject: print(subject), values: [] };
    },
  },
  called('is blank', 'ISBLANK', 0),
  called('is one of', 'ONEOF', 'many'),
  called('contains', 'CONTAINS', 1),
  called('begins with', 'STARTSWITH', 1),
  called('ends with', 'ENDSWITH', 1),
  compared('is', '='),
  compared('is not', '<>'),
  compared('is at least', '>='),
  compared('is at most', '<='),
  compared('is more than', '>'),
  compared('is less than', '<'),
] as const satisfies readonly TestKind[];

const kinds: readonly (TestKind & { readonly name: TestName })[] = conditionTests;

/** Returns how many values a test takes. */
export function valuesOf(test: TestName): TestKind['values'] {
  return kinds.find(({ name }) => name === test)?.values ?? 0;
}

/** Reads a guard as a tree of conditions; undefined where it is no formula yet. */
export function toConditions(formula: string): Condition | undefined {
  if (formula.trim() === '') return { kind: 'group', of: 'all', parts: [] };
  const node = parse(formula);
  return node instanceof FormulaError ? undefined : read(node);
}

function read(node: Node): Condition {
  for (const { name, read: readAs } of kinds) {
    const found = readAs(node);
    if (found) return { kind: 'test', test: name, ...found };
  }
  for (const [of, args] of [
    ['all', argsOf(node, 'AND')],
    ['any', argsOf(node, 'OR')],
    ['none', negated(node)],
  ] as const) {
    if (args && args.length > 0) return { kind: 'group', of, parts: args.map(read) };
  }
  return { kind: 'formula', text: print(node) };
}

/** Returns the formula of a tree of conditions; groups without parts say nothing and are left out. */
export function fromConditions(condition: Condition): string {
  switch (condition.kind) {
    case 'formula':
      return condition.text;
    case 'test': {
      const { test, subject, values } = condition;
      return kinds.find(({ name }) => name === test)?.write(subject, values) ?? '';
    }
    case 'group': {
      const parts = condition.parts.map(fromConditions).filter((text) => text.trim() !== '');
      if (parts.length === 0) return '';
      const list = parts.join(', ');
      switch (condition.of) {
        case 'all':
          return `AND(${list})`;
        case 'any':
          return `OR(${list})`;
        case 'none':
          return `NOT(OR(${list}))`;
      }
    }
  }
}

function argsOf(node: Node, name: string): readonly Node[] | undefined {
  return node.kind === 'call' && node.name === name ? node.args : undefined;
}

function ofLength(args: readonly Node[] | undefined, length: number): readonly Node[] {
  return args?.length === length ? args : [];
}

/** Returns the parts of `NOT(OR(…))`. */
function negated(node: Node): readonly Node[] | undefined {
  const [inner] = ofLength(argsOf(node, 'NOT'), 1);
  return inner && argsOf(inner, 'OR');
}

/** Returns the one field of `CHANGED(field)`. */
function changedField(node: Node | undefined): string | undefined {
  const [field] = ofLength(node && argsOf(node, 'CHANGED'), 1);
  return field?.kind === 'name' ? print(field) : undefined;
}

function equalTo(node: Node | undefined, subject: string | undefined): string | undefined {
  const fits = node?.kind === 'binary' && node.operator === '=' && print(node.left) === subject;
  return fits ? print(node.right) : undefined;
}

/** Returns the name of a field of the record before the change. */
function beforeOf(subject: string): string {
  const node = parse(subject);
  return node instanceof FormulaError || node.kind !== 'name'
    ? `before.${subject}`
    : printPath(['before', ...node.path]);
}

/** Returns one side of a comparison, in brackets where it would bind less than the comparison. */
function side(text: string): string {
  const node = parse(text);
  const loose =
    !(node instanceof FormulaError) &&
    node.kind === 'binary' &&
    ['=', '<>', '<', '<=', '>', '>='].includes(node.operator);
  return loose ? `(${text})` : text;
}
