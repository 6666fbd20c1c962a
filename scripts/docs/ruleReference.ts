import type Joi from 'joi';
import { ruleBodySchema } from '@vast-knot/core';

const introduction = `# Rule reference

Made from the code by \`npm run docs\`: the schema that every rule from outside has to pass. Members that are not listed are refused.
Formulas are those of the [formula reference](formula.md). Paths of fields are dotted: \`address.town\`.

Rules run in their order, and each sees what those before it wrote. A rule is started once for a change: what it has seen does not
start it again, be it what the event changed, what a rule before it wrote, or what it wrote itself to the record that it started
from; what comes after it does. Writes that go round are stopped when a rule makes the very change that it made before, or after
eight steps; the rules in the circle are named, and what went round is not written.

A condition that cannot be computed is an error and not a “no”: of an action, it is not done for that record; of a find, its branch
ends. Branches beside it go on, unless the rule stops at errors. Branches that look in vain for the same record, which is then to be
created, create one. A rule may do what other rules do a hundred times in all, those that they do counted with them.

A path may lead into a list of objects where something is watched or read (\`lines.weight\`: the weight of any of its elements changed,
also with one that came or went). What is written is the whole list; under the policy \`never clear\` elements take the places of
those with their key, others come behind, and none is taken away. A line for an object writes its fields one by one: those that it does not
give are cleared, and what the schema does not know stays. An action with a list (\`each\`) that has no element creates nothing, and the
actions after it go on. Where several branches write one field of one record, they write it once; when they give it different
values, the first stays and the difference is an error.

| member | type | must be there | bounds |
| --- | --- | --- | --- |
`;

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

/** The reference page of the rule format, a row for each member, read from its Joi schema. */
export function ruleReference(): string {
  const described = (ruleBodySchema as Joi.ObjectSchema).describe() as Described;
  return `${introduction}${rows(described, '').join('\n')}\n`;
}

function rows(part: Described, path: string): string[] {
  const own =
    path === ''
      ? []
      : [
          `| \`${path}\` | ${part.type ?? 'any'} | ${part.flags?.presence === 'required' ? 'yes' : 'no'} | ${bounds(part)} |`,
        ];
  const members = Object.entries(part.keys ?? {}).flatMap(([name, member]) =>
    rows(member, path === '' ? name : `${path}.${name}`),
  );
  const items = (part.items ?? []).flatMap((item) => rows(item, `${path}[]`));
  const cases = (part.matches ?? [])
    .flatMap((match) => match.switch ?? [])
    .flatMap(({ then }) => (then ? rows(then, `${path}(${kindOf(then)})`) : []));
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
