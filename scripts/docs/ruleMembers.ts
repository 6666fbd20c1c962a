import type Joi from 'joi';
import { ruleBodySchema } from '@vast-knot/core';

/** A member of the rule format, as its schema says it. */
export interface RuleMember {
  /** `actions[](write).lines[].field`: a member of an element, of a case. */
  readonly path: string;
  readonly type: string;
  readonly required: boolean;
  /** What it may be, in words; values stand between grave accents. */
  readonly bounds: string;
}

interface Described {
  readonly type?: string;
  readonly flags?: { readonly presence?: string; readonly only?: boolean };
  readonly allow?: readonly unknown[];
  readonly keys?: Readonly<Record<string, Described>>;
  readonly items?: readonly Described[];
  /** Alternatives: what a part is in each case. */
  readonly matches?: readonly { readonly switch?: readonly { readonly then?: Described }[] }[];
  readonly rules?: readonly { readonly name: string; readonly args?: Readonly<Record<string, unknown>> }[];
}

/** Returns every member of the rule format in the order of its schema. */
export function ruleMembers(): readonly RuleMember[] {
  return membersOf((ruleBodySchema as Joi.ObjectSchema).describe() as Described, '');
}

function membersOf(part: Described, path: string): readonly RuleMember[] {
  const own =
    path === ''
      ? []
      : [
          {
            path,
            type: part.type ?? 'any',
            required: part.flags?.presence === 'required',
            bounds: bounds(part),
          },
        ];
  const members = Object.entries(part.keys ?? {}).flatMap(([name, member]) =>
    membersOf(member, path === '' ? name : `${path}.${name}`),
  );
  const items = (part.items ?? []).flatMap((item) => membersOf(item, `${path}[]`));
  const cases = (part.matches ?? [])
    .flatMap((match) => match.switch ?? [])
    .flatMap(({ then }) => (then ? membersOf(then, `${path}(${kindOf(then)})`) : []));
  return [...own, ...members, ...items, ...cases];
}

/** What tells a case from the others. */
function kindOf({ keys }: Described): string {
  return String((keys?.['kind'] ?? keys?.['do'])?.allow?.[0] ?? '');
}

function bounds({ allow = [], flags, rules = [] }: Described): string {
  const values = allow
    .filter((value) => typeof value === 'string' && value !== '')
    .map((value) => `\`${String(value)}\``);
  const limits = rules.flatMap(({ name, args }) => {
    const limit = args?.['limit'];
    if (name === 'max') return [`at most ${String(limit)}`];
    if (name === 'min') return [`at least ${String(limit)}`];
    if (name === 'pattern')
      return [String(args?.['options'] ? (args['options'] as { name?: string }).name : '')];
    return [];
  });
  const one = values.length > 0 && flags?.only ? [`one of ${values.join(', ')}`] : [];
  const empty = allow.includes('') ? ['may be empty'] : [];
  return [...one, ...empty, ...limits].join(', ');
}
