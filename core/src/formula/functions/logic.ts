import { isBlank } from '../compare';
import { FormulaError } from '../error';
import type { Env } from '../scope';
import { boolean } from '../type';
import type { Value } from '../value';
import { conditionAt, needs, requireCondition, unionOf } from './conditions';
import { anyParam, booleanParam, define, defineForm } from './define';

/** AND stops at the first no, OR at the first yes. */
function connective(name: 'AND' | 'OR', decides: boolean) {
  const word = decides ? 'any' : 'all';
  return defineForm({
    name,
    family: 'logic',
    says: decides ? 'any holds' : 'all hold',
    meaning: `Whether ${word} of the conditions hold; a blank one does not, and those after the deciding one are not computed.`,
    parts: 'condition, …',
    examples: [
      { formula: `${name}(TRUE, FALSE)`, gives: decides ? 'TRUE' : 'FALSE' },
      { formula: `${name}(${decides ? 'TRUE' : 'FALSE'}, 1 / 0 = 1)`, gives: decides ? 'TRUE' : 'FALSE' },
    ],
    source: `ODF 1.3 part 4, 6.15 ${name}; the stop at the first deciding part is our own`,
    type: (call, context) => {
      const children = call.args.map(context.type);
      children.forEach((child) => requireCondition(child, context));
      const run = (env: Env): Value => {
        for (const child of children) {
          const value = conditionAt(child, env);
          if (value instanceof FormulaError || value === decides) return value;
        }
        return !decides;
      };
      return needs(call, 1, 255, 'condition, …') ?? { node: call, type: boolean, children, run };
    },
  });
}

export const logicFunctions = [
  defineForm({
    name: 'IF',
    family: 'logic',
    meaning:
      'One of two values, as a condition holds or not; blank when it does not and there is no second value.',
    parts: 'condition, then, otherwise',
    flow: 2,
    asStep: ([condition = '', then = '']) => `if ${condition}, ${then} instead`,
    begins: () => ['TRUE', '""'],
    examples: [
      { formula: 'IF(2 > 1, "more", "less")', gives: '"more"' },
      { formula: 'IF(FALSE, 1)', gives: 'blank' },
    ],
    gives: (parts) => parts.slice(1),
    blank: (parts, mayBeBlank) => parts.length < 3 || parts.slice(1).some(mayBeBlank),
    source: 'ODF 1.3 part 4, 6.15.5 IF; blank instead of FALSE for a missing third part is our own',
    type: (call, context) => {
      const wrong = needs(call, 2, 3, 'condition, then, otherwise');
      const children = call.args.map(context.type);
      const [condition, yes, no] = children;
      if (wrong || !condition || !yes)
        return wrong ?? new FormulaError('syntax', 'A part is missing.', call.place);
      requireCondition(condition, context);
      const run = (env: Env): Value => {
        const holds = conditionAt(condition, env);
        if (holds instanceof FormulaError) return holds;
        return holds ? yes.run(env) : (no?.run(env) ?? null);
      };
      return { node: call, type: unionOf(children.slice(1)), children, run };
    },
  }),
  connective('AND', false),
  connective('OR', true),
  define({
    name: 'NOT',
    family: 'logic',
    meaning: 'Yes for no, and no for yes.',
    params: [booleanParam('condition')],
    result: boolean,
    examples: [
      { formula: 'NOT(TRUE)', gives: 'FALSE' },
      { formula: 'NOT(1 > 2)', gives: 'TRUE' },
    ],
    says: 'does not hold',
    source: 'ODF 1.3 part 4, 6.15.7 NOT',
    call: ([condition]) => !condition,
  }),
  define({
    name: 'ISBLANK',
    family: 'logic',
    meaning: 'Whether a value is blank; empty text is.',
    params: [anyParam('value')],
    result: boolean,
    seesBlanks: true,
    examples: [
      { formula: 'ISBLANK("")', gives: 'TRUE' },
      { formula: 'ISBLANK(0)', gives: 'FALSE' },
    ],
    says: 'is blank',
    source: 'ODF 1.3 part 4, 6.13.14 ISBLANK; that empty text counts is our own',
    call: ([value]) => isBlank(value),
  }),
  defineForm({
    name: 'COALESCE',
    family: 'logic',
    meaning: 'The first of the values that is not blank.',
    parts: 'value, …',
    flow: 0,
    asStep: (others) => `if blank, ${others.join(', else ')}`,
    examples: [
      { formula: 'COALESCE("", "second", "third")', gives: '"second"' },
      { formula: 'COALESCE(0, 1)', gives: '0' },
    ],
    gives: (parts) => parts,
    blank: (parts, mayBeBlank) => parts.every(mayBeBlank),
    source: 'own; the name is that of SQL, ISO/IEC 9075',
    type: (call, context) => {
      const children = call.args.map(context.type);
      const run = (env: Env): Value => {
        for (const child of children) {
          const value = child.run(env);
          if (value instanceof FormulaError || !isBlank(value)) return value;
        }
        return null;
      };
      return needs(call, 1, 255, 'value, …') ?? { node: call, type: unionOf(children), children, run };
    },
  }),
  defineForm({
    name: 'IFERROR',
    family: 'logic',
    meaning: 'The value, or another one when computing it fails.',
    parts: 'value, otherwise',
    flow: 0,
    asStep: ([otherwise = '']) => `if it fails, ${otherwise}`,
    examples: [
      { formula: 'IFERROR(1 / 0, 7)', gives: '7' },
      { formula: 'IFERROR(4, 7)', gives: '4' },
    ],
    gives: (parts) => parts,
    source: 'ODF 1.3 part 4, 6.15.6 IFERROR',
    type: (call, context) => {
      const wrong = needs(call, 2, 2, 'value, otherwise');
      const children = call.args.map(context.type);
      const [tried, otherwise] = children;
      if (wrong || !tried || !otherwise)
        return wrong ?? new FormulaError('syntax', 'A part is missing.', call.place);
      const run = (env: Env): Value => {
        const value = tried.run(env);
        return value instanceof FormulaError ? otherwise.run(env) : value;
      };
      return { node: call, type: unionOf(children), children, run };
    },
  }),
];
