import { ruleMembers } from './ruleMembers';

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

/** The reference page of the rule format, a row for each member, read from its Joi schema. */
export function ruleReference(): string {
  const rows = ruleMembers().map(
    ({ path, type, required, bounds }) =>
      `| \`${path}\` | ${type} | ${required ? 'yes' : 'no'} | ${bounds} |`,
  );
  return `${introduction}${rows.join('\n')}\n`;
}
