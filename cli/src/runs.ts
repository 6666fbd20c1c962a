import type { RuleView, RunPage, RunSummary } from '@vast-knot/core';
import { WrongInput } from './files';
import type { Say } from './say';
import { Refused, type Server } from './server';

interface RunsOptions {
  readonly rule?: string | undefined;
  readonly result?: string | undefined;
  /** An instant, ISO 8601. */
  readonly since?: string | undefined;
  readonly most?: string | undefined;
  readonly 'as-json'?: boolean | undefined;
}

/** Prints the last runs of a server, the newest first. Returns 1 where one of them failed, in part or wholly. */
export async function runs(
  server: Server,
  { rule, result, since, most = '100', 'as-json': json = false }: RunsOptions,
  say: Say,
): Promise<number> {
  const wanted = Number(most);
  if (!Number.isInteger(wanted) || wanted < 1 || wanted > 10_000)
    throw new WrongInput('--most says how many, from 1 to 10000.');
  const query = new URLSearchParams();
  if (rule !== undefined) query.set('rule', await idOf(server, rule));
  if (result !== undefined) query.set('result', result);
  else query.set('own', 'hidden');
  if (since !== undefined) query.set('from', since);
  const found: RunSummary[] = [];
  for (let next: string | null = ''; next !== null && found.length < wanted;) {
    if (next !== '') query.set('before', next);
    const page: RunPage = await server.ask<RunPage>('GET', `/runs?${query.toString()}`);
    found.push(...page.runs);
    next = page.next;
  }
  const shown = found.slice(0, wanted);
  if (json) say(JSON.stringify(shown, null, 2));
  else for (const run of shown) say(lineOf(run));
  return shown.some(hasFailed) ? 1 : 0;
}

const hasFailed = ({ state, result }: RunSummary) =>
  state === 'failed' || result === 'failed' || result === 'partly failed';

async function idOf(server: Server, name: string): Promise<string> {
  const all = await server.ask<readonly RuleView[]>('GET', '/rules');
  const found = all.find(({ id, draft }) => id === name || draft.name === name);
  if (!found) throw new Refused(`There is no rule “${name}”.`);
  return found.id;
}

function lineOf({ id, receivedAt, ref, recordName, state, result, writes, because }: RunSummary): string {
  const record = ref
    ? `${ref.system}/${ref.recordType}/${ref.id}${recordName === null ? '' : ` ${recordName}`}`
    : 'no record';
  const wrote = writes > 0 ? `, ${writes} written` : '';
  return `${id}  ${receivedAt}  ${result ?? state}${wrote}  ${record}${because === '' ? '' : `  ${because}`}`;
}
