import type { Typed } from '../typed';
import { equalValues } from '../compare';
import { FormulaError } from '../error';
import type { Env } from '../scope';
import { boolean } from '../type';
import type { Value } from '../value';
import { anyParam, booleanParam, define, defineForm, integerParam } from './define';
import { conditionAt, needs, requireCondition, unionOf } from './conditions';

/** The branching functions beyond IF; they compute only the parts that they need. */
/** The values of IFS: each second part. */
const ifsValues = (parts: readonly Typed[]) => parts.filter((_part, at) => at % 2 === 1);

/** The values of SWITCH: each second one after what is looked at, and the last where it stands for all others. */
const switchValues = ([_subject, ...rest]: readonly Typed[]) =>
  rest.filter((_part, at) => at % 2 === 1 || (rest.length % 2 === 1 && at === rest.length - 1));

export const conditionalFunctions = [
  defineForm({
    name: 'IFS',
    family: 'logic',
    meaning: 'The value after the first condition that holds; blank when none does.',
    parts: 'condition, value, …',
    examples: [
      { formula: 'IFS(1 > 2, "a", 2 > 1, "b")', gives: '"b"' },
      { formula: 'IFS(FALSE, "a")', gives: 'blank' },
    ],
    gives: ifsValues,
    // Only a last condition that is TRUE as it is written lets nothing through.
    blank: (parts, mayBeBlank) => {
      const last = parts.at(-2)?.node;
      return !(last?.kind === 'boolean' && last.value) || ifsValues(parts).some(mayBeBlank);
    },
    source: 'ODF 1.3 part 4, 6.15 IFS; blank instead of an error for no match is our own',
    type: (call, context) => {
      const wrong = needs(call, 2, 254, 'condition, value, …');
      if (wrong) return wrong;
      if (call.args.length % 2 === 1) {
        return new FormulaError('syntax', 'IFS takes pairs: each condition needs its value.', call.place);
      }
      const children = call.args.map(context.type);
      const values = children.filter((_child, at) => at % 2 === 1);
      const conditions = children.filter((_child, at) => at % 2 === 0);
      conditions.forEach((condition) => requireCondition(condition, context));
      const run = (env: Env): Value => {
        for (const [at, condition] of conditions.entries()) {
          const holds = conditionAt(condition, env);
          if (holds instanceof FormulaError) return holds;
          if (holds) return values[at]?.run(env) ?? null;
        }
        return null;
      };
      return { node: call, type: unionOf(values), children, run };
    },
  }),
  defineForm({
    name: 'SWITCH',
    family: 'logic',
    meaning:
      'The value that stands after the first case equal to what is looked at; a last part without a case is for all others.',
    parts: 'looked at, case, value, …, otherwise',
    examples: [
      { formula: 'SWITCH("B", "A", 1, "B", 2, 9)', gives: '2' },
      { formula: 'SWITCH("Z", "A", 1)', gives: 'blank' },
    ],
    gives: switchValues,
    // Without a part for all others it has subject, cases and values in pairs.
    blank: (parts, mayBeBlank) => parts.length % 2 === 1 || switchValues(parts).some(mayBeBlank),
    source: 'ODF 1.3 part 4, 6.15 SWITCH; blank instead of an error for no match is our own',
    type: (call, context) => {
      const wrong = needs(call, 3, 255, 'looked at, case, value, …, otherwise');
      if (wrong) return wrong;
      const children = call.args.map(context.type);
      const [subject, ...rest] = children;
      if (!subject) return new FormulaError('syntax', 'A part is missing.', call.place);
      const otherwise = rest.length % 2 === 1 ? rest.at(-1) : undefined;
      const cases = rest.slice(0, rest.length - (otherwise ? 1 : 0)).filter((_part, at) => at % 2 === 0);
      const values = rest.slice(0, rest.length - (otherwise ? 1 : 0)).filter((_part, at) => at % 2 === 1);
      const run = (env: Env): Value => {
        const value = subject.run(env);
        if (value instanceof FormulaError) return value;
        for (const [at, candidate] of cases.entries()) {
          const equal = equalValues(value, candidate.run(env));
          if (equal instanceof FormulaError) return equal.at(candidate.node.place);
          if (equal) return values[at]?.run(env) ?? null;
        }
        return otherwise?.run(env) ?? null;
      };
      return { node: call, type: unionOf([...values, ...(otherwise ? [otherwise] : [])]), children, run };
    },
  }),
  defineForm({
    name: 'ISERROR',
    family: 'logic',
    meaning: 'Whether computing a value fails.',
    parts: 'value',
    examples: [
      { formula: 'ISERROR(1 / 0)', gives: 'TRUE' },
      { formula: 'ISERROR("fine")', gives: 'FALSE' },
    ],
    source: 'ODF 1.3 part 4, 6.13.13 ISERROR',
    type: (call, context) => {
      const children = call.args.map(context.type);
      const [tried] = children;
      const wrong = needs(call, 1, 1, 'value');
      if (wrong || !tried) return wrong ?? new FormulaError('syntax', 'A part is missing.', call.place);
      return { node: call, type: boolean, children, run: (env) => tried.run(env) instanceof FormulaError };
    },
  }),
  define({
    name: 'XOR',
    family: 'logic',
    meaning: 'Whether an odd number of the conditions hold.',
    params: [booleanParam('condition')],
    rest: booleanParam('condition'),
    result: boolean,
    examples: [
      { formula: 'XOR(TRUE, FALSE)', gives: 'TRUE' },
      { formula: 'XOR(TRUE, TRUE)', gives: 'FALSE' },
    ],
    flow: null,
    source: 'ODF 1.3 part 4, 6.15.10 XOR',
    call: (conditions) => conditions.filter(Boolean).length % 2 === 1,
  }),
  define({
    name: 'CHOOSE',
    family: 'logic',
    meaning: 'The value at a position among those given, from 1.',
    params: [integerParam('position'), anyParam('value')],
    rest: anyParam('value'),
    result: { kind: 'any' },
    examples: [
      { formula: 'CHOOSE(2, "N", "S", "E")', gives: '"S"' },
      { formula: 'CHOOSE(4, "N", "S", "E")', gives: 'error: value' },
    ],
    flow: null,
    gives: (parts) => parts.slice(1),
    source: 'ODF 1.3 part 4, 6.14.3 CHOOSE',
    call: ([position, ...values]) =>
      position >= 1 && position <= values.length
        ? (values[position - 1] as Value)
        : new FormulaError('value', `There is no value ${position}; ${values.length} are given.`),
  }),
];
