import type { RuleView } from '@vast-knot/core';
import { WrongInput } from './files';
import type { Say } from './say';
import { Refused, type Server } from './server';

/** Prints the rules of a server, with whether they run. */
export async function rules(server: Server, json: boolean, say: Say): Promise<number> {
  const all = await server.ask<readonly RuleView[]>('GET', '/rules');
  if (json) say(JSON.stringify(all, null, 2));
  else
    for (const { id, draft, published } of all) say(`${id}  ${stateOf(published).padEnd(11)}  ${draft.name}`);
  return 0;
}

const stateOf = (published: RuleView['published']) => (published ? `version ${published.version}` : 'draft');

/** Puts the draft of a rule in force, or asks for that where it wants two. */
export async function publishRule(server: Server, name: string, note: string, say: Say): Promise<number> {
  const all = await server.ask<readonly RuleView[]>('GET', '/rules');
  const found = all.filter(({ id, draft }) => id === name || draft.name === name);
  const [rule, another] = found;
  if (!rule) throw new Refused(`There is no rule “${name}”.`);
  if (another)
    throw new WrongInput(
      `${found.length} rules are called “${name}”. Say which by its id: ${found.map(({ id }) => id).join(', ')}.`,
    );
  const { published, asked } = await server.ask<RuleView>('POST', `/rules/${rule.id}/publish`, {
    body: { note },
    ifMatch: rule.revision,
  });
  if (asked) say(`“${rule.draft.name}” waits for a second person to be published`);
  else say(`“${rule.draft.name}” runs as version ${published?.version ?? 0}`);
  return 0;
}
