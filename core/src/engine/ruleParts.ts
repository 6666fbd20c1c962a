import Joi from 'joi';
import type { Find } from '../model/find';
import { findSchema } from '../model/find';
import { formulaText } from '../model/names';
import { actionSchema, creates, targetName, type Action } from './actions';
import { freeName, namesOfRecords, recordsNamedIn, renamed } from './renamed';
import { sameRule, type RuleBody } from './rule';

/** Which part of a rule: its guard, or one of its finds or actions, counted from 0. */
export type PartPlace = { readonly of: 'guard' } | { readonly of: 'finds' | 'actions'; readonly at: number };

/** A part of a rule by itself, to be put into another one, with the finds whose records it names. */
export interface RulePart {
  /** The version of the format. */
  readonly vastKnotPart: 1;
  readonly needs: readonly Find[];
  readonly find?: Find;
  readonly action?: Action;
  readonly guard?: Pick<RuleBody, 'guard' | 'becomesTrue'>;
}

const partSchema = Joi.object<RulePart>({
  vastKnotPart: Joi.valid(1).required(),
  needs: Joi.array().items(findSchema).max(20).required(),
  find: findSchema,
  action: actionSchema,
  guard: Joi.object({ guard: formulaText.required(), becomesTrue: Joi.boolean() }),
}).xor('find', 'action', 'guard');

/** Returns a part of a rule by itself; undefined where the rule has none at that place. */
export function partOf(body: RuleBody, place: PartPlace): RulePart | undefined {
  const own = ownOf(body, place);
  if (!own) return undefined;
  const at = place.of === 'finds' ? place.at : body.finds.length;
  return { vastKnotPart: 1, needs: neededBy(bodyOf(body, own, []), body.finds.slice(0, at)), ...own };
}

type Own = Pick<RulePart, 'find' | 'action' | 'guard'>;

function ownOf({ finds, actions, guard, becomesTrue }: RuleBody, place: PartPlace): Own | undefined {
  if (place.of === 'guard') return { guard: { guard, ...(becomesTrue && { becomesTrue }) } };
  const [find, action] = [finds[place.at], actions[place.at]];
  if (place.of === 'finds') return find && { find };
  return action && { action };
}

/** Returns a part as a rule that has nothing else, so that what is known of rules holds for it. */
function bodyOf(around: RuleBody, { find, action, guard }: Own, needs: readonly Find[]): RuleBody {
  return {
    ...around,
    guard: guard?.guard ?? '',
    finds: find ? [...needs, find] : needs,
    actions: action ? [action] : [],
  };
}

/** Returns those finds whose records a rule names, and those that these name in turn, in their order. */
function neededBy(body: RuleBody, finds: readonly Find[]): readonly Find[] {
  const own = new Set(namesOfRecords(body));
  return finds.reduceRight<readonly Find[]>((needs, find) => {
    const named = recordsNamedIn({ ...body, finds: [...needs, ...body.finds] });
    return named.has(find.alias) && !own.has(find.alias) ? [find, ...needs] : needs;
  }, []);
}

/** Returns a part as text for the clipboard. */
export function printPart(part: RulePart): string {
  return JSON.stringify(part, null, 2);
}

/** Reads a part from pasted text: undefined where the text is nothing of ours, a sentence where it is broken. */
export function readPart(text: string): RulePart | string | undefined {
  if (!text.includes('"vastKnotPart"')) return undefined;
  let read: unknown;
  try {
    read = JSON.parse(text);
  } catch {
    return 'What was pasted is a part of a rule that was cut off: it is no whole JSON.';
  }
  const { error, value } = partSchema.validate(read);
  return error ? `What was pasted is no part of a rule: ${error.message}.` : value;
}

/** A rule with a part put into it. */
export interface WithPart {
  readonly body: RuleBody;
  /** Where the part stands now. */
  readonly place: PartPlace;
  /** Finds that came along. */
  readonly along: readonly string[];
  /** What is called otherwise here, because its name was taken. */
  readonly names: readonly { readonly from: string; readonly to: string }[];
}

/**
 * Puts a part into a rule, as the last of its kind; a guard takes the place of the one that is there. A find that the part needs and the
 * rule has already, under whatever name, is not put in again. A name that is taken gets a number, also where the part itself says it.
 */
export function withPart(body: RuleBody, part: RulePart): WithPart {
  let needs = part.needs;
  let own: Own = part;
  let into = body;
  const along: string[] = [];
  const names: { from: string; to: string }[] = [];
  const call = (from: string, to: string, rest: readonly Find[]): readonly Find[] => {
    if (from !== to) names.push({ from, to });
    const known = renamed(bodyOf(body, own, rest), from, to);
    const [action] = known.actions;
    own = {
      ...(own.find && { find: known.finds.at(-1) ?? own.find }),
      ...(own.action && { action: action ?? own.action }),
      ...(own.guard && { guard: { ...own.guard, guard: known.guard } }),
    };
    return known.finds.slice(0, rest.length);
  };
  while (needs.length > 0) {
    const [find, ...rest] = needs;
    if (!find) break;
    const there = into.finds.find((each) => saysTheSame(into, each, find));
    const to = there?.alias ?? nameFor(into, bodyOf(body, own, rest), find.alias);
    const [called = find, ...others] = call(find.alias, to, [find, ...rest]);
    if (!there) {
      into = { ...into, finds: [...into.finds, called] };
      along.push(called.alias);
    }
    needs = others;
  }
  const made = own.find?.alias ?? (own.action && creates(own.action) ? targetName(own.action) : undefined);
  if (made !== undefined) call(made, freeName(into, made), []);
  if (own.find) into = { ...into, finds: [...into.finds, own.find] };
  if (own.action) into = { ...into, actions: [...into.actions, own.action] };
  if (own.guard) into = guarded(into, own.guard);
  const place: PartPlace = own.guard
    ? { of: 'guard' }
    : own.find
      ? { of: 'finds', at: into.finds.length - 1 }
      : { of: 'actions', at: into.actions.length - 1 };
  return { body: into, place, along, names };
}

/** Returns a name that is free in a rule, and that a part which is put into it does not use for something else. */
function nameFor(into: RuleBody, part: RuleBody, alias: string): string {
  const taken = {
    ...into,
    finds: [...into.finds, ...part.finds],
    actions: [...into.actions, ...part.actions],
  };
  return freeName(taken, alias);
}

/** Whether two finds reach the same records, whatever they call them. */
function saysTheSame(body: RuleBody, known: Find, other: Find): boolean {
  const alone = { ...body, guard: '', actions: [] };
  const called = renamed({ ...alone, finds: [other] }, other.alias, known.alias);
  return sameRule({ ...alone, finds: [known] }, called);
}

function guarded(body: RuleBody, { guard, becomesTrue }: Pick<RuleBody, 'guard' | 'becomesTrue'>): RuleBody {
  const { becomesTrue: _was, ...rest } = body;
  return { ...rest, guard, ...(becomesTrue && { becomesTrue }) };
}

/** Returns a rule in which a find or action stands one place earlier or later; as it was at either end. */
export function moved(body: RuleBody, of: 'finds' | 'actions', from: number, to: number): RuleBody {
  return of === 'finds'
    ? { ...body, finds: movedIn(body.finds, from, to) }
    : { ...body, actions: movedIn(body.actions, from, to) };
}

function movedIn<T>(parts: readonly T[], from: number, to: number): readonly T[] {
  const part = parts[from];
  if (part === undefined || to < 0 || to >= parts.length || from === to) return parts;
  return parts.toSpliced(from, 1).toSpliced(to, 0, part);
}

/** Returns a rule without one of its parts. */
export function withoutPart(body: RuleBody, of: 'finds' | 'actions', at: number): RuleBody {
  return of === 'finds'
    ? { ...body, finds: body.finds.toSpliced(at, 1) }
    : { ...body, actions: body.actions.toSpliced(at, 1) };
}
