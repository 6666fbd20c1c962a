import { parse } from '../formula/parser';
import { FormulaError } from '../formula/error';
import { childrenOf, type Node } from '../formula/tree';
import { patchDocument } from '../change/jsonPatch';
import { alias as aliasSchema } from '../model/names';
import type { Json } from '../model/json';
import { creates, targetName } from './actions';
import { formulasOf } from './formulasOf';
import type { RuleBody } from './rule';

/** Where a rule says the name of a record, beside its formulas: members of finds and of actions. */
const naming = ['alias', 'target', 'of'] as const;

/**
 * Returns a rule in which a found or created record has another name, wherever it is named: by the find or action itself, by actions that
 * write to it, and in formulas, where all but the name stays as it was typed. A formula with a mistake stays as it is.
 */
export function renamed(body: RuleBody, from: string, to: string): RuleBody {
  const formulas = formulasOf(body).flatMap(({ at, formula }) => {
    const next = formulaRenamed(formula, from, to);
    return next === formula ? [] : [{ op: 'replace' as const, path: `/${at}`, value: next }];
  });
  const members = [
    ...body.finds.map((part, at) => [`/finds/${at}`, part] as const),
    ...body.actions.map((part, at) => [`/actions/${at}`, part] as const),
  ].flatMap(([path, part]) =>
    naming.flatMap((member) => {
      const held: unknown = new Map<string, unknown>(Object.entries(part)).get(member);
      return held === from ? [{ op: 'replace' as const, path: `${path}/${member}`, value: to }] : [];
    }),
  );
  const patched = patchDocument(body as unknown as Json, [...formulas, ...members]);
  // Only texts were replaced by texts, so that it is a rule as it was.
  return patched.ok ? (patched.document as unknown as RuleBody) : body;
}

function formulaRenamed(formula: string, from: string, to: string): string {
  const tree = parse(formula);
  if (tree instanceof FormulaError) return formula;
  // From the last to the first, so that places before stay where they are.
  return namesIn(tree)
    .filter(({ path }) => path[0] === from)
    .sort((a, b) => b.place.start - a.place.start)
    .reduce((text, { place: { start } }) => {
      const isHere = text.startsWith(from, start);
      return isHere ? text.slice(0, start) + to + text.slice(start + from.length) : text;
    }, formula);
}

function namesIn(node: Node): readonly Extract<Node, { kind: 'name' }>[] {
  return node.kind === 'name' ? [node] : childrenOf(node).flatMap(namesIn);
}

/** Returns the names of records that a rule says, in its formulas and beside them, whether it has such records or not. */
export function recordsNamedIn(body: RuleBody): ReadonlySet<string> {
  const formulas = formulasOf(body).flatMap(({ formula }) => {
    const tree = parse(formula);
    return tree instanceof FormulaError ? [] : namesIn(tree).flatMap(({ path }) => path.slice(0, 1));
  });
  return new Set([...formulas, ...body.actions.map(targetName)]);
}

/** Returns the names that the records of a rule have: of its finds, and of what its actions create. */
export function namesOfRecords({ finds, actions }: RuleBody): readonly string[] {
  return [...finds.map(({ alias }) => alias), ...actions.filter(creates).map(targetName)];
}

/** Returns why a record cannot have a name, as a sentence; undefined where it can. Its own is free. */
export function nameProblem(body: RuleBody, own: string, name: string): string | undefined {
  if (name !== own && namesOfRecords(body).includes(name))
    return `Another record of this rule is called “${name}”.`;
  return aliasSchema.validate(name).error === undefined && name !== ''
    ? undefined
    : 'A name begins with a small letter and has letters, digits and _ only; record, before, target, event, input and item are taken.';
}

/** Returns a name that no record of a rule has: the one that is given, or with a number behind it. */
export function freeName(body: RuleBody, base: string): string {
  const taken = new Set(namesOfRecords(body));
  let name = base;
  for (let number = 2; taken.has(name); number++) name = `${base}${number}`;
  return name;
}

/**
 * Returns a rule in which a record whose type became another one is called after the new type, where it was called after the old one, with
 * or without a number. A name that somebody chose stays.
 */
export function calledAfter(body: RuleBody, name: string, before: string, after: string): RuleBody {
  const isUsual = name.startsWith(before) && /^\d*$/.test(name.slice(before.length));
  return isUsual && before !== after ? renamed(body, name, freeName(body, after)) : body;
}

/** Returns what a record is called at first that a find reaches. */
export function nameOfFound(type: string): string {
  const letters = type.replaceAll(/[^A-Za-z0-9_]/g, '').slice(0, 36);
  return /^[A-Za-z]/.test(letters) ? letters.charAt(0).toLowerCase() + letters.slice(1) : 'found';
}

/** Returns what a record is called at first that an action creates. */
export function nameOfCreated(type: string): string {
  const found = nameOfFound(type);
  return `new${found.charAt(0).toUpperCase()}${found.slice(1)}`;
}
